import { type RuleRehearsal, type TakeBackAnswer, type TryAnswer } from '@eager-sieve/contracts';
import { localDay, writeDay } from '@eager-sieve/core';
import request from 'supertest';
import { event, TestServer } from './harness';

const OWNERS = ['ines@test.example', 'olle@test.example'];

/** What one contact's rule asks of its company is read by another rule about everyone there, which asks a routing table for an owner. */
const SET_UP = {
  currency: 'SEK',
  timeZone: 'Europe/Stockholm',
  fields: [
    { key: 'seats', name: 'Seats', of: 'company', type: 'number' },
    { key: 'sector', name: 'Sector', of: 'company', type: 'text' },
  ],
  families: [{ key: 'trade', name: 'Trade', prefix: 'trade', purpose: '', many: true }],
  tags: [
    { key: 'trade.big', name: 'At a big place', family: 'trade' },
    { key: 'trade.asked', name: 'Asked', family: 'trade' },
  ],
  routing: [{ key: 'desk', name: 'the trade desk', rows: [{ key: 'all', owners: OWNERS }] }],
  audiences: [
    { key: 'big', name: 'At big places', kind: 'live', condition: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 50 } },
  ],
  rules: [
    {
      key: 'big',
      name: 'Big',
      when: { kind: 'becomes', condition: { kind: 'audience', audience: 'big', op: 'in' } },
      then: [
        { do: 'add tag', tag: 'trade.big' },
        { do: 'assign owner', routing: 'desk' },
      ],
      beginsWith: 'from now on',
      on: true,
    },
  ],
};

const RULE = {
  when: { kind: 'signal', type: 'form.answered', where: [{ path: 'form', op: 'is', value: 'trade' }] },
  then: [
    { do: 'add tag', tag: 'trade.asked' },
    { do: 'set company field', field: 'seats', value: 60 },
    { do: 'make task', title: 'Call them', dueDays: 2 },
  ],
  howOften: { limit: 1 },
  beginsWith: 'everyone',
};

const answered = (email: string): object => event('form.answered', email, { form: 'trade', answers: {} });

