import { hostname } from 'node:os';
import { Database } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { DatabaseClock } from './clock';
import { Worker, type WorkerLog } from './worker';

/** A worker with connections, definitions and a clock of its own, for a process or a thread in which it is alone. */
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
