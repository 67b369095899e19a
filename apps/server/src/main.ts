import { join } from 'node:path';
import { type DemoNews, type DemoWish } from '@eager-sieve/contracts';
import { PublicAddress } from './campaigns/public-address';
import { Database } from './database/database';
import { prepareDatabase } from './database/prepare';
import { ServerClock } from './engine/server-clock';
import { WAKE } from './engine/inbox';
import { ALONE } from './engine/turn';
import { toldClock } from './engine/told-clock';
import { workersWanted } from './engine/worker';
import { createApp } from './http/app';
import { makeLog } from './log';
import { DemoDoor } from './today/demo-door';

const log = makeLog();

/** Serves the interface, the API and, unless SIEVE_WORKERS is 0, the workers, on one port of loopback. */
async function main(): Promise<void> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set. `./sieve start` sets it.');
  const port = Number(process.env['PORT'] ?? 0);
  const host = process.env['SIEVE_HOST'] ?? '127.0.0.1';
  const database = await new Database(databaseUrl).open();
  for (const field of await prepareDatabase(database))
    log.warn(field, 'a field of the workspace has another key now, since the product has one of its own under the old one');
  const demo = new DemoDoor(process.send && ((asks) => void process.send?.({ asks } satisfies DemoWish)));
  process.on('message', (news: Partial<DemoNews>) => news.demo !== undefined && demo.tell({ demo: news.demo }));
  /** set where the demo lives through its past: the instant at which it begins, in ms */
  const story = process.env['SIEVE_STORY'];
  const app = await createApp({
    demo,
    database,
    databaseUrl,
    replicaUrl: process.env['DATABASE_REPLICA_URL'],
    clock: new ServerClock(
      story === undefined ? undefined : toldClock(Number(story), () => void database.query(`select pg_notify('${WAKE}', '')`)),
    ),
    // A story has nobody to share its lanes with. Two workers would wait for each other's companies.
    ...(story === undefined ? { workers: workersWanted() } : { workers: 1, portion: ALONE }),
    threads: true,
    ...(process.env['SIEVE_COUNTING'] === 'sql' || story !== undefined ? {} : { counting: 'thread' }),
    snapshotFolder: process.env['SIEVE_SNAPSHOTS'],
    webDirectory: process.env['SIEVE_WEB'] ?? join(__dirname, '../../web/dist'),
    log,
  });
  await app.listen(port, host);
  const address = app.getHttpServer().address() as { port: number };
  const publicAddress = app.get(PublicAddress);
  publicAddress.url ||= `http://${host}:${address.port}`;
  // Workers in processes of their own write links too.
  await database.query('update workspace set public_url = $1 where id = 1', [publicAddress.url]);
  process.send?.({ ready: true, port: address.port });

  let stopping = false;
  const stop = (): void => {
    if (stopping) return;
    stopping = true;
    void app
      .close()
      .then(() => database.close())
      .then(() => process.exit(0));
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
  process.on('disconnect', stop);
}

main().catch((error: unknown) => {
  log.fatal({ err: error }, 'the server could not start');
  process.exit(1);
});
