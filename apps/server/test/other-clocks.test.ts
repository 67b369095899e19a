import { type CountAnswer, type ExplainAnswer, type PeopleAnswer } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const PEOPLE = 9;
const emailOf = (n: number): string => `c${n}@clock.example`;
const companyOf = (n: number): string => `firm-${n % 3}`;

const ordered = { kind: 'signal', type: 'order.placed', within: { last: 10, unit: 'days' } };
const lately = { kind: 'audience', audience: 'lately', op: 'in' };
const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [{ of: 'contact', key: 'limit', name: 'limit', type: 'number' }],
  scorecards: [
    {
      key: 'keen',
      name: 'Keenness',
      min: 0,
      max: 100,
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'keen', name: 'keen', from: 15 },
      ],
      lines: [
        { key: 'orders', kind: 'activity', type: 'order.placed', points: 20, counts: 'every time', keeps: { halveEvery: 5 } },
        { key: 'recent', kind: 'fact', condition: lately, points: 4, stands: 'while' },
      ],
    },
    {
      key: 'firm',
      name: 'Firm',
      of: 'company',
      min: 0,
      max: 100,
      bands: [
        { key: 'slow', name: 'slow', from: 0 },
        { key: 'busy', name: 'busy', from: 30 },
      ],
      lines: [{ key: 'orders', kind: 'activity', type: 'order.placed', points: 20, counts: 'every time', keeps: { dropAfter: 20 } }],
    },
  ],
  audiences: [
    { key: 'lately', name: 'Lately', kind: 'live', condition: ordered },
    {
      key: 'keen-lately',
      name: 'Keen and lately',
      kind: 'live',
      condition: { match: 'all', of: [lately, { kind: 'band', scorecard: 'keen', op: 'is', value: 'keen' }] },
    },
    { key: 'by-hand', name: 'By hand', kind: 'fixed' },
  ],
};
const over = (value: number): object => ({ kind: 'score', scorecard: 'keen', op: '>=', value });
/** Conditions whose answer at a coming instant is what the clock will bring. */
const OF_CONTACTS: Readonly<Record<string, object>> = {
  score: over(10),
  band: { kind: 'band', scorecard: 'keen', op: 'is not', value: 'keen' },
  audience: lately,
  'audience on both': { kind: 'audience', audience: 'keen-lately', op: 'in' },
  'no audience': { kind: 'audience', audience: 'keen-lately', op: 'out' },
  compare: { kind: 'compare', left: { scorecard: 'keen' }, op: '>', right: { field: 'limit' } },
  group: { match: 'any', of: [over(21), { match: 'none', of: [lately] }] },
  list: { match: 'all', of: [{ kind: 'audience', audience: 'by-hand', op: 'in' }, over(5)] },
};
const OF_COMPANIES: Readonly<Record<string, object>> = {
  score: { kind: 'score', scorecard: 'firm', op: '>', value: 20 },
  contacts: { kind: 'contacts', condition: over(10), count: { op: '>=', value: 2 } },
  'contacts lately': { kind: 'contacts', condition: lately, count: { op: '=', value: 0 } },
};
const CLOCKS = [-20, -9, 1, 4, 15];

