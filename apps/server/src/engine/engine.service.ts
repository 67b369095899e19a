import { hostname } from 'node:os';
import { type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { type Logger } from 'pino';
import { type PostRoomService } from '../campaigns/post-room.service';
import { type Database } from '../database/database';
import { makeSignalYears } from '../database/signal-years';
import { type ImportsService } from '../intake/imports.service';
import { type RetentionService } from '../intake/retention.service';
import { type WatchesService } from '../intake/watches.service';
import { type SweepsService } from '../rules/sweeps.service';
import { type TakeBackRuns } from '../ledger/take-back-runs.service';
import { type TagReplacementsService } from '../tags/tag-replacements.service';
import { type DayMailsService } from '../tasks/day-mails.service';
import { type DefinitionStore } from '../settings/definition-store';
import { DatabaseClock, SharedClock } from './clock';
import { every } from './every';
import { forgettingFeed } from './feed';
import { type Follower } from './follower';
import { MOVED, WAKE } from './inbox';
import { keepingTime } from './keeping-time';
import { workerName } from './queries/busy-lanes';
import { Rounds } from './rounds';
import { type ServerClock } from './server-clock';
import { type Portion } from './turn';
import { allOf, Worker, type Extra } from './worker';
import { WorkerThread } from './worker-threads';

export interface EngineParts {
  readonly database: Database;
  readonly databaseUrl: string;
  readonly clock: ServerClock;
  readonly store: DefinitionStore;
  readonly follower: Follower;
  readonly postRoom: PostRoomService;
  readonly dayMails: DayMailsService;
  readonly retention: RetentionService;
  readonly imports: ImportsService;
  readonly watches: WatchesService;
  readonly sweeps: SweepsService;
  readonly replacements: TagReplacementsService;
  readonly takeBackRuns: TakeBackRuns;
  readonly workers: number;
  readonly portion: Portion;
  /** whether workers have threads of their own */
  readonly threads: boolean;
  readonly log: Logger;
}

/** What others had in hand who are gone is looked after so often. */
export const LOOKED_AFTER_EVERY_MS = 5_000;
/** Whether the time of a sweep has come is looked at so often. */
export const SWEPT_EVERY_MS = 1_000;
/** Whether the coming year has a table for its signals is looked at so often. */
const YEARS_MADE_EVERY_MS = 3_600_000;
/** Messages wait so long at most until they are delivered. */
const BESIDE_EVERY_MS = 100;

/** The engine inside a server: follows the feed and, on a small site, runs the workers too. */
export class EngineService implements OnModuleInit, OnApplicationShutdown {
  readonly #parts: EngineParts;
  readonly #workers: (Worker | WorkerThread | Rounds)[] = [];

  constructor(parts: EngineParts) {
    this.#parts = parts;
  }

  async onModuleInit(): Promise<void> {
    const { database, databaseUrl, clock, store, follower, postRoom, workers, portion, threads, log } = this.#parts;
    const { dayMails, retention, imports, watches, sweeps, replacements, takeBackRuns } = this.#parts;
    if (clock.inner instanceof DatabaseClock) await clock.inner.set(database);
    await follower.start();
    if (workers === 0) return;
    const lookAfter = every(
      LOOKED_AFTER_EVERY_MS,
      () => Date.now(),
      () => Promise.all([imports.takeOver(), watches.due(), postRoom.markInDoubt(), dayMails.due(), retention.due()]),
    );
    const sweep = every(
      SWEPT_EVERY_MS,
      () => Date.now(),
      () => Promise.all([sweeps.due(), replacements.due(), takeBackRuns.due()]),
    );
    const makeYears = every(
      YEARS_MADE_EVERY_MS,
      () => clock.now(),
      () => makeSignalYears(database, clock.now()),
    );
    const beside: readonly Extra[] = [() => postRoom.deliver(), lookAfter, sweep, forgettingFeed(database, clock), makeYears];
    const shared = clock.inner instanceof SharedClock ? { clock: clock.inner.memory } : {};
    for (let n = 0; n < workers; n += 1)
      this.#workers.push(
        threads
          ? new WorkerThread({ databaseUrl, name: `/${n}`, portion, ...shared }, log)
          : new Worker(
              database,
              store,
              clock.inner,
              databaseUrl,
              workerName(`${process.pid}/${n} ${hostname()}`),
              log,
              n === 0 ? beside : [],
              portion,
            ),
      );
    const keepTime = keepingTime(clock.inner, database);
    // The thread that answers requests has all its time for them and for what is small.
    if (threads)
      this.#workers.push(
        new Rounds({
          url: databaseUrl,
          name: 'eager-sieve wake',
          channels: [WAKE, MOVED],
          round: () => allOf([keepTime, ...beside]),
          failed: (error) => log.error({ err: error }, 'something beside the passes failed; it will be tried again'),
          apartMs: BESIDE_EVERY_MS,
        }),
      );
    for (const worker of this.#workers) worker.start();
  }

  async onApplicationShutdown(): Promise<void> {
    await Promise.all(this.#workers.map((worker) => worker.stop()));
    await this.#parts.follower.stop();
  }
}
