import { type DefinitionsDocument } from '@eager-sieve/core';
import { type AudienceView, type PeopleAnswer } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const lives = { kind: 'field', field: 'town', op: 'is', value: 'Oakham' };
const isIn = (audience: string): object => ({ kind: 'audience', audience, op: 'in' });
const live = (key: string, condition: object): object => ({ key, name: `The ${key}`, kind: 'live', condition });
const scored = { kind: 'score', scorecard: 'third', op: '>=', value: 1 };
const onOrder = { kind: 'signal', type: 'order.placed' };
const rule = (key: string, more: object): object => ({
  key,
  name: key,
  when: onOrder,
  then: [{ do: 'add tag', tag: `t.${key}` }],
  on: true,
  ...more,
});
const RULES = ['when', 'if', 'points', 'bundled', 'fine'];

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [
    { of: 'contact', key: 'town', name: 'home town', type: 'text' },
    { of: 'contact', key: 'shoe', name: 'shoe', type: 'number' },
  ],
  families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
  tags: RULES.map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
  scorecards: [
    {
      key: 'third',
      name: 'Third',
      min: 0,
      max: 10,
      bands: [{ key: 'all', name: 'all', from: 0 }],
      lines: [{ key: 'in', kind: 'fact', condition: isIn('second'), points: 5, stands: 'while' }],
    },
  ],
  audiences: [
    live('first', lives),
    live('second', { match: 'all', of: [isIn('first'), { kind: 'signal', type: 'order.placed', count: { op: '<', value: 3 } }] }),
    live('fourth', scored),
    live('sound', { kind: 'field', field: 'shoe', op: 'is filled' }),
  ],
  bundles: [{ key: 'bundle', name: 'Bundle', then: [{ if: isIn('fourth'), action: { do: 'add tag', tag: 't.bundled' } }] }],
  rules: [
    rule('when', { when: { kind: 'becomes', condition: { match: 'none', of: [isIn('second')] } } }),
    rule('if', { if: { match: 'none', of: [scored] } }),
    rule('points', {
      then: [
        { do: 'add tag', tag: 't.points' },
        { do: 'give points', scorecard: 'third', points: 1 },
      ],
    }),
    rule('bundled', { then: [{ do: 'run bundle', bundle: 'bundle' }] }),
    rule('fine', {}),
  ],
  messages: [{ key: 'hello', name: 'Hello', subject: 'Hello', text: 'Hello.', audience: 'fourth' }],
};
const BROKEN = ['first', 'second', 'third', 'fourth', 'bundle', 'when', 'if', 'points', 'bundled', 'hello'];
const ASKED = [lives, isIn('first'), { match: 'none', of: [isIn('second')] }, scored, { kind: 'audience', audience: 'fourth', op: 'out' }];
const email = (n: number): string => `b${n}@broken.example`;

