import { type ContactView, type TakeBackAnswer, type TryAnswer } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const onOrder = { kind: 'signal', type: 'order.placed' };

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [
    { key: 'spent', name: 'spent in all', of: 'contact', type: 'money' },
    { key: 'visits', name: 'visits', of: 'contact', type: 'number' },
    { key: 'first-class', name: 'first class', of: 'contact', type: 'date' },
    { key: 'city', name: 'city', of: 'contact', type: 'text' },
  ],
  ladder: [
    { key: 'heard', name: 'heard of us' },
    { key: 'suited', name: 'suited' },
    { key: 'customer', name: 'customer' },
  ],
  families: [
    { key: 'bench', name: 'Bench', prefix: 'bench', purpose: '', many: true },
    { key: 'wish', name: 'Wish', prefix: 'wish', purpose: '', many: true },
  ],
  tags: [
    { key: 'bench.renews', name: 'renews on', family: 'bench', value: 'date' },
    { key: 'bench.member', name: 'a member', family: 'bench' },
    { key: 'wish.glaze', name: 'wants glaze', family: 'wish' },
    { key: 'wish.year', name: 'a year since', family: 'wish' },
  ],
  scorecards: [
    {
      key: 'keen',
      name: 'Keenness',
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'keen', name: 'keen', from: 10 },
      ],
      lines: [],
    },
  ],
  audiences: [{ key: 'buyers', name: 'Buyers', kind: 'fixed' }],
  routing: [
    {
      key: 'desk',
      name: 'Desk',
      rows: [
        { key: 'north', if: { kind: 'field', field: 'city', op: 'is', value: 'Saltwick' }, owners: ['wren@test.example'] },
        { key: 'rest', owners: ['ines@test.example', 'sol@test.example'] },
      ],
    },
  ],
  bundles: [
    {
      key: 'welcome',
      name: 'Welcome',
      then: [{ action: { do: 'add tag', tag: 'wish.glaze' } }, { action: { do: 'make task', title: 'Say hello', dueDays: 2 } }],
    },
  ],
  maps: [
    {
      key: 'plans',
      name: 'Plans',
      path: 'plan',
      reason: 'plan',
      adds: ['plan.started', 'plan.renewed'],
      takes: ['plan.lapsed'],
      rows: [{ value: 'bench', add: ['bench.member'] }],
    },
  ],
  rules: [
    {
      key: 'buys',
      name: 'Buys',
      when: onOrder,
      then: [
        { do: 'increase field', field: 'spent', by: { detail: 'amount' } },
        { do: 'put on list', audience: 'buyers' },
        { do: 'give points', scorecard: 'keen', points: 12, keeps: { dropAfter: 10 } },
        { do: 'set stage', stage: 'customer' },
        { do: 'assign owner', routing: 'desk' },
        { do: 'run bundle', bundle: 'welcome' },
        { do: 'notify', text: 'Somebody bought' },
      ],
      on: true,
    },
    {
      key: 'year',
      name: 'A year',
      when: { kind: 'date', field: 'first-class', days: 0, yearly: true, hour: 9 },
      then: [{ do: 'add tag', tag: 'wish.year' }],
      on: true,
    },
  ],
};

