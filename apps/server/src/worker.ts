import { PostRoomService } from './campaigns/post-room.service';
import { PublicAddress } from './campaigns/public-address';
import { Database } from './database/database';
import { every } from './engine/every';
import { LOOKED_AFTER_EVERY_MS, SWEPT_EVERY_MS } from './engine/engine.service';
import { forgettingFeed } from './engine/feed';
import { EditsService } from './engine/edits.service';
import { Follower } from './engine/follower';
import { startLoneWorker, type LoneParts } from './engine/lone-worker';
import { type Extra } from './engine/worker';
import { ServerClock } from './engine/server-clock';
import { ImportsService } from './intake/imports.service';
import { RetentionService } from './intake/retention.service';
import { WatchesService } from './intake/watches.service';
import { SignalsService } from './intake/signals.service';
import { makeLog } from './log';
import { SweepsService } from './rules/sweeps.service';
import { TakeBackRuns } from './ledger/take-back-runs.service';
import { TakeBackService } from './ledger/take-back.service';
import { DefinitionStore } from './settings/definition-store';
import { DefinitionsService } from './settings/definitions.service';
import { DayMailsService } from './tasks/day-mails.service';
import { TagReplacementsService } from './tags/tag-replacements.service';

const log = makeLog();

/**
 * A worker process of its own, beside a server that runs with SIEVE_WORKERS=0: it works what comes and what is due,
 * delivers the messages, reads watched files, and goes on with imports of servers that are gone.
 */
async function main(): Promise<void> {
  const databaseUrl = process.env['DATABASE_URL'];
  if (!databaseUrl) throw new Error('DATABASE_URL is not set.');
  let handOver = (): Promise<void> => Promise.resolve();
  const extra = ({ database, clock: inner }: LoneParts): Promise<Extra[]> => {
    const [store, clock] = [new DefinitionStore(), new ServerClock(inner)];
    const follower = new Follower(database, databaseUrl);
    const edits = new EditsService(database, store, clock, follower);
    const sweeps = new SweepsService(database, store, clock, follower);
    const takeBackRuns = new TakeBackRuns(database, store, clock);
    const takeBack = new TakeBackService(database, store, clock, follower, takeBackRuns);
    const replacements = new TagReplacementsService(
      database,
      store,
      clock,
      new DefinitionsService(database, store, clock),
      sweeps,
      takeBack,
    );
    const imports = new ImportsService(database, clock, edits, store);
    const retention = new RetentionService(database, store, clock);
    const watches = new WatchesService(database, clock, store, edits, imports);
    handOver = () => imports.beforeApplicationShutdown();
    return Promise.resolve([
      ...delivering(database, store, clock),
      every(
        LOOKED_AFTER_EVERY_MS,
        () => Date.now(),
        () => Promise.all([imports.takeOver(), watches.due(), retention.due()]),
      ),
      every(
        SWEPT_EVERY_MS,
        () => Date.now(),
        () => Promise.all([sweeps.due(), replacements.due(), takeBackRuns.due()]),
      ),
      forgettingFeed(database, clock),
    ]);
  };
  const worker = await startLoneWorker(databaseUrl, '', log, { extra });
  process.send?.({ ready: true });
  const stop = (): void =>
    void handOver()
      .then(() => worker.stop())
      .then(() => process.exit(0));
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
}

/** Links in messages lead to the server, which keeps its address with the workspace. */
function delivering(database: Database, store: DefinitionStore, clock: ServerClock): (() => Promise<boolean>)[] {
  const address = new PublicAddress();
  const postRoom = new PostRoomService(database, store, clock, new SignalsService(database, store, clock), address);
  const dayMails = new DayMailsService(database, store, clock, address);
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
      async () => {
        if (address.url === '') await readAddress();
        await Promise.all([postRoom.markInDoubt(), dayMails.due()]);
      },
    ),
  ];
}

main().catch((error: unknown) => {
  log.fatal({ err: error }, 'the worker could not start');
  process.exit(1);
});
