import { setTimeout as wait } from 'node:timers/promises';
import { makeSignalYears } from '../src/database/signal-years';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const NOW = Date.UTC(2035, 5, 1);
const order = (id: string, time: string): object => event('order.placed', 'years@test.example', { order: id }, { id, time });

describe('the tables of the years', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ clock: new StandingClock(NOW) });
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());

  const tables = async (): Promise<string[]> =>
    (
      await server.database.query<{ name: string }>(
        `select inhrelid::regclass::text as name from pg_inherits where inhparent = 'signal'::regclass order by 1`,
      )
    ).map(({ name }) => name);
  const placed = (): Promise<{ id: string; lies: string }[]> =>
    server.database.query(`select details->>'order' as id, tableoid::regclass::text as lies from signal order by time`);

  it('are made by the server, and only those that are needed', async () => {
    while (!(await tables()).includes('signal_2036')) await wait(20);
    // The database was made today, and the server lives in 2035.
    expect((await tables()).length).toBeLessThanOrEqual(1 + 2 * 3);
  });

  it('are made where they are missing, and take what stood elsewhere', async () => {
    await server.database.query('drop table signal_2034, signal_2035, signal_2036');
    for (const [id, time] of [
      ['long-ago', '2031-03-01T00:00:00Z'],
      ['first', '2034-01-01T00:00:00Z'],
      ['last', '2034-12-31T23:59:59.999Z'],
      ['this-year', '2035-01-01T00:00:00Z'],
    ] as const)
      await server.signals(order(id, time));
    const before = await server.database.query('select * from signal order by time');
    expect(new Set((await placed()).map(({ lies }) => lies))).toEqual(new Set(['signal_other']));

    expect(await Promise.all([makeSignalYears(server.database, NOW), makeSignalYears(server.database, NOW)])).toEqual(
      expect.arrayContaining([[2034, 2035, 2036], []]),
    );
    expect(await server.database.query('select * from signal order by time')).toEqual(before);
    expect(await placed()).toEqual([
      { id: 'long-ago', lies: 'signal_other' },
      { id: 'first', lies: 'signal_2034' },
      { id: 'last', lies: 'signal_2034' },
      { id: 'this-year', lies: 'signal_2035' },
    ]);
    await server.signals(order('later', '2035-05-01T00:00:00Z'));
    expect((await placed()).at(-1)).toEqual({ id: 'later', lies: 'signal_2035' });
    expect((await server.verify()).differences).toBe(0);
  });

  it('have the keys and indexes of the signals', async () => {
    const indexes = (table: string): Promise<unknown[]> =>
      server.database.query(
        `select regexp_replace(pg_get_indexdef(indexrelid), '^.* USING ', '') as on, indisunique as unique, indisprimary as primary
           from pg_index where indrelid = '${table}'::regclass order by 1`,
      );
    expect(await indexes('signal_2035')).toEqual(await indexes('signal_other'));
  });

  it('are made in time for the year that comes, and nothing is made twice', async () => {
    expect(await makeSignalYears(server.database, NOW)).toEqual([]);
    expect(await makeSignalYears(server.database, Date.UTC(2036, 0, 1))).toEqual([2037]);
    expect(await tables()).toEqual(expect.arrayContaining(['signal_2034', 'signal_2035', 'signal_2036', 'signal_2037', 'signal_other']));
  });
});
