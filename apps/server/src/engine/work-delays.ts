import { type Sql } from '../database/database';

/** Upper ends of the buckets, in seconds; what waited longer is in the last one. */
const ENDS = [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 60, 300] as const;
const WRITTEN_EVERY_MS = 5_000;

/** How long what is worked had waited, counted in this process and written down now and then: all processes of a workspace count together. */
export class WorkDelays {
  #counts: number[] = ENDS.map(() => 0).concat(0);
  #sum = 0;
  #isEmpty = true;
  #writtenAt = 0;

  /** @param arrivals instants at which what is worked at `now` had arrived */
  add(arrivals: readonly number[], now: number): void {
    for (const at of arrivals) {
      const seconds = Math.max(0, now - at) / 1_000;
      const bucket = ENDS.findIndex((end) => seconds <= end);
      const place = bucket < 0 ? ENDS.length : bucket;
      this.#counts[place] = (this.#counts[place] ?? 0) + 1;
      this.#sum += seconds;
      this.#isEmpty = false;
    }
  }

  /** @param nowMs of this machine: it says only how often */
  async writeDown(sql: Sql, nowMs: number, isLast = false): Promise<void> {
    if (this.#isEmpty || (!isLast && nowMs - this.#writtenAt < WRITTEN_EVERY_MS)) return;
    const [counts, sum] = [this.#counts, this.#sum];
    this.#counts = counts.map(() => 0);
    this.#sum = 0;
    this.#isEmpty = true;
    this.#writtenAt = nowMs;
    await sql.query(
      `insert into work_delay (bucket, n, seconds)
       select r.bucket - 1, r.n, case when r.bucket = 1 then $2::float8 else 0 end
         from unnest($1::bigint[]) with ordinality as r(n, bucket) where r.n > 0 or r.bucket = 1 order by r.bucket
       on conflict (bucket) do update set n = work_delay.n + excluded.n, seconds = work_delay.seconds + excluded.seconds`,
      [counts, sum],
    );
  }
}

/** How many waited at most so long, in seconds, the shortest first; and how long all of them together. */
export interface WorkDelayFigures {
  readonly buckets: readonly { readonly le: number | '+Inf'; readonly n: number }[];
  readonly sum: number;
}

export async function readWorkDelays(sql: Sql): Promise<WorkDelayFigures> {
  const rows = await sql.query<{ bucket: number; n: number; seconds: number }>('select bucket, n, seconds from work_delay');
  const byBucket = new Map(rows.map((row) => [row.bucket, row.n]));
  let n = 0;
  const buckets = [...ENDS, '+Inf' as const].map((le, bucket) => ({ le, n: (n += byBucket.get(bucket) ?? 0) }));
  return { buckets, sum: rows.reduce((sum, row) => sum + row.seconds, 0) };
}
