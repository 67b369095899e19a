import { Injectable } from '@nestjs/common';
import { type SourceHealth } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
/** So many days tell what is usual for a source. */
const DAYS_LOOKED_AT = 28;
/** With fewer signals than this nothing is usual yet. */
const FEWEST = 40;
/** Silence is unusual when it is so many times as long as the longest before, and longer by at least two hours. */
const TIMES_LONGER = 1.5;

/** For so long it is not asked again which sources are silent. */
const SILENT_FOR_MS = 30_000;

/** Where signals come from: how much, since when nothing, and whether that is unusual. */
@Injectable()
export class SourcesService {
  #asOf: { readonly at: number; readonly health: readonly SourceHealth[] } | undefined;

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  async health(): Promise<SourceHealth[]> {
    const now = this.clock.now();
    const from = now - DAYS_LOOKED_AT * DAY_MS;
    const rows = await this.database.query<{ id: number; name: string; hour: Date; n: number; last: Date }>(
      `select o.id, o.name, date_trunc('hour', s.time) as hour, count(*)::int as n, max(s.time) as last
         from signal s join source o on o.id = s.source_id
        where s.time >= $1 and s.time <= $2 and not s.historic group by 1, 2, 3 order by 1, 3`,
      [new Date(from), new Date(now)],
    );
    const bySource = new Map<number, typeof rows>();
    for (const row of rows) bySource.set(row.id, [...(bySource.get(row.id) ?? []), row]);
    return [...bySource.values()].map((hours): SourceHealth => healthOf(hours, now)).sort((a, b) => a.name.localeCompare(b.name));
  }

  /** Sources that have been silent for unusually long, as of half a minute ago at most: silence does not come in a second. */
  async silent(): Promise<readonly SourceHealth[]> {
    const now = this.clock.now();
    if (this.#asOf === undefined || now - this.#asOf.at > SILENT_FOR_MS) this.#asOf = { at: now, health: await this.health() };
    return this.#asOf.health.filter(({ isUnusual }) => isUnusual);
  }
}

interface Hour {
  readonly name: string;
  readonly hour: Date;
  readonly n: number;
  readonly last: Date;
}

export function healthOf(hours: readonly Hour[], now: number): SourceHealth {
  const total = hours.reduce((sum, { n }) => sum + n, 0);
  const lastDay = hours.filter(({ hour }) => hour.getTime() >= now - DAY_MS).reduce((sum, { n }) => sum + n, 0);
  const last = hours.reduce((latest, hour) => Math.max(latest, hour.last.getTime()), 0);
  const gaps = hours.slice(1).map((hour, at) => hour.hour.getTime() - (hours[at] as Hour).hour.getTime());
  const longest = Math.max(HOUR_MS, ...gaps);
  const silentFor = now - last;
  const days = Math.max(1, (now - (hours[0]?.hour.getTime() ?? now)) / DAY_MS);
  return {
    name: hours[0]?.name ?? '',
    last: new Date(last).toISOString(),
    lastDay,
    usual: Math.round(total / days),
    longestSilence: Math.round(longest / HOUR_MS),
    isUnusual: total >= FEWEST && silentFor > longest * TIMES_LONGER && silentFor > longest + 2 * HOUR_MS,
  };
}
