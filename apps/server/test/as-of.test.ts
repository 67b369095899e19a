import { type AsOf } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { addPerson } from '../src/settings/people.service';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 1, 9, 0);
const DAY = 86_400_000;
const EMAIL = 'anna@past.example';
const DAYS = 30;

describe('a contact on a past day', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.database.transaction((sql) =>
      addPerson(sql, { email: 'sol@test.example', name: 'Sol', role: 'editor', password: 'a long enough password' }, START),
    );
    await server.define({
      ...SET_UP,
      fields: [...SET_UP.fields, { key: 'budget', name: 'budget', of: 'contact', type: 'money' }],
      tags: [...(SET_UP.tags ?? []), { key: 'snag.days', name: 'days', family: 'snag', value: 'number' }],
      pipelines: [
        {
          ...{ key: 'fit', name: 'Fit' },
          stages: [
            { key: 'quote', name: 'quoted' },
            { key: 'won', name: 'agreed', outcome: 'won' },
          ],
        },
      ],
      ladder: [
        { key: 'heard', name: 'heard of us' },
        { key: 'talks', name: 'in talks' },
      ],
      audiences: [
        ...SET_UP.audiences,
        {
          key: 'recent',
          name: 'Recent',
          kind: 'live',
          condition: {
            match: 'all',
            of: [{ kind: 'signal', type: 'order.placed', count: { op: '>=', value: 1 }, within: { last: 5, unit: 'days' } }],
          },
        },
        { key: 'by-hand', name: 'By hand', kind: 'fixed' },
      ],
    });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'other@past.example' }] })
      .expect(200);
    await server
      .call('put', '/api/v1/companies')
      .send({
        companies: [
          { outsideId: 'mill', name: 'The Mill' },
          { outsideId: 'dairy', name: 'The Dairy' },
        ],
      })
      .expect(200);
  });
  afterAll(() => server.stop());

  const asOf = async (day: string): Promise<AsOf> =>
    (await server.call('get', `/api/app/contacts/${EMAIL}/as-of`).query({ day }).expect(200)).body as AsOf;
  const dayOf = (n: number): string => new Date(START + n * DAY).toISOString().slice(0, 10);
  const stands = (rows: AsOf['rows'], which: 'then' | 'now') =>
    rows.flatMap(({ of, name, [which]: words }) => (words === null ? [] : [`${of} ${name}: ${words}`]));

  const DEALS: readonly (object | undefined)[] = [
    undefined,
    { contact: EMAIL, stage: 'quote', amount: '1200.50', name: 'Sixty bowls' },
    undefined,
    { stage: 'won' },
    { contact: 'other@past.example' },
    { contact: EMAIL, stage: 'quote', amount: '900' },
  ];
  /** What is done on each day: something of everything, there and back. */
  const EDITS: readonly object[] = [
    { fields: { city: 'Hollin', years: 3 }, tags: { 'snag.price': true }, consent: { email: 'given' } },
    { stage: 'heard', owner: 'sol@test.example', company: 'mill' },
    { fields: { city: 'Brae', budget: '100.50' }, lists: { 'by-hand': true }, tags: { 'snag.days': 3 } },
    { tags: { 'snag.price': false }, consent: { email: 'withdrawn' } },
    { stage: 'talks', company: 'dairy', fields: { years: null }, tags: { 'snag.days': 4.5 } },
    { owner: null, lists: { 'by-hand': false }, tags: { 'snag.price': true } },
    { stage: null, company: null, fields: { city: null, budget: '7' } },
  ];

  it('is what it was on that day, whatever happened since', async () => {
    const noted: string[][] = [];
    for (let day = 0; day < DAYS; day += 1) {
      await server
        .call('put', '/api/v1/contacts')
        .send({ contacts: [{ email: EMAIL, ...EDITS[day % EDITS.length] }] })
        .expect(200);
      // A deal is moved on and changed in its worth, goes over to somebody else and comes back.
      const deal = DEALS[day % DEALS.length];
      if (deal) {
        const put = server.call('put', '/api/v1/deals').send({ deals: [{ outsideId: 'bowls', ...deal }] });
        expect((await put.expect(200)).body.results[0]).not.toHaveProperty('faults');
      }
      if (day % 9 === 4)
        await server.signals(event('order.placed', EMAIL, { order: `o${day}` }, { time: new Date(clock.now()).toISOString() }));
      // The last instant of the day, in Stockholm.
      clock.moveTo(Date.UTC(2026, 10, 1 + day, 22, 59, 59, 999));
      await server.idle();
      noted.push(stands((await asOf(dayOf(day))).rows, 'now'));
      clock.moveTo(START + (day + 1) * DAY);
      await server.idle();
    }
    // Something of it is taken back: that day stays what it was.
    await server
      .call('post', `/api/v1/ledger/${await server.lastEffect()}/take-back`)
      .send({})
      .expect(200);
    await server.idle();
    for (let day = 0; day < DAYS; day += 1) {
      const past = await asOf(dayOf(day));
      expect({ day, wasHere: past.wasHere, stood: stands(past.rows, 'then') }).toEqual({ day, wasHere: true, stood: noted[day] });
    }
    const all = noted.flat().join('\n');
    for (const words of [
      'standing stage: in talks',
      'standing company: The Dairy',
      'standing consent to email: withdrawn',
      'tag snag.price: has it',
      'tag snag.days: 3',
      'tag snag.days: 4.5',
      'deal Sixty bowls: quoted, 1,200.50 SEK',
      'deal Sixty bowls: agreed, 1,200.50 SEK',
    ])
      expect(all).toContain(words);
    for (const words of ['audience Recent: in it', 'audience By hand: in it', 'fact budget: 100.50 SEK', 'fact city: Brae', 'score '])
      expect(all).toContain(words);
    expect(new Set(noted.map((each) => each.join())).size).toBeGreaterThan(8);
  }, 120_000);

  it('that was not here yet says so, and a day to come or none is refused', async () => {
    const before = await asOf('2026-10-01');
    expect(before.wasHere).toBe(false);
    expect(stands(before.rows, 'then')).toEqual([]);
    await server.call('get', `/api/app/contacts/${EMAIL}/as-of`).query({ day: '2027-06-01' }).expect(422);
    await server.call('get', `/api/app/contacts/${EMAIL}/as-of`).query({ day: 'yesterday' }).expect(422);
  });
});