describe('what rests on something broken', () => {
  let server: TestServer;

  const members = async (key: string): Promise<readonly (string | null)[]> =>
    ((await server.call('get', `/api/v1/audiences/${key}/members`).expect(200)).body as PeopleAnswer).contacts
      .map((row) => row.email)
      .sort();
  const document = async (): Promise<DefinitionsDocument> =>
    (await server.call('get', '/api/v1/definitions').expect(200)).body as DefinitionsDocument;
  const firings = async (key: string): Promise<number> =>
    (
      await server.database.query<{ n: number }>(
        `select count(*)::int as n from ledger l join definition d on d.id = l.definition_id where l.kind = 'firing' and d.key = $1`,
        [key],
      )
    )[0]?.n ?? 0;

  beforeAll(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [1, 2, 3].map((n) => ({ email: email(n), fields: { town: n < 3 ? 'Oakham' : 'Mill End', shoe: 40 } })) })
      .expect(200);
    await server.idle();
    expect(await members('fourth')).toEqual([email(1), email(2)]);
    await server
      .call('put', '/api/v1/definitions')
      .query({ force: 'true' })
      .send({ fields: [{ key: 'town', delete: true }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  it('is told, with why and what has to be mended, and nothing else is', async () => {
    const { broken } = await document();
    expect(broken?.map((each) => each.key).sort()).toEqual([...BROKEN].sort());
    for (const each of broken ?? []) expect(each['roots']).toEqual([{ kind: 'audience', key: 'first', name: 'The first' }]);
    expect(broken?.find((each) => each.key === 'first')?.because).toBe(
      'it needs something in place of the field “home town”, which was deleted',
    );
    expect(broken?.find((each) => each.key === 'hello')?.because).toBe(
      'it rests on the audience “The first”, which is broken: that needs something in place of the field “home town”, which was deleted',
    );
    const view = (await server.call('get', '/api/v1/audiences/fourth').expect(200)).body as AudienceView;
    expect(view).toMatchObject({ broken: true, because: expect.stringContaining('The first'), members: 2 });
  });

  it('answers every question with a fault and never with a number', async () => {
    for (const condition of ASKED) {
      for (const [call, more] of [
        ['count', {}],
        ['count', { sieve: true, at: '2026-01-01T00:00:00Z' }],
        ['people', {}],
        ['explain', { contact: email(1) }],
      ] as const) {
        const { status, body } = await server.call('post', `/api/v1/audiences/${call}`).send({ condition, ...more });
        expect({ condition, call, status }).toEqual({ condition, call, status: 422 });
        expect(body.faults[0].code).toMatch(/^(field\.unknown|audience\.broken|scorecard\.broken)$/);
      }
    }
    const { cookie, csrf } = await server.signIn();
    const app = (method: 'get' | 'post', path: string) =>
      server.call(method, path).set('authorization', '').set('cookie', cookie).set('x-csrf-token', csrf);
    const refused = await app('get', '/api/app/messages/hello/recipients').expect(409);
    expect(refused.body.code).toBe('message.broken');
    const rehearsed = await app('post', '/api/app/rules/rehearse').send({
      rule: { when: { kind: 'becomes', condition: isIn('fourth') }, then: [{ do: 'add tag', tag: 't.fine' }] },
    });
    expect({ status: rehearsed.status, code: rehearsed.body.faults?.[0].code }).toEqual({ status: 422, code: 'reference.broken' });
  });

  it('stands still: rules do not fire, members stay, also in the face of signals that would move them', async () => {
    const before = await Promise.all(['first', 'second', 'fourth'].map(members));
    await server.signals(...[1, 1, 1, 3].map((n) => event('order.placed', email(n), { order: 'x' })));
    await server.signals(event('order.placed', 'new@broken.example', { order: 'y' }));
    expect(await Promise.all(['first', 'second', 'fourth'].map(members))).toEqual(before);
    expect(Object.fromEntries(await Promise.all(RULES.map(async (key) => [key, await firings(key)] as const)))).toMatchObject({
      if: 0,
      points: 0,
      bundled: 0,
      fine: 5,
    });
    expect(await members('sound')).toEqual([email(1), email(2), email(3)]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('may not be rested on by anything new, and may be renamed meanwhile', async () => {
    const refused = await server.call('put', '/api/v1/definitions').send({ audiences: [live('new', isIn('fourth'))] });
    expect(refused.status).toBe(422);
    expect(refused.body.faults[0]).toMatchObject({ code: 'reference.broken', expected: expect.stringContaining('The first') });
    await server.define({ audiences: [{ ...live('fourth', scored), name: 'Fourth, renamed' }] });
    expect(await members('fourth')).toEqual([email(1), email(2)]);
  });

  it('goes on, with what happened meanwhile, as soon as the root is mended', async () => {
    await server.define({ audiences: [live('first', { kind: 'field', field: 'shoe', op: '=', value: 40 })] });
    expect((await document()).broken).toBeUndefined();
    // Of those with shoes the first has ordered too often by now, and the third is in since it is asked of shoes.
    expect(await members('second')).toEqual([email(2), email(3)]);
    expect(await members('fourth')).toEqual([email(2), email(3)]);
    await server.signals(event('order.placed', 'late@broken.example', { order: 'z' }));
    expect(await firings('if')).toBe(1);
    expect((await server.verify()).differences).toBe(0);
  });
});
