import { startLoneWorker } from './engine/lone-worker';
import { makeLog } from './log';

const log = makeLog();

/** A worker process of its own, beside a server that runs with SIEVE_WORKERS=0. The server delivers the messages. */
async function main(): Promise<void> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set.');
  const worker = await startLoneWorker(databaseUrl, '', log);
  process.send?.({ ready: true });
  const stop = (): void => void worker.stop().then(() => process.exit(0));
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
}

main().catch((error: unknown) => {
  log.fatal({ err: error }, 'the worker could not start');
  process.exit(1);
});
