import { EARLIEST_INSTANT, LATEST_INSTANT, type Instant } from '@eager-sieve/core';
import { type Sql } from '../database/database';

/** The source of every *now*. Nothing else in the server reads the time where it has a meaning. */
export interface Clock {
  now(): Instant;
}

/** This machine's clock, synchronised with the database's so that several servers agree. */
export class DatabaseClock implements Clock {
  #offsetMs = 0;
  #last = 0;

  /** Asks the database for its time and keeps the difference. */
  async set(sql: Sql): Promise<void> {
    const before = Date.now();
    // eslint-disable-next-line no-restricted-syntax -- the one place where the database is asked for the time: it sets the clock
    const [row] = await sql.query<{ ms: string }>(`select (extract(epoch from clock_timestamp()) * 1000)::bigint as ms`);
    const after = Date.now();
    this.#offsetMs = Number(row?.ms) - (before + after) / 2;
  }

  /** Monotonic: never earlier than a value returned before, even if the machine's clock is set back. */
  now(): Instant {
    this.#last = Math.max(this.#last, Math.round(Date.now() + this.#offsetMs));
    return this.#last;
  }
}

/** A clock that stands until it is moved. */
export class StandingClock implements Clock {
  #now: Instant;

  constructor(now: Instant) {
    this.#now = now;
  }

  now(): Instant {
    return this.#now;
  }

  moveTo(now: Instant): void {
    this.#now = Math.max(this.#now, now);
  }
}

/** A clock that stands until it is moved, for all threads of a process that are given its memory. */
export class SharedClock implements Clock {
  readonly #at: BigInt64Array;

  constructor(readonly memory: SharedArrayBuffer) {
    this.#at = new BigInt64Array(memory);
  }

  static standingAt(now: Instant): SharedClock {
    const clock = new SharedClock(new SharedArrayBuffer(BigInt64Array.BYTES_PER_ELEMENT));
    clock.moveTo(now);
    return clock;
  }

  now(): Instant {
    return Number(Atomics.load(this.#at, 0));
  }

  moveTo(now: Instant): void {
    Atomics.store(this.#at, 0, BigInt(Math.max(this.now(), now)));
  }
}

/** An instant as the database takes it. What is reckoned from a date in the first or last year that there is can lie beyond: it is held there. */
export const iso = (instant: Instant): string => new Date(Math.min(LATEST_INSTANT, Math.max(EARLIEST_INSTANT, instant))).toISOString();
