import { parentPort, workerData } from 'node:worker_threads';
import { makeLog } from '../log';
import { SharedClock } from './clock';
import { startLoneWorker } from './lone-worker';
import { STOP, type ThreadData } from './worker-threads';

/** A worker in a thread of the server. Passes are CPU-bound, and one thread uses one core. */
async function main(): Promise<void> {
  const { databaseUrl, name, portion, clock } = workerData as ThreadData;
  const worker = await startLoneWorker(databaseUrl, name, makeLog(), { portion, clock: clock && new SharedClock(clock) });
  parentPort?.on('message', (message: unknown) => {
    if (message === STOP) void worker.stop().then(() => process.exit(0));
  });
}

void main();
