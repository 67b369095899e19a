import { type Funnel } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { StandingClock } from '../src/engine/clock';
import { TestServer } from './harness';

const DAY = 86_400_000;
const START = Date.parse('2026-03-30T11:00:00Z');
const STAGES = ['heard', 'in-touch', 'customer', 'regular'];
const PEOPLE = 14;
const STEPS = 24;

/** On which day somebody came to which stage, or off the ladder. */
interface Step {
  readonly who: number;
  readonly stage: string | null;
}
type History = readonly (readonly [day: number, stage: string | null])[];

const median = (numbers: readonly number[]): number | null => {
  const sorted = [...numbers].sort((a, b) => a - b);
  const middle = (sorted.length - 1) / 2;
  return sorted.length === 0 ? null : ((sorted[Math.floor(middle)] as number) + (sorted[Math.ceil(middle)] as number)) / 2;
};
const dateOf = (day: number): string => new Date(START + day * DAY).toISOString().slice(0, 10);

/** The funnel, counted one person at a time. */
function counted(histories: readonly History[], from: number, to: number): Funnel {
  const places = histories.map((history) => history.map(([day, stage]) => [day, stage === null ? -1 : STAGES.indexOf(stage)] as const));
  const cohort = places.filter((history) => {
    const entry = history.find(([, place]) => place >= 0)?.[0];
    return entry !== undefined && entry >= from && entry <= to;
  });
  const first = (history: (typeof cohort)[number], place: number): number | undefined => history.find(([, at]) => at >= place)?.[0];
  const months = [...new Set(cohort.map((history) => dateOf(first(history, 0) as number).slice(0, 7)))].sort();
  const reachedOf = (those: typeof cohort) => STAGES.map((_, place) => those.filter((history) => first(history, place) !== undefined));
  return {
    entered: cohort.length,
    off: cohort.filter((history) => history.at(-1)?.[1] === -1).length,
    stages: STAGES.map((key, place) => {
      const those = reachedOf(cohort)[place] as typeof cohort;
      const since = (before: number): number[] =>
        those.map((history) => (first(history, place) as number) - (first(history, before) as number));
      return {
        key,
        name: key,
        reached: those.length,
        skipped: those.filter((history) => !history.some(([, at]) => at === place)).length,
        standing: cohort.filter((history) => history.at(-1)?.[1] === place).length,
        daysFromEntry: median(since(0)),
        daysFromBefore: place === 0 ? null : median(since(place - 1)),
      };
    }),
    months: months.map((month) => {
      const those = cohort.filter((history) => dateOf(first(history, 0) as number).startsWith(month));
      return { month, entered: those.length, reached: reachedOf(those).map((each) => each.length) };
    }),
  };
}

describe('the funnel of the ladder', () => {
  let server: TestServer;
  const clock = new StandingClock(START);
  beforeAll(async () => {
    server = await TestServer.start({ clock });
    await server.define({ timeZone: 'UTC', ladder: STAGES.map((key, index) => ({ key, name: key, position: index + 1 })) });
  });
  afterAll(() => server.stop());
  const asked = async (query: object): Promise<Funnel> =>
    (await server.call('get', '/api/app/ladder/funnel').query(query).expect(200)).body as Funnel;

  it('is empty where nobody is on the ladder', async () => {
    expect(await asked({})).toEqual(counted([], 0, 99));
  });

  it('equals what the histories of its people come to, as a whole and by the time they came', async () => {
    const histories: [number, string | null][][] = Array.from({ length: PEOPLE }, () => []);
    const day = fc.array(fc.record<Step>({ who: fc.nat(PEOPLE - 1), stage: fc.constantFrom(...STAGES, null) }), {
      minLength: 1,
      maxLength: 6,
    });
    const [days = []] = fc.sample(fc.array(day, { minLength: STEPS, maxLength: STEPS }), { numRuns: 1, seed: 11 });
    for (const [n, steps] of days.entries()) {
      const now = new Map(steps.map(({ who, stage }) => [who, stage]));
      clock.moveTo(START + n * DAY);
      await server
        .call('put', '/api/v1/contacts')
        .send({ contacts: [...now].map(([who, stage]) => ({ email: `c${who}@test.example`, stage })) })
        .expect(200);
      await server.idle();
      for (const [who, stage] of now) histories[who]?.push([n, stage]);
    }
    // A day off the ladder before anybody came onto it says nothing.
    const whole = counted(histories, 0, STEPS);
    expect(whole.entered).toBeGreaterThan(PEOPLE / 2);
    expect(whole.months.length).toBeGreaterThan(1);
    expect(whole.stages.some(({ skipped }) => skipped > 0)).toBe(true);
    expect(await asked({})).toEqual(whole);
    expect(await asked({ from: dateOf(3), to: dateOf(9) })).toEqual(counted(histories, 3, 9));
    expect(await asked({ to: dateOf(0) })).toEqual(counted(histories, 0, 0));
    expect(await asked({ from: '2030-01-01' })).toMatchObject({ entered: 0, months: [] });
  });
});
