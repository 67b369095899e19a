import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { ProblemError } from '../http/problem';

/** So many attempts at once, and one more each time so long has gone by. */
interface Allowance {
  readonly atOnce: number;
  readonly oneMoreAfterMs: number;
}

/**
 * Of one account from browsers that were never signed in to it; of a browser that was, so that nobody can keep somebody out of their own
 * by guessing; and of one address, over all accounts.
 */
const ALLOWANCES = {
  account: { atOnce: 10, oneMoreAfterMs: 30_000 },
  browser: { atOnce: 10, oneMoreAfterMs: 30_000 },
  address: { atOnce: 40, oneMoreAfterMs: 5_000 },
} as const satisfies Record<string, Allowance>;
type Counted = keyof typeof ALLOWANCES;
export type Guess = readonly [Counted, string];

const KEPT_MS = 24 * 3_600_000;

/** Hashed, so that no address is kept for it. */
const keyOf = ([what, of]: Guess): string => createHash('sha256').update(`${what} ${of}`).digest('hex');

/** Counts attempts to guess a secret, before it is looked at: what is counted holds however many come at once, and in every process. */
@Injectable()
export class GuessesService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  /** @throws ProblemError 429 with the time to wait, if one of them has used up its attempts */
  async count(...guesses: readonly Guess[]): Promise<void> {
    for (const guess of guesses) {
      const { atOnce, oneMoreAfterMs } = ALLOWANCES[guess[0]];
      const used = 'greatest(0, g.used - extract(epoch from ($2::timestamptz - g.at)) * 1000 / $3::float8) + 1';
      const counted = await this.database.query(
        `insert into guess as g (key, used, at) values ($1, 1, $2)
         on conflict (key) do update set used = ${used}, at = greatest(g.at, $2::timestamptz) where ${used} <= $4::float8 returning 1`,
        [keyOf(guess), iso(this.clock.now()), oneMoreAfterMs, atOnce],
      );
      if (counted.length === 0)
        throw new ProblemError(429, 'sign-in.throttled', 'Too many attempts: wait half a minute and try again.', {
          retryAfterSeconds: Math.ceil(oneMoreAfterMs / 1_000),
        });
    }
  }

  /** An attempt that was right counts for nothing. @param all leaves none of what was counted of these before, either */
  async wasRight({ all = [], one = [] }: { readonly all?: readonly Guess[]; readonly one?: readonly Guess[] }): Promise<void> {
    await this.database.query(
      `with less as (update guess set used = greatest(0, used - 1) where key = any($2::text[])) delete from guess where key = any($1::text[]) or at < $3`,
      [all.map(keyOf), one.map(keyOf), iso(this.clock.now() - KEPT_MS)],
    );
  }
}
