import { type ChangedType, type ContactView, type FieldFigures, type MergedChoice, type PutContactsAnswer } from '@eager-sieve/contracts';
import { TestServer } from './harness';

const is = (field: string, op: string, value: unknown) => ({ kind: 'field', field, op, value });
const sizes = [
  { key: 'small', name: 'Small' },
  { key: 'little', name: 'Little' },
  { key: 'large', name: 'Large' },
];

describe('fields', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [
        { key: 'size', name: 'Size of the workshop', type: 'one choice', options: sizes },
        { key: 'likes', name: 'Likes', type: 'several choices', options: sizes },
        { key: 'hours', name: 'Hours a week', type: 'text' },
        { key: 'number', name: 'Customer number', type: 'text' },
        { key: 'vat', name: 'VAT number', of: 'company', type: 'text', unique: true },
        { key: 'scale', name: 'Scale', of: 'company', type: 'one choice', options: sizes },
        { key: 'worth', name: 'Worth', of: 'deal', type: 'one choice', options: sizes },
      ],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [{ key: 't.small', name: 'small', family: 't' }],
      pipelines: [{ key: 'trade', name: 'Trade', stages: [{ key: 'open', name: 'open' }] }],
      audiences: [
        { key: 'little', name: 'Little ones', kind: 'live', condition: is('size', 'is', 'little') },
        { key: 'small', name: 'Small ones', kind: 'live', condition: is('size', 'is', 'small') },
        { key: 'firms', name: 'At little firms', kind: 'live', condition: { ...is('scale', 'is', 'little'), of: 'company' } },
        {
          key: 'deals',
          name: 'With a little deal',
          kind: 'live',
          condition: { kind: 'deal', where: [{ path: 'worth', op: 'is', value: 'little' }] },
        },
        { key: 'twelve', name: 'Twelve hours', kind: 'live', condition: is('hours', 'is', '12') },
      ],
      rules: [
        {
          key: 'tells',
          name: 'Tells of small ones',
          when: { kind: 'becomes', condition: is('size', 'is', 'small') },
          then: [{ do: 'add tag', tag: 't.small' }],
          on: true,
        },
      ],
    });
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'kiln', name: 'Kiln & Co', fields: { scale: 'little', vat: 'SE 1' } }] })
      .expect(200);
    await put(
      { email: 'c1@test.example', fields: { size: 'little', likes: ['little', 'large'], hours: '12', number: 'A 1' }, company: 'kiln' },
      { email: 'c2@test.example', fields: { size: 'small', likes: ['small', 'little'], hours: 'about twelve', number: 'A 2' } },
      { email: 'c3@test.example', fields: { size: 'large', hours: '30', number: 'a 1' } },
    );
    await server
      .call('put', '/api/v1/deals')
      .send({ deals: [{ outsideId: 'd1', contact: 'c3@test.example', pipeline: 'trade', stage: 'open', fields: { worth: 'little' } }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const put = async (...contacts: readonly object[]): Promise<PutContactsAnswer['results']> =>
    ((await server.call('put', '/api/v1/contacts').send({ contacts }).expect(200)).body as PutContactsAnswer).results;
  const facts = async (n: number): Promise<Record<string, unknown>> => {
    const { body } = await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200);
    return Object.fromEntries((body as ContactView).fields.map(({ key, value }) => [key, value]));
  };
  const members = async (key: string): Promise<string> =>
    (
      await server.database.query<{ who: string }>(
        `select left(c.email, 2) as who from membership m join contact c on c.id = m.contact_id join definition d on d.id = m.definition_id
          where d.key = $1 and d.kind = 'audience' order by 1`,
        [key],
      )
    )
      .map(({ who }) => who)
      .join(' ');
  const field = (key: string, ask: string, body: object, rehearse = false) =>
    server.call('post', `/api/app/fields/${key}/${ask}?rehearse=${rehearse}`).send(body);
  const figures = async (key: string): Promise<FieldFigures> =>
    (await server.call('get', `/api/app/fields/${key}/figures`).expect(200)).body as FieldFigures;

  it('says how many have a value, and each choice', async () => {
    expect(await figures('likes')).toEqual({
      ...{ all: 3, have: 2, shared: [] },
      choices: [
        { key: 'small', people: 1 },
        { key: 'little', people: 2 },
        { key: 'large', people: 1 },
      ],
    });
    expect((await figures('worth')).choices[1]).toEqual({ key: 'little', people: 1 });
  });

  it('does not let a choice go that somebody has', async () => {
    const answer = await server
      .call('put', '/api/v1/definitions')
      .send({ fields: [{ key: 'size', type: 'one choice', options: sizes.filter(({ key }) => key !== 'little') }] });
    expect(answer.body).toMatchObject({ status: 422, faults: [{ path: ['fields', 'size', 'options'], code: 'option.held' }] });
  });

  it('merges a choice into another for people, deals and definitions, and sets nothing off', async () => {
    for (const [key, people, names] of [
      ['size', 1, 'Little ones'],
      ['likes', 2, undefined],
      ['scale', 1, 'At little firms'],
      ['worth', 1, 'With a little deal'],
    ] as const) {
      const told = (await field(key, 'merge-choice', { choice: 'little', into: 'small' }, true).expect(200)).body as MergedChoice;
      expect([told.people, told.definitions.map(({ name }) => name), told.refused]).toEqual([people, names ? [names] : [], []]);
      await field(key, 'merge-choice', { choice: 'little', into: 'small' }).expect(200);
    }
    await server.idle();
    expect((await facts(1))['size']).toBe('small');
    expect((await facts(1))['likes']).toEqual(['large', 'small']);
    expect((await facts(2))['likes']).toEqual(['small']);
    expect(await Promise.all(['little', 'small', 'firms', 'deals'].map(members))).toEqual(['c1 c2', 'c1 c2', 'c1', 'c3']);
    const { body } = await server.call('get', '/api/v1/contacts/c1@test.example').expect(200);
    expect((body as ContactView).tags).toEqual([]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('understands what still comes with the choice that went', async () => {
    await put({ email: 'c3@test.example', fields: { size: 'Little' } });
    await server.idle();
    expect((await facts(3))['size']).toBe('small');
    expect(await members('small')).toBe('c1 c2 c3');
  });

  it('does not merge a choice into itself, or into one that went', async () => {
    for (const into of ['small', 'little']) await field('size', 'merge-choice', { choice: 'small', into }).expect(422);
  });

  it('changes the type of a field: says what does not fit, and hands on what does', async () => {
    const told = (await field('hours', 'change-type', { type: 'number' }, true).expect(200)).body as ChangedType;
    expect(told).toMatchObject({ field: null, have: 3, stay: 1, examples: [{ value: 'about twelve', people: 1 }] });
    // A text is, and a number equals.
    expect(told.refused.map(({ item }) => item)).toEqual(['audience twelve']);
    await server.define({
      audiences: [{ key: 'twelve', name: 'Twelve hours', kind: 'live', condition: { ...is('hours', 'is filled', undefined) } }],
    });
    await server.idle();
    const done = (await field('hours', 'change-type', { type: 'number' }).expect(200)).body as ChangedType;
    await server.idle();
    expect(done).toMatchObject({ field: 'hours-a-week', refused: [], definitions: [{ name: 'Twelve hours' }] });
    expect([(await facts(1))['hours-a-week'], (await facts(2))['hours-a-week'], (await facts(3))['hours-a-week']]).toEqual([
      12,
      undefined,
      30,
    ]);
    expect(await members('twelve')).toBe('c1 c3');
    expect((await server.verify()).differences).toBe(0);
    // Programs may go on to send the old key, with what the new field takes.
    await put({ email: 'c2@test.example', fields: { hours: 14 } });
    await server.idle();
    expect((await facts(2))['hours-a-week']).toBe(14);
    expect(await members('twelve')).toBe('c1 c2 c3');
  });

  it('does not change the type of what every workspace has', async () => {
    await field('phone', 'change-type', { type: 'text' }, true).expect(422);
    await field('expected-close', 'change-type', { type: 'text' }, true).expect(422);
  });

  it('makes choices of what people wrote', async () => {
    const told = (await field('number', 'change-type', { type: 'one choice' }, true).expect(200)).body as ChangedType;
    expect([told.stay, [...told.choices].map((each) => each.toLowerCase()).sort()]).toEqual([0, ['a 1', 'a 2']]);
  });

  it('does not make a field unique while two have the same', async () => {
    const unique = { fields: [{ key: 'number', name: 'Customer number', type: 'text', unique: true }] };
    expect((await server.call('put', '/api/v1/definitions').send(unique)).body).toMatchObject({
      status: 422,
      faults: [{ code: 'field.shared', expected: 'different values, but 2 have the same' }],
    });
    await put({ email: 'c3@test.example', fields: { number: 'A 3' } });
    await server.idle();
    await server.define(unique);
  });

  it('refuses a value that another one has, however it is written, and makes nobody of it', async () => {
    const results = await put(
      { email: 'new@test.example', fields: { number: ' a 1 ' } },
      { email: 'c1@test.example', fields: { number: 'a 1' } },
      { email: 'fresh@test.example', fields: { number: 'A 9' } },
      { email: 'late@test.example', fields: { number: 'A 9' } },
    );
    expect(results.map(({ status, faults }) => [status, faults?.[0]?.code])).toEqual([
      ['rejected', 'value.taken'],
      ['updated', undefined],
      ['created', undefined],
      ['rejected', 'value.taken'],
    ]);
    await server.call('get', '/api/v1/contacts/new@test.example').expect(404);
    await server.call('get', '/api/v1/contacts/late@test.example').expect(404);
  });

  it('gives a value to one of many that want it at once', async () => {
    const all = await Promise.all(Array.from({ length: 12 }, (_, n) => put({ email: `w${n}@test.example`, fields: { number: 'A 77' } })));
    expect(all.flat().filter(({ status }) => status === 'created')).toHaveLength(1);
    await server.idle();
    const [row] = await server.database.query<{ n: number }>(
      `select count(*)::int as n from contact_fact f join definition d on d.id = f.field_id where d.key = 'number' and f.folded = 'a 77'`,
    );
    expect(row?.n).toBe(1);
  });

  it('holds for companies too', async () => {
    const answer = await server
      .call('put', '/api/v1/companies')
      .send({
        companies: [
          { outsideId: 'other', fields: { vat: 'se 1' } },
          { outsideId: 'kiln', fields: { vat: 'SE 1' } },
        ],
      })
      .expect(200);
    expect((answer.body as PutContactsAnswer).results.map(({ status }) => status)).toEqual(['rejected', 'unchanged']);
  });

  it('gives nobody one value of many by a change of many', async () => {
    await server
      .call('post', '/api/app/contacts/change/rehearse')
      .send({ who: { condition: { match: 'all', of: [] } }, change: { fields: { number: 'A 5' } } })
      .expect(422);
  });

  it('does not empty what everyone should have', async () => {
    await server.define({ fields: [{ key: 'number', name: 'Customer number', type: 'text', unique: true, required: true }] });
    const [cleared, other] = await put(
      { email: 'c1@test.example', fields: { number: null } },
      { email: 'none@test.example', fields: { likes: ['large'] } },
    );
    expect([cleared?.status, cleared?.faults?.[0]?.code, other?.status]).toEqual(['rejected', 'value.required', 'created']);
  });

  it('says which values are shared after all, since people answer as they like', async () => {
    const [row] = await server.database.query<{ id: number }>(`select id from definition where key = 'number' and kind = 'field'`);
    await server.database.query(`update contact_fact set folded = 'a 2', shown = 'A 2' where field_id = $1 and folded = 'a 3'`, [row?.id]);
    expect((await figures('number')).shared).toEqual([{ value: 'A 2', people: 2 }]);
  });
});
