import { hostname } from 'node:os';
import pino from 'pino';
import { Database } from './database/database';
import { DatabaseClock } from './engine/clock';
import { Worker } from './engine/worker';
import { DefinitionStore } from './settings/definition-store';

const log = pino({ level: process.env['SIEVE_LOG'] ?? 'warn' });

/** A worker alone, beside a server that runs with SIEVE_WORKERS=0. Messages are delivered by the server. */
async function main(): Promise<void> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set.');
  const database = await new Database(databaseUrl, 4).open();
  const clock = new DatabaseClock();
  await clock.set(database);
  const worker = new Worker(database, new DefinitionStore(), clock, databaseUrl, `${hostname()}/${process.pid}`, log);
  worker.start();
  process.send?.({ ready: true });
  const stop = (): void =>
    void worker
      .stop()
      .then(() => database.close())
      .then(() => process.exit(0));
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
}

main().catch((error: unknown) => {
  log.fatal({ err: error }, 'the worker could not start');
  process.exit(1);
});
