import { randomBytes } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { Database } from '../src/database/database';
import { prepareDatabase } from '../src/database/prepare';
import { makeLog } from '../src/log';
// As it is built, since a thread begins with a file that Node can run.
import { CountingService } from '../dist/counting/counting.service';
import { admin, urlOf } from './template';

describe('the counting thread', () => {
  const name = `test_${randomBytes(6).toString('hex')}`;
  const url = urlOf(name);
  let database: Database;
  let counting: CountingService;
  const logged: string[] = [];
  beforeAll(() => {
    database = new Database(url);
    counting = new CountingService(
      { database: database as never, databaseUrl: url, counting: 'thread' },
      makeLog({ write: (line: string) => void logged.push(line) }),
    );
  });
  afterAll(async () => {
    await counting.onApplicationShutdown();
    await database.close();
    await admin(`drop database if exists ${name} with (force)`);
  });

  it('begins anew by itself after it has failed, and SQL is asked until then', async () => {
    counting.onModuleInit();
    // There is no such database yet, at which the thread ends.
    while (!logged.some((line) => line.includes('the counting thread failed'))) await wait(20);
    const everyone = { condition: { match: 'all' as const, of: [] }, instant: Date.now(), clock: 'now' as const };
    expect(await counting.count(everyone, false)).toBeUndefined();
    await admin(`create database ${name} template ${process.env['TEST_TEMPLATE']}`);
    await prepareDatabase(await database.open());
    while ((await counting.state()) !== 'ready') await wait(50);
    expect(await counting.count(everyone, false)).toMatchObject({ count: 0, of: 0 });
  });
});
