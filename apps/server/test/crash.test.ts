import { fork, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { DatabaseClock } from '../src/engine/clock';
import { verify } from '../src/engine/verify';
import { DefinitionStore } from '../src/settings/definition-store';
import { createKey } from '../src/settings/keys.service';
import { event, testDatabase, type TestDatabase } from './harness';
import { SET_UP } from './world';

/** A long run kills it hundreds of times, in smaller batches: SIEVE_KILLS=300. */
const KILLS = Number(process.env['SIEVE_KILLS'] ?? 6);
const CONTACTS = 700;
const BATCH = KILLS > 6 ? 100 : 500;
/** A kill in every third batch, and some that are left in peace. */
const SIGNALS = BATCH * (3 * KILLS + 2);
const MS_A_KILL = 6_000;

/** The built server in a process of its own, which can be killed. */
function startServer(databaseUrl: string): Promise<{ child: ChildProcess; url: string }> {
  return new Promise((resolve, reject) => {
    const child = fork(join(__dirname, '../dist/main.js'), [], {
      env: { ...process.env, DATABASE_URL: databaseUrl, PORT: '0', SIEVE_WORKERS: '2' },
      execArgv: [],
    });
    child.once('message', (message: { port: number }) => resolve({ child, url: `http://127.0.0.1:${message.port}` }));
    child.once('exit', () => reject(new Error('the server ended before it answered')));
  });
}

const killed = (child: ChildProcess): Promise<void> =>
  new Promise((resolve) => {
    child.once('exit', () => resolve());
    child.kill('SIGKILL');
  });

describe('a server that is killed', () => {
  let test: TestDatabase;
  beforeAll(async () => {
    test = await testDatabase();
  });
  afterAll(() => test.drop());

  it(
    'has worked every accepted signal exactly once when it is started again',
    async () => {
      const { key } = await test.database.transaction((sql) =>
        createKey(sql, 'crash', ['signals:write', 'definitions:write', 'definitions:read', 'audiences:read'], null, Date.now()),
      );
      let { child, url } = await startServer(test.url);
      const call = (method: string, path: string, body?: unknown, type = 'application/json'): Promise<Response> =>
        fetch(`${url}${path}`, {
          method,
          headers: { authorization: `Bearer ${key}`, 'content-type': type },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        });
      expect((await call('PUT', '/api/v1/definitions', SET_UP)).status).toBe(200);

      const batches = Array.from({ length: SIGNALS / BATCH }, (_, batch) =>
        Array.from({ length: BATCH }, (_, index) => {
          const n = batch * BATCH + index;
          const email = `c${(n * 7_919) % CONTACTS}@test.example`;
          return n % 3 === 0
            ? event('form.answered', email, { form: 'find', answers: { stops: n % 2 ? 'price' : 'time' } })
            : event(n % 3 === 1 ? 'order.placed' : 'message.opened', email, n % 3 === 1 ? { order: String(n) } : {});
        }),
      );
      let kills = 0;
      for (const [index, batch] of batches.entries()) {
        // Sent until it is answered: the sender cannot know whether what it sent before the crash was accepted.
        for (;;) {
          const sent = call('POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json').catch(() => undefined);
          if (index % 3 === 2 && kills < KILLS) {
            await new Promise((resolve) => setTimeout(resolve, 5 + ((index * 37) % 90)));
            kills += 1;
            await killed(child);
            ({ child, url } = await startServer(test.url));
          }
          const response = await sent;
          if (response?.status === 202) break;
        }
      }
      for (let idle = false; !idle;) {
        idle = ((await (await call('GET', '/api/v1/status')).json()) as { idle: boolean }).idle;
        if (!idle) await new Promise((resolve) => setTimeout(resolve, 50));
      }
      expect(kills).toBe(KILLS);
      const [{ n, distinct } = { n: 0, distinct: 0 }] = await test.database.query<{ n: number; distinct: number }>(
        'select count(*) as n, count(distinct (source_id, sender_id)) as distinct from signal',
      );
      expect({ n, distinct }).toEqual({ n: SIGNALS, distinct: SIGNALS });
      const clock = new DatabaseClock();
      await clock.set(test.database);
      expect((await verify(test.database, new DefinitionStore(), clock)).byKind).toEqual({});
      // The counting index, in its thread, counts what the killed ones left, whether it has loaded them already or SQL still answers.
      const people = async (): Promise<number> =>
        ((await (await call('POST', '/api/v1/audiences/count', { condition: { match: 'all', of: [] } })).json()) as { count: number })
          .count;
      expect(await people()).toBe(CONTACTS);
      for (let state = ''; state !== 'ready';)
        state = ((await (await call('GET', '/api/v1/status')).json()) as { countingIndex: string }).countingIndex;
      expect(await people()).toBe(CONTACTS);
      const gaps = await test.database.query(
        'select l.lane from lane l where l.revision <> (select count(*) from feed f where f.lane = l.lane)',
      );
      expect(gaps).toEqual([]);
      await killed(child);
    },
    120_000 + KILLS * MS_A_KILL,
  );
});
