import { LANES } from '@eager-sieve/core';
import { Client } from 'pg';
import { lockBusyLanes, othersAtWork, workerName } from '../src/engine/queries/busy-lanes';
import { testDatabase, type TestDatabase } from './harness';

const NOW = Date.parse('2026-11-25T12:00:00Z');
const [ME, OTHER] = [workerName('1/0 here'), workerName('1/1 here')];
const ago = (ms: number): string => new Date(NOW - ms).toISOString();

describe('lanes with something to do', () => {
  let test: TestDatabase;
  beforeAll(async () => {
    test = await testDatabase();
  });
  afterAll(() => test.drop());

  /** Something waits in these lanes: whose they are, and for how long it has waited. */
  async function waits(lanes: Readonly<Record<number, { of?: string; ms: number }>>): Promise<void> {
    await test.database.query('update lane set owner = null');
    await test.database.query('delete from inbox');
    for (const [lane, { of, ms }] of Object.entries(lanes)) {
      await test.database.query('update lane set owner = $2 where lane = $1', [lane, of ?? null]);
      await test.database.query(
        `insert into inbox (lane, seq, contact_id, kind, arrived_at, payload) values ($1, nextval('inbox_seq'), 1, 'edit', $2, '{}')`,
        [lane, ago(ms)],
      );
    }
  }
  const taken = async (others: readonly string[], limit = LANES): Promise<readonly number[]> =>
    (await lockBusyLanes(test.database, ago(0), ME, limit, { others })).map(({ lane }) => lane);

  it('are taken by how long they have waited, whoever had them, where nobody else is at work', async () => {
    await waits({ 3: { ms: 100 }, 5: { ms: 300, of: OTHER }, 9: { ms: 200, of: ME } });
    expect(await taken([])).toEqual([5, 9, 3]);
    expect(await taken([], 2)).toEqual([5, 9]);
  });

  it('are left to who has them and is at work', async () => {
    await waits({ 3: { ms: 100 }, 5: { ms: 300, of: OTHER }, 9: { ms: 200, of: ME } });
    expect(await taken([OTHER])).toEqual([9, 3]);
  });

  it('are taken from others two at a time, where they have waited for seconds longer than all that is one’s own', async () => {
    const late = { 5: { of: OTHER, ms: 9_020 }, 6: { of: OTHER, ms: 9_010 }, 7: { of: OTHER, ms: 9_000 } };
    await waits({ 1: { ms: 3_000, of: ME }, ...late });
    expect(await taken([OTHER])).toEqual([1, 5, 6]);
    await waits({ 1: { ms: 8_000, of: ME }, ...late });
    expect(await taken([OTHER])).toEqual([1]);
    await waits({ 5: { of: OTHER, ms: 4_000 } });
    expect(await taken([OTHER])).toEqual([]);
    await waits(late);
    expect(await taken([OTHER])).toEqual([5, 6]);
  });

  it('that nobody has are taken up to one’s share', async () => {
    const mine = Array.from({ length: LANES / 2 }, (_, lane) => [lane, { of: ME, ms: 100 }] as const);
    await waits({ ...Object.fromEntries(mine), [LANES - 1]: { ms: 300 } });
    expect(await taken([OTHER])).toEqual(mine.map(([lane]) => lane));
    expect(await taken([])).toContain(LANES - 1);
  });

  it('belong to workers that are at work as long as they are connected', async () => {
    const client = new Client({ connectionString: test.url, application_name: OTHER });
    await client.connect();
    expect(await othersAtWork(test.database, ME)).toEqual([OTHER]);
    expect(await othersAtWork(test.database, OTHER)).toEqual([]);
    await client.end();
    while ((await othersAtWork(test.database, ME)).length > 0) await new Promise((resolve) => setTimeout(resolve, 20));
  });
});
