import { iso } from '../src/engine/clock';
import { forgetFeed } from '../src/engine/queries/forget-feed';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const DAY = 86_400_000;
const order = (n: number): object => event('order.placed', `fed${n % 3}@test.example`, { order: `f${n}` });

describe('what the feed told', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    for (let n = 0; n < 9; n += 1) await server.signals(order(n));
  });
  afterAll(() => server.stop());

  const told = (): Promise<{ lane: number; revision: number; newest: boolean }[]> =>
    server.database.query(
      'select f.lane, f.revision, f.revision = l.revision as newest from feed f join lane l on l.lane = f.lane order by 1, 2',
    );

  it('goes when it is old, but for the newest of each lane, and nobody is counted otherwise', async () => {
    const before = await told();
    expect(before.filter(({ newest }) => !newest).length).toBeGreaterThan(5);
    const long = iso(Date.now() - 2 * DAY);
    expect(await forgetFeed(server.database, long)).toBe(0);
    expect(await told()).toEqual(before);
    const [last] = before.filter(({ newest }) => !newest).slice(-1);
    await server.database.query(`update feed set at = at - interval '3 days' where (lane, revision) <> ($1, $2)`, [
      last?.lane,
      last?.revision,
    ]);
    const gone = before.filter((row) => !row.newest && (row.lane !== last?.lane || row.revision < last.revision));
    expect(await forgetFeed(server.database, long)).toBe(gone.length);
    expect(await told()).toEqual(before.filter((row) => !gone.includes(row)));
    await server.signals(order(9));
    expect((await server.verify()).differences).toBe(0);
  });
});
