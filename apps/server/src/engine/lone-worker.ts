import { hostname } from 'node:os';
import { Database } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { DatabaseClock } from './clock';
import { Worker, type WorkerLog } from './worker';

/** A worker with its own connections, definitions and clock, for a process or thread of its own. */
export async function startLoneWorker(databaseUrl: string, name: string, log: WorkerLog): Promise<{ stop(): Promise<void> }> {
  const database = await new Database(databaseUrl, 4).open();
  const clock = new DatabaseClock();
  await clock.set(database);
  const worker = new Worker(database, new DefinitionStore(), clock, databaseUrl, `${hostname()}/${process.pid}${name}`, log);
  worker.start();
  return {
    async stop() {
      await worker.stop();
      await database.close();
    },
  };
}