describe('what rules do', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  const order = (email: string, id: string, amount = '120.50') =>
    event('order.placed', email, { order: id, items: [], amount, currency: 'SEK' });
  const verified = async (): Promise<void> => expect((await server.verify(clock)).byKind).toEqual({});

  it('is every kind of action, in order, each with its cause', async () => {
    await server.signals(order('a@test.example', '1'), order('a@test.example', '2', '10'));
    const a = await contact('a@test.example');
    expect(a.fields).toContainEqual(expect.objectContaining({ key: 'spent', shown: '130.50 SEK' }));
    expect(a.audiences).toMatchObject([{ key: 'buyers', kind: 'fixed' }]);
    expect(a.scores).toMatchObject([{ points: 24, band: 'keen', lines: [{ name: 'rule Buys', points: 24 }] }]);
    expect(a.stage).toMatchObject({ key: 'customer' });
    expect(a.owner).toBe('ines@test.example');
    expect(a.tags.map((tag) => tag.key)).toEqual(['wish.glaze']);
    expect(a.tasks).toMatchObject([{ title: 'Say hello', done: null }, { title: 'Say hello' }]);
    await verified();
    clock.moveTo(START + 11 * DAY);
    await server.idle();
    expect((await contact('a@test.example')).scores).toMatchObject([{ points: 0, band: 'quiet' }]);
    await verified();
  });

  it('gives owners in turn, and by the first row that fits', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'n@test.example', fields: { city: 'Saltwick' } }] })
      .expect(200);
    const emails = ['a', 'b', 'c', 'd'].map((name) => `${name}@test.example`);
    for (const email of emails) await server.signals(order(email, email));
    await server.signals(order('n@test.example', 'n'));
    const owners = await Promise.all(emails.map(async (email) => (await contact(email)).owner));
    expect(owners).toEqual(['ines@test.example', 'sol@test.example', 'ines@test.example', 'sol@test.example']);
    expect((await contact('n@test.example')).owner).toBe('wren@test.example');
    await verified();
  });

  it('keeps tags by a map for as long as a plan runs, which lapses by itself', async () => {
    const until = new Date(START + 5 * DAY).toISOString();
    await server.signals(event('plan.started', 'a@test.example', { plan: 'bench', until }));
    expect((await contact('a@test.example')).tags).toMatchObject([{ key: 'bench.member', reasons: [{ words: 'Plans: bench' }] }]);
    clock.moveTo(START + 6 * DAY);
    await server.idle();
    const a = await contact('a@test.example');
    expect(a.tags).toEqual([]);
    const { signals } = (await server.call('get', `/api/v1/contacts/${a.id}/signals`)).body as { signals: { type: string }[] };
    expect(signals.map((signal) => signal.type)).toContain('plan.lapsed');
    await verified();
  });

  it('runs on a date, once a year at its hour, and is missed where the clock comes too late', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', fields: { 'first-class': '2025-11-28' } }] })
      .expect(200);
    await server.idle();
    clock.moveTo(Date.UTC(2026, 10, 28, 7, 59));
    await server.idle();
    expect((await contact('a@test.example')).tags).toEqual([]);
    clock.moveTo(Date.UTC(2026, 10, 28, 8, 0));
    await server.idle();
    expect((await contact('a@test.example')).tags).toMatchObject([{ key: 'wish.year' }]);
    // A year and two days later, in one step: the next one was missed by more than a day.
    clock.moveTo(Date.UTC(2027, 10, 30, 8, 0));
    await server.idle();
    const { rows } = (await server.call('get', '/api/v1/contacts/a@test.example/ledger')).body as {
      rows: { kind: string; verb: string }[];
    };
    expect(rows.filter((row) => row.kind === 'firing').map((row) => row.verb)).toEqual(['missed', 'fired']);
    await verified();
  });

  it('can be tried first, which keeps nothing', async () => {
    await server.signals(order('a@test.example', '1'));
    const before = await contact('a@test.example');
    const answer = (
      await server
        .call('post', `/api/v1/contacts/${before.id}/try`)
        .send({ type: 'order.placed', data: { order: '2', items: [], amount: '5.00', currency: 'SEK' } })
        .expect(200)
    ).body as TryAnswer;
    expect(answer.effects.map((effect) => effect.words)).toEqual(
      expect.arrayContaining([
        'Rule Buys ran, version 1',
        'spent in all increased to 125.50',
        '12 points of Keenness',
        'The owner stays: there is one already',
      ]),
    );
    expect(answer.scores).toEqual([{ key: 'keen', name: 'Keenness', before: 12, after: 24 }]);
    expect(await contact('a@test.example')).toEqual(before);
    await server
      .call('post', `/api/v1/contacts/${before.id}/try`)
      .send({ type: 'order.placed', data: { amount: '5.001' } })
      .expect(422);
    await verified();
  });

  it('can be taken back with all that came of it; what was changed since stays and is named', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', stage: 'heard' }] })
      .expect(200);
    await server.idle();
    const clean = await contact('a@test.example');
    await server.signals(order('a@test.example', '1'));
    const { rows } = (await server.call('get', '/api/v1/contacts/a@test.example/ledger')).body as {
      rows: { id: number; kind: string; verb: string }[];
    };
    const fired = rows.find((row) => row.kind === 'firing')?.id ?? 0;
    const back = (await server.call('post', `/api/v1/ledger/${fired}/take-back`).expect(200)).body as TakeBackAnswer;
    expect(back).toMatchObject({ subjects: 1, stays: [] });
    const after = await contact('a@test.example');
    for (const part of ['fields', 'tags', 'stage', 'owner', 'tasks', 'audiences'] as const) expect(after[part]).toEqual(clean[part]);
    expect(after.scores).toMatchObject([{ points: 0 }]);
    expect(((await server.call('post', `/api/v1/ledger/${fired}/take-back`).expect(200)).body as TakeBackAnswer).effects).toBe(0);
    await verified();

    await server.signals(order('b@test.example', '2'), order('c@test.example', '3'));
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'b@test.example', stage: 'heard' }] })
      .expect(200);
    await server.idle();
    const all = (await server.call('post', '/api/v1/rules/buys/take-back').send({}).expect(200)).body as TakeBackAnswer;
    expect(all.subjects).toBe(2);
    expect(all.stays).toEqual([
      expect.objectContaining({ why: 'it has been changed since', what: 'Stage: none → customer, skipped heard of us, suited' }),
    ]);
    expect((await contact('c@test.example')).stage).toBeNull();
    expect((await contact('b@test.example')).stage).toMatchObject({ key: 'heard' });
    await verified();
  });
});
