import { PostRoomService } from './campaigns/post-room.service';
import { PublicAddress } from './campaigns/public-address';
import { Database } from './database/database';
import { every } from './engine/every';
import { LOOKED_AFTER_EVERY_MS } from './engine/engine.service';
import { startLoneWorker } from './engine/lone-worker';
import { ServerClock } from './engine/server-clock';
import { SignalsService } from './intake/signals.service';
import { makeLog } from './log';
import { DefinitionStore } from './settings/definition-store';

const log = makeLog();

/** A worker process of its own, beside a server that runs with SIEVE_WORKERS=0: it works what comes and what is due, and delivers the messages. */
async function main(): Promise<void> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set.');
  const worker = await startLoneWorker(databaseUrl, '', log, ({ database, clock }) => delivering(database, new ServerClock(clock)));
  process.send?.({ ready: true });
  const stop = (): void => void worker.stop().then(() => process.exit(0));
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
}

/** Links in messages lead to the server, which keeps its address with the workspace. */
async function delivering(database: Database, clock: ServerClock): Promise<(() => Promise<boolean>)[]> {
  const store = new DefinitionStore();
  const address = new PublicAddress();
  const postRoom = new PostRoomService(database, store, clock, new SignalsService(database, store, clock), address);
  const readAddress = async (): Promise<void> => {
    const [row] = await database.query<{ public_url: string }>('select public_url from workspace where id = 1');
    address.url ||= row?.public_url ?? '';
  };
  return [
    async () => {
      if (address.url === '') await readAddress();
      return address.url === '' ? false : postRoom.deliver();
    },
    every(
      LOOKED_AFTER_EVERY_MS,
      () => Date.now(),
      () => postRoom.markInDoubt(),
    ),
  ];
}

main().catch((error: unknown) => {
  log.fatal({ err: error }, 'the worker could not start');
  process.exit(1);
});
