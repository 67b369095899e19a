import { type ContactView, type ScoreHistory } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const EMAIL = 'anna@history.example';

describe('how a score stood', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const history = async (days: number): Promise<ScoreHistory> =>
    (await server.call('get', `/api/app/contacts/${EMAIL}/scores/keen`).query({ days }).expect(200)).body as ScoreHistory;
  const points = async (): Promise<number | undefined> =>
    ((await server.call('get', `/api/v1/contacts/${EMAIL}`).expect(200)).body as ContactView).scores.find(({ key }) => key === 'keen')
      ?.points;

  it('is on each day what it was on that day, with what moved it and when it came into another band', async () => {
    const noted: (number | undefined)[] = [];
    for (let day = 0; day < 40; day += 1) {
      if (day === 2 || day === 5)
        await server.signals(event('order.placed', EMAIL, { order: `o${day}` }, { time: new Date(clock.now()).toISOString() }));
      if (day % 4 === 1)
        await server.signals(event('message.opened', EMAIL, { message: 'm' }, { time: new Date(clock.now()).toISOString() }));
      // What stands at the end of the day: the last instant of it, in Stockholm.
      clock.moveTo(Date.UTC(2026, 10, 25 + day, 22, 59, 59, 999));
      await server.idle();
      noted.push(await points());
      clock.moveTo(START + (day + 1) * DAY);
      await server.idle();
    }
    const { days, crossings } = await history(41);
    expect(days.map((each) => each.day).slice(0, 2)).toEqual(['2026-11-25', '2026-11-26']);
    expect(days.slice(0, 40).map((each) => each.points)).toEqual(noted);
    expect(days.at(-1)?.points).toBe(await points());
    expect(days[2]?.moved[0]).toEqual({ line: 'orders', points: 20 });
    // Thirty days later the first order counts no more.
    expect(days.find(({ moved }) => moved.some(({ line, points: by }) => line === 'orders' && by === -20))?.day).toBe('2026-12-28');
    for (const [at, each] of days.entries()) {
      const sum = each.moved.reduce((total, { points: by }) => total + by, 0);
      expect(sum).toBeCloseTo(each.points - (days[at - 1]?.points ?? 0), 6);
    }
    expect(crossings.map(({ from, to }) => [from, to])).toEqual(
      expect.arrayContaining([
        ['quiet', 'keen'],
        ['keen', 'quiet'],
      ]),
    );
  }, 120_000);

  it('is asked of scorecards of contacts alone, for as many days as one likes, within a year or so', async () => {
    expect((await history(1)).days).toHaveLength(1);
    await server.call('get', `/api/app/contacts/${EMAIL}/scores/none`).expect(404);
    await server.call('get', `/api/app/contacts/${EMAIL}/scores/keen`).query({ days: 0 }).expect(422);
    await server.call('get', `/api/app/contacts/${EMAIL}/scores/keen`).query({ days: 401 }).expect(422);
  });
});
