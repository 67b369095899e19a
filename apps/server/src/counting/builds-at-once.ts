import { setTimeout as wait } from 'node:timers/promises';
import { type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { type Logger } from 'pino';
import { type Database } from '../database/database';
import { buildAtOnce, leaveToPasses } from '../engine/build-at-once';
import { type FindMoves } from '../engine/find-moves';
import { type ServerClock } from '../engine/server-clock';
import { type DefinitionStore } from '../settings/definition-store';
import { type CountingService } from './counting.service';

const LOOKED_AT_EVERY_MS = 200;
/** So long it is waited for an index that catches up: it does so faster than passes go. */
const PATIENCE_MS = 30_000;
/** Lanes are not held any longer for its answer, since signals wait: it may be busy with a long count. */
const LANES_HELD_MS = 3_000;

/** Brings everyone up out of the counting index where a definition was saved that lets it. What it cannot do is left to passes. */
export class BuildsAtOnce implements OnModuleInit, OnApplicationShutdown {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  readonly #clock: ServerClock;
  readonly #counting: CountingService;
  readonly #log: Logger;
  #timer: NodeJS.Timeout | undefined;
  #stopped = false;
  #looking: Promise<void> = Promise.resolve();

  constructor(database: Database, store: DefinitionStore, clock: ServerClock, counting: CountingService, log: Logger) {
    this.#database = database;
    this.#store = store;
    this.#clock = clock;
    this.#counting = counting;
    this.#log = log;
  }

  onModuleInit(): void {
    this.#again();
  }

  async onApplicationShutdown(): Promise<void> {
    this.#stopped = true;
    clearTimeout(this.#timer);
    await this.#looking;
  }

  #again(): void {
    this.#timer = setTimeout(() => {
      this.#looking = this.#look().then(() => {
        if (!this.#stopped) this.#again();
      });
    }, LOOKED_AT_EVERY_MS);
  }

  /** Takes steps as long as there are any. The database can be away: then it is looked again. */
  async #look(): Promise<void> {
    try {
      const goOn = async (): Promise<void> => {
        while (!this.#stopped && (await this.#step()));
      };
      // While the database writes the one, the index looks for the other.
      await Promise.all([goOn(), goOn()]);
    } catch (error) {
      this.#log.error({ err: error }, 'nobody could be brought up at once; it is left to passes');
      await leaveToPasses(this.#database).catch(() => undefined);
    }
  }

  async #step(): Promise<boolean> {
    const [build] = await this.#database.query<{ id: number; started_at: Date }>(
      `select id, started_at from build where state = 'running' and at_once_until is not null order by id limit 1`,
    );
    if (!build) return false;
    const isPatient = this.#clock.now() - build.started_at.getTime() < PATIENCE_MS;
    const find: FindMoves = async (question) => {
      const found = await Promise.race([this.#counting.moves(question), wait(LANES_HELD_MS, 'later' as const, { ref: false })]);
      if (found === 'later') return isPatient ? 'later' : undefined;
      return found ?? (isPatient && (await this.#counting.state()) === 'catching up' ? 'later' : undefined);
    };
    return (await buildAtOnce(this.#database, this.#store, this.#clock, find)) === 'done';
  }
}
