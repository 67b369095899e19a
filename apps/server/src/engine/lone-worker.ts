import { hostname } from 'node:os';
import { Database } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { DatabaseClock, type Clock } from './clock';
import { type Portion } from './turn';
import { workerName } from './queries/busy-lanes';
import { Worker, type Extra, type WorkerLog } from './worker';

/** What a lone worker has, for further work of its own. */
export interface LoneParts {
  readonly database: Database;
  readonly clock: Clock;
}

interface LoneOptions {
  readonly extra?: (parts: LoneParts) => Promise<readonly Extra[]>;
  readonly portion?: Portion;
  /** the database's where it is left out */
  readonly clock?: Clock | undefined;
}

/** A worker with its own connections and definitions, for a process or thread of its own. */
export async function startLoneWorker(
  databaseUrl: string,
  name: string,
  log: WorkerLog,
  { extra = () => Promise.resolve([]), portion, clock = new DatabaseClock() }: LoneOptions = {},
): Promise<{ stop(): Promise<void> }> {
  const database = await new Database(databaseUrl, 4).open();
  if (clock instanceof DatabaseClock) await clock.set(database);
  const worker = new Worker(
    database,
    new DefinitionStore(),
    clock,
    databaseUrl,
    workerName(`${process.pid}${name} ${hostname()}`),
    log,
    await extra({ database, clock }),
    portion,
  );
  worker.start();
  let stopped: Promise<void> | undefined;
  return { stop: () => (stopped ??= worker.stop().then(() => database.close())) };
}
