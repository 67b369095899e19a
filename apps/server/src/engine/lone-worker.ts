import { hostname } from 'node:os';
import { Database } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { DatabaseClock } from './clock';
import { workerName } from './queries/busy-lanes';
import { Worker, type WorkerLog } from './worker';

/** What a lone worker has, for further work of its own. */
export interface LoneParts {
  readonly database: Database;
  readonly clock: DatabaseClock;
}

/** A worker with its own connections, definitions and clock, for a process or thread of its own. */
export async function startLoneWorker(
  databaseUrl: string,
  name: string,
  log: WorkerLog,
  extra: (parts: LoneParts) => Promise<(() => Promise<boolean>)[]> = () => Promise.resolve([]),
): Promise<{ stop(): Promise<void> }> {
  const database = await new Database(databaseUrl, 4).open();
  const clock = new DatabaseClock();
  await clock.set(database);
  const worker = new Worker(
    database,
    new DefinitionStore(),
    clock,
    databaseUrl,
    workerName(`${process.pid}${name} ${hostname()}`),
    log,
    await extra({ database, clock }),
  );
  worker.start();
  let stopped: Promise<void> | undefined;
  return { stop: () => (stopped ??= worker.stop().then(() => database.close())) };
}