describe.each<['without the index' | 'by the index', 'here' | undefined]>([
  ['without the index', undefined],
  ['by the index', 'here'],
])('another clock, %s', (_how, counting) => {
  let server: TestServer;
  let clock: StandingClock;

  const post = async <Answer>(path: string, body: object): Promise<Answer> =>
    (await server.call('post', `/api/v1/audiences/${path}`).send(body).expect(200)).body as Answer;
  const at = (days: number): string => new Date(START + days * DAY).toISOString();
  const named = async (condition: object, of: string, more: object = {}): Promise<string[]> => {
    const page = await post<PeopleAnswer>('people', { condition, of, limit: 100, ...more });
    return [...page.contacts.map((row) => row.email ?? ''), ...(page.companies ?? []).map((row) => row.outsideId)].sort();
  };
  /** Asks by every call there is, holds their answers together, and gives the names. */
  const asked = async (condition: object, of: string, more: object = {}): Promise<readonly string[]> => {
    const names = await named(condition, of, more);
    expect((await post<CountAnswer>('count', { condition, of, ...more })).count).toBe(names.length);
    expect((await post<CountAnswer>('count', { condition, of, sieve: true, ...more })).count).toBe(names.length);
    for (const each of of === 'contact' ? Array.from({ length: PEOPLE }, (_, n) => emailOf(n)) : ['firm-0', 'firm-1', 'firm-2']) {
      const explained = await post<ExplainAnswer>('explain', { condition, of, [of]: each, ...more });
      expect({ condition, each, holds: explained.holds }).toEqual({ condition, each, holds: names.includes(each) });
    }
    return names;
  };
  const all: readonly (readonly [of: string, name: string, condition: object])[] = [
    ...Object.entries(OF_CONTACTS).map(([name, condition]) => ['contact', name, condition] as const),
    ...Object.entries(OF_COMPANIES).map(([name, condition]) => ['company', name, condition] as const),
  ];

  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock, ...(counting ? { counting } : {}) });
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [0, 1, 2].map((n) => ({ outsideId: companyOf(n), name: companyOf(n) })) })
      .expect(200);
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({
          email: emailOf(n),
          company: companyOf(n),
          fields: n % 2 === 0 ? { limit: n } : {},
          ...(n < 6 ? { lists: { 'by-hand': true } } : {}),
        })),
      })
      .expect(200);
    await server.signals(
      ...Array.from({ length: PEOPLE * 2 }, (_, n) =>
        event('order.placed', emailOf(n % (PEOPLE - 1)), { order: `o${n}` }, { time: new Date(START - n * 1.7 * DAY).toISOString() }),
      ),
    );
    if (counting)
      while ((await server.call('get', '/api/v1/status')).body.countingIndex !== 'ready')
        await new Promise((resolve) => setTimeout(resolve, 20));
  });
  afterAll(() => server.stop());

  it('gives one answer by every call, and different ones at different clocks', async () => {
    for (const [of, name, condition] of all) {
      const answers = new Set<string>();
      for (const days of CLOCKS) answers.add((await asked(condition, of, { at: at(days) })).join());
      expect({ name, different: answers.size > 1 }).toEqual({ name, different: true });
    }
  });

  it('says of the past that what is recorded stands as it is now', async () => {
    for (const [days, recorded] of [
      [-1, 'as of now'],
      [1, undefined],
    ] as const) {
      const body = { condition: over(5), at: at(days) };
      expect((await post<CountAnswer>('count', body)).recorded).toBe(recorded);
      expect((await post<PeopleAnswer>('people', body)).recorded).toBe(recorded);
      expect((await post<ExplainAnswer>('explain', { ...body, contact: emailOf(0) })).recorded).toBe(recorded);
    }
    expect((await post<CountAnswer>('count', { condition: over(5) })).recorded).toBeUndefined();
  });

  it('pages through everyone once, and searches among them', async () => {
    const condition = { match: 'none', of: [over(100)] };
    const seen: string[] = [];
    let after: string | null = null;
    do {
      const page: PeopleAnswer = await post('people', { condition, at: at(3), limit: 4, ...(after ? { after } : {}) });
      seen.push(...page.contacts.map((row) => row.email ?? ''));
      after = page.after;
    } while (after);
    expect(seen).toEqual(Array.from({ length: PEOPLE }, (_, n) => emailOf(PEOPLE - 1 - n)));
    expect(await named(condition, 'contact', { at: at(3), search: 'c4@' })).toEqual([emailOf(4)]);
  });

  it('told beforehand what the clock then brings, and when', async () => {
    const coming = CLOCKS.filter((days) => days > 0);
    const told = new Map<string, readonly string[]>();
    const changes = new Map<string, string | null>();
    for (const [of, name, condition] of all) {
      for (const days of coming) told.set(`${of} ${name} ${days}`, await named(condition, of, { at: at(days) }));
      if (of === 'contact') changes.set(name, (await post<ExplainAnswer>('explain', { condition, contact: emailOf(1) })).changesAt);
    }
    // Of the first whose truth turns: so many lines rest on a score that halves or an audience that empties.
    expect([...changes.values()].filter((each) => each !== null).length).toBeGreaterThan(5);
    for (const days of coming) {
      clock.moveTo(START + days * DAY);
      await server.idle();
      for (const [of, name, condition] of all)
        expect({ of, name, days, who: await named(condition, of) }).toEqual({ of, name, days, who: told.get(`${of} ${name} ${days}`) });
    }
    expect((await server.verify(clock)).differences).toBe(0);
  });
});