describe('a dry run', () => {
  let server: TestServer;
  beforeEach(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    await server.call('put', '/api/v1/companies').send({
      companies: ['mill', 'kiln', 'shed'].map((key) => ({
        outsideId: key,
        name: `The ${key}`,
        fields: { seats: key === 'shed' ? 70 : 10 },
      })),
    });
    const at = { ada: 'mill', bo: 'mill', cy: 'kiln', dee: 'kiln', eve: 'shed', fay: undefined };
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Object.entries(at).map(([name, company]) => ({ email: `${name}@test.example`, fields: { 'given-name': name }, company })),
      })
      .expect(200);
    await server.idle();
  });
  afterEach(() => server.stop());

  const rehearse = async (rule: object = RULE): Promise<RuleRehearsal> => {
    const { cookie, csrf } = await server.signIn();
    const { body } = await request(server.app.getHttpServer())
      .post('/api/app/rules/rehearse')
      .set('cookie', cookie)
      .set('x-csrf-token', csrf)
      .send({ rule })
      .expect(200);
    return body as RuleRehearsal;
  };

  it('of a rule follows what it asks of companies, their other contacts, and whose turn it is, and then just that happens', async () => {
    await server.signals(
      answered('ada@test.example'),
      answered('cy@test.example'),
      answered('eve@test.example'),
      answered('fay@test.example'),
    );
    const before = await server.lastEffect();
    const rehearsed = await rehearse();
    expect(await server.lastEffect()).toBe(before);
    expect(rehearsed).toMatchObject({ touched: 4 });
    expect(rehearsed.changes).toMatchObject({
      // Four are tagged as asked; both at the mill and both at the kiln become "at a big place", eve's shed was one already.
      'tag added': 4 + 4,
      'membership joined': 4,
      'field set': 3,
      'owner set': 4,
    });
    const ada = rehearsed.samples?.find((sample) => sample.name === 'ada');
    expect(ada?.changes).toEqual(['+ trade.asked', 'Asked its company for a change', 'task “Call them”']);
    expect(ada?.setsOff).toEqual(expect.arrayContaining(['The mill: Seats set to 60', 'bo: comes into At big places', 'bo: + trade.big']));

    await server.define({ rules: [{ key: 'asked', name: 'Asked', ...RULE, on: true }] });
    expect(await server.effectsSince(before)).toEqual(rehearsed.changes);
    const owners = await server.database.query<{ owner: string; n: number }>(
      'select owner, count(*) as n from contact where owner is not null group by 1 order by 1',
    );
    // Eve was given the first of them when her shed was made.
    expect(owners).toEqual([
      { owner: OWNERS[0], n: 3 },
      { owner: OWNERS[1], n: 2 },
    ]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('of a rule for a date says who has one, and for whom it comes in the coming week; of a condition it claims no pace', async () => {
    await server.define({ fields: [{ key: 'visit', name: 'Visit', of: 'contact', type: 'date' }] });
    const inDays = (days: number): string => writeDay(localDay(Date.now(), SET_UP.timeZone) + days);
    const visits = { ada: inDays(3), bo: inDays(30), cy: inDays(-3) };
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: Object.entries(visits).map(([name, visit]) => ({ email: `${name}@test.example`, fields: { visit } })) })
      .expect(200);
    await server.idle();
    const then = [{ do: 'add tag', tag: 'trade.asked' }];
    const dated = await rehearse({ when: { kind: 'date', field: 'visit', days: -1, yearly: false, hour: 9 }, then });
    expect(dated.steps[0]).toEqual({ words: 'have the date', count: 3 });
    expect(dated.pace).toEqual({ times: 1, of: 'the coming week' });
    const become = await rehearse({ when: { kind: 'becomes', condition: { kind: 'audience', audience: 'big', op: 'in' } }, then });
    expect(become.steps[0]).toEqual({ words: 'the condition holds now', count: 1 });
    expect(become.pace).toBeNull();
  });

  it('of a signal tells what would become of the company and of others there, and that much then happens', async () => {
    await server.define({ rules: [{ key: 'asked', name: 'Asked', ...RULE, beginsWith: 'from now on', on: true }] });
    const before = await server.lastEffect();
    const { body } = await server
      .call('post', '/api/v1/contacts/ada@test.example/try')
      .send({ type: 'form.answered', data: { form: 'trade', answers: {} } })
      .expect(200);
    expect(await server.lastEffect()).toBe(before);
    const { effects } = body as TryAnswer;
    const words = effects.map((effect) => effect.words);
    expect(words).toEqual(
      expect.arrayContaining([
        'Tag trade.asked added',
        'The mill: Seats set to 60',
        'bo: Came into At big places',
        'Came into At big places',
      ]),
    );
    await server.signals(answered('ada@test.example'));
    const happened = Object.values(await server.effectsSince(before)).reduce((sum, n) => sum + n, 0);
    expect(effects.filter((effect) => effect.kind !== 'firing')).toHaveLength(happened);
  });

  it('of taking back says what that would undo and what would stay, and just that then happens', async () => {
    await server.define({ rules: [{ key: 'asked', name: 'Asked', ...RULE, on: true }] });
    await server.signals(
      answered('ada@test.example'),
      answered('bo@test.example'),
      answered('cy@test.example'),
      answered('eve@test.example'),
      answered('fay@test.example'),
    );
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'kiln', fields: { seats: 80 } }] });
    await server.idle();
    const takeBack = async (rehearse: boolean): Promise<TakeBackAnswer> =>
      server.takenBack(
        (
          await server
            .call('post', '/api/v1/rules/asked/take-back')
            .query(rehearse ? { rehearse: 'true' } : {})
            .send({})
            .expect(200)
        ).body,
      );
    const before = await server.lastEffect();
    const { rehearsed, ...told } = await takeBack(true);
    expect(rehearsed).toBe(true);
    expect(await server.lastEffect()).toBe(before);
    expect(told.changes).toMatchObject({ 'tag removed': 5 + 4, 'task taken back': 5, 'field set': 2 });
    expect(told.stays).toEqual([expect.objectContaining({ what: 'Seats set to 60', why: 'it has been changed since' })]);
    const { rehearsed: only, ...done } = await takeBack(false);
    expect(only).toBe(false);
    expect(done).toEqual({ ...told, run: expect.objectContaining({ state: 'done' }) as unknown });
    await server.idle();
    expect((await server.verify()).differences).toBe(0);
    expect(await takeBack(true)).toMatchObject({ effects: 0, subjects: 0, samples: [] });
  });

  it('leaves the turn of a routing table where it is', async () => {
    await server.signals(answered('ada@test.example'));
    const turns = await server.database.query('select * from routing_turn');
    const first = await rehearse();
    const again = await rehearse();
    expect(again).toEqual(first);
    expect(first.changes['owner set']).toBe(2);
    expect(await server.database.query('select * from routing_turn')).toEqual(turns);
  });

  it('is of some who stand for all where very many are concerned, and of all of them when that is asked for', async () => {
    const many = 20_400;
    await server.database.query(
      `insert into contact (id, uid, lane, email, email_folded, made_at, last_now)
       select nextval('contact_id_seq'), gen_random_uuid(), n % 64, 'n' || n || '@many.example', 'n' || n || '@many.example', $2, $2 from generate_series(1, $1::int) n`,
      [many, new Date(0).toISOString()],
    );
    const without = { kind: 'tag', tag: 'trade.asked', op: 'lacks' };
    const rule = { when: { kind: 'becomes', condition: without }, then: [{ do: 'add tag', tag: 'trade.asked' }], beginsWith: 'everyone' };
    const ask = async (all?: boolean): Promise<RuleRehearsal> =>
      (await server.call('post', '/api/app/rules/rehearse').send({ rule, all }).expect(200)).body as RuleRehearsal;
    const { part, touched, samples } = await ask();
    const [{ n } = { n: 0 }] = await server.database.query<{ n: number }>('select count(*)::int as n from contact');
    expect(part).toMatchObject({ all: n });
    expect(part?.done).toBeGreaterThan(700);
    expect(part?.done).toBeLessThan(1_400);
    expect(part?.secondsForAll).toBeGreaterThan(0);
    expect(touched).toBe(part?.done);
    expect(samples?.length).toBeGreaterThan(0);
    // Contacts of one company stand together.
    await server.database.query(
      `update contact set company_id = (select min(id) from company) where email like '%@many.example' and id % 10 = 0`,
    );
    expect((await ask()).part).toMatchObject({ all: n });
    const all = await ask(true);
    expect(all).not.toHaveProperty('part');
    expect(all.touched).toBe(n);
  });
});
