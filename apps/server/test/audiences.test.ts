import { type CountAnswer, type ExplainAnswer, type Movements, type PeopleAnswer } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const PEOPLE = 23;

const emailOf = (n: number): string => `p${String(n).padStart(2, '0')}@audience.example`;
const ordered = (more: object = {}): object => ({ kind: 'signal', type: 'order.placed', ...more });
const years = (op: string, value: number): object => ({ kind: 'field', field: 'years', op, value });
const lately = { last: 10, unit: 'days' };

describe.each<['by SQL' | 'by the index', 'here' | undefined]>([
  ['by SQL', undefined],
  ['by the index', 'here'],
])('audiences, asked %s', (_how, counting) => {
  let server: TestServer;
  let clock: StandingClock;

  const post = async <Answer>(path: string, body: object): Promise<Answer> =>
    (await server.call('post', `/api/v1/audiences/${path}`).send(body).expect(200)).body as Answer;
  const count = async (condition: object, more: object = {}): Promise<number> =>
    (await post<CountAnswer>('count', { condition, ...more })).count;
  const people = (condition: object, more: object = {}): Promise<PeopleAnswer> => post<PeopleAnswer>('people', { condition, ...more });
  const names = async (condition: object, more: object = {}): Promise<(string | null)[]> =>
    (await people(condition, more)).contacts.map((row) => row.email).sort();

  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock, ...(counting ? { counting } : {}) });
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({
          email: emailOf(n),
          // The last has no value.
          fields: { city: n % 2 === 0 ? 'Oakham' : 'Mill End', ...(n < PEOPLE - 1 ? { years: n % 5 } : {}) },
          consent: { email: n % 4 === 0 ? 'given' : 'unknown' },
        })),
      })
      .expect(200);
    await server.signals(
      ...[0, 1, 2, 3].map((n) =>
        event('order.placed', emailOf(n), { order: `o${n}` }, { time: new Date(START - n * 6 * DAY).toISOString() }),
      ),
    );
    if (counting)
      while ((await server.call('get', '/api/v1/status')).body.countingIndex !== 'ready')
        await new Promise((resolve) => setTimeout(resolve, 20));
  });
  afterAll(() => server.stop());

  it('are counted exactly, with how many there are and can be reached', async () => {
    const answer = await post<CountAnswer>('count', { condition: years('>', 2) });
    expect(answer).toEqual({ count: 8, of: PEOPLE, reachable: 2, asOf: new Date(START).toISOString() });
  });

  it('say of each line what it lets through, whom it stands exactly on, and who has no value', async () => {
    const condition = { match: 'all', of: [years('>', 2), ordered({ count: { op: '=', value: 0 }, within: lately })] };
    const { lines } = await post<CountAnswer>('count', { condition, sieve: true });
    expect(lines).toEqual([
      { alone: 8, remain: 8, others: 21, onLimit: 4, empty: 1, never: null, inner: [] },
      { alone: 21, remain: 8, others: 8, onLimit: null, empty: null, never: 19, inner: [] },
    ]);
    expect(await names(condition, { beside: { line: 0, list: 'limit' }, limit: 100 })).toHaveLength(4);
    expect(await names(condition, { beside: { line: 0, list: 'empty' } })).toEqual([emailOf(PEOPLE - 1)]);
    expect(await names(condition, { beside: { line: 1, list: 'never' }, limit: 100 })).toHaveLength(19);
    expect(await names(condition, { missedBy: 0, limit: 100 })).toHaveLength(21 - 8);
  });

  it('are listed page after page, the newest first, each once', async () => {
    const seen: string[] = [];
    let after: string | null = null;
    do {
      const page: PeopleAnswer = await people({ match: 'all', of: [] }, { limit: 7, ...(after ? { after } : {}) });
      seen.push(...page.contacts.map((row) => row.email ?? ''));
      after = page.after;
    } while (after);
    expect(seen).toEqual(Array.from({ length: PEOPLE }, (_, n) => emailOf(PEOPLE - 1 - n)));
  });

  it('are searched among those for whom the conditions hold', async () => {
    expect(await names(years('=', 1), { search: 'p1' })).toEqual([emailOf(11), emailOf(16)]);
    expect(await names(years('=', 1), { search: '%' })).toEqual([]);
  });

  it('are asked as of another instant: windows move, and what came after it is not there yet', async () => {
    const condition = ordered({ within: lately });
    expect(await count(condition)).toBe(2);
    expect(await count(condition, { at: new Date(START - 12 * DAY).toISOString() })).toBe(2);
    expect(await names(condition, { at: new Date(START - 12 * DAY).toISOString() })).toEqual([emailOf(2), emailOf(3)]);
    expect(await count(condition, { at: new Date(START + 60 * DAY).toISOString() })).toBe(0);
  });

  it('explain of one contact each line, what was seen, and when it changes by itself', async () => {
    const explained = await post<ExplainAnswer>('explain', {
      condition: { match: 'all', of: [ordered({ within: lately }), years('>=', 1)] },
      contact: emailOf(1),
    });
    expect(explained).toMatchObject({
      holds: true,
      // Ordered six days ago; in "the last 10 days" until the end of the tenth day after.
      changesAt: '2026-11-29T23:00:00.000Z',
      explanation: {
        holds: true,
        words: 'all of these hold',
        of: [
          { holds: true, path: [0], seen: { kind: 'signals', count: 1 } },
          { holds: true, path: [1], seen: { kind: 'value', value: 1_000_000 } },
        ],
      },
    });
    const not = await post<ExplainAnswer>('explain', { condition: years('>', 3), contact: emailOf(1) });
    expect(not).toMatchObject({ holds: false, changesAt: null });
  });

  it('move by the clock alone, and tell who came and went, the latest first', async () => {
    await server.define({ audiences: [{ key: 'lately', name: 'Lately', kind: 'live', condition: ordered({ within: lately }) }] });
    const before = (await server.call('get', '/api/v1/audiences/lately').expect(200)).body;
    expect(before).toMatchObject({ members: 2, building: false, broken: false });
    clock.moveTo(START + 6 * DAY);
    await server.idle();
    const { movements } = (await server.call('get', '/api/v1/audiences/lately/movements').expect(200)).body as Movements;
    expect(movements[0]).toMatchObject({ joined: false, cause: 'the clock' });
    expect((await server.call('get', '/api/v1/audiences/lately')).body.members).toBe(1);
    expect(await count(ordered({ within: lately }))).toBe(1);
  });

  it('refuse conditions that mean nothing, with where and what would be right', async () => {
    const refused = (condition: object) => server.call('post', '/api/v1/audiences/count').send({ condition }).expect(422);
    expect((await refused({ kind: 'tag', tag: 'no.tag', op: 'has' })).body.faults).toMatchObject([{ code: 'tag.unknown' }]);
    expect((await refused(years('contains', 3))).body.faults).toMatchObject([{ code: 'operator.unknown' }]);
    expect(
      (await refused({ match: 'all', of: [years('>', 1), { kind: 'field', field: 'city', op: 'contains', value: 'x' }] })).body.faults,
    ).toMatchObject([{ path: expect.arrayContaining(['of', 1]), code: 'value.short' }]);
    await server
      .call('post', '/api/v1/audiences/count')
      .send({ condition: years('>', 1), at: 'yesterday' })
      .expect(422);
    await server
      .call('post', '/api/v1/audiences/people')
      .send({ condition: years('>', 1), limit: 501 })
      .expect(422);
    await server.call('get', '/api/v1/audiences/no-such').expect(404);
    await server
      .call('post', '/api/v1/audiences/explain')
      .send({ condition: years('>', 1), contact: 'nobody@audience.example' })
      .expect(404);
  });
});
