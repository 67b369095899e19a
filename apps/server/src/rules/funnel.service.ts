import { Injectable } from '@nestjs/common';
import { readDay, startOfDay } from '@eager-sieve/core';
import { type Funnel } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { DefinitionStore } from '../settings/definition-store';

const DAY_S = 86_400;

interface Period {
  readonly from?: string | undefined;
  readonly to?: string | undefined;
}

/** How far contacts come on the ladder, from the histories of their stages. */
@Injectable()
export class FunnelService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
  ) {}

  funnel({ from, to }: Period): Promise<Funnel> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const ladder = catalogue.ladder();
      const instant = (day: string | undefined, add: number): string | null => {
        const read = day === undefined ? undefined : readDay(day);
        return read === undefined ? null : iso(startOfDay(read + add, catalogue.zone));
      };
      const values = [ladder.map((stage) => stage.id), instant(from, 0), instant(to, 1)];
      const stages = await stagesOf(sql, values);
      const months = await monthsOf(sql, [...values, catalogue.zone]);
      const standing = await standingOf(sql, values);
      const of = (position: number) => stages.find((row) => row.position === position + 1);
      const byMonth = [...new Set(months.map((row) => row.month))].sort();
      return {
        entered: standing.reduce((all, row) => all + row.n, 0),
        off: standing.find((row) => row.position === null)?.n ?? 0,
        stages: ladder.map(({ key, name }, position) => {
          const row = of(position);
          return {
            ...{ key, name, reached: row?.reached ?? 0, skipped: row?.skipped ?? 0 },
            standing: standing.find((each) => each.position === position + 1)?.n ?? 0,
            daysFromEntry: row?.from_entry ?? null,
            daysFromBefore: position === 0 ? null : (row?.from_before ?? null),
          };
        }),
        months: byMonth.map((month) => {
          const rows = months.filter((row) => row.month === month);
          const reached = ladder.map((_, position) => rows.find((row) => row.position === position + 1)?.n ?? 0);
          // Whoever is on the ladder has reached its first stage, or a later one.
          return { month, entered: reached[0] ?? 0, reached };
        }),
      };
    });
  }
}

/**
 * `$1` are the stages in their order, `$2` and `$3` bound the time of entry. `reach`: when each contact first came to a stage or beyond it, and
 * whether it ever stood on it.
 */
const REACH = `
  ladder as (select id::text as id, position::int from unnest($1::int[]) with ordinality as l(id, position)),
  stood as (
    select h.contact_id, l.position, min(h.at) as at from contact_change h join ladder l on l.id = h.after
     where h.of = 'stage' group by 1, 2),
  entry as (select contact_id, min(at) as at from stood group by 1
            having ($2::timestamptz is null or min(at) >= $2) and ($3::timestamptz is null or min(at) < $3)),
  reach as (
    select e.contact_id, e.at as entered, l.position, min(s.at) as at, bool_or(s.position = l.position) as stood
      from entry e join stood s on s.contact_id = e.contact_id join ladder l on l.position <= s.position group by 1, 2, 3)`;

interface StageRow {
  readonly position: number;
  readonly reached: number;
  readonly skipped: number;
  readonly from_entry: number | null;
  readonly from_before: number | null;
}

const stagesOf = (sql: Sql, values: readonly unknown[]): Promise<readonly StageRow[]> =>
  sql.query<StageRow>(
    `with ${REACH}
     select r.position, count(*)::int as reached, count(*) filter (where not r.stood)::int as skipped,
            percentile_cont(0.5) within group (order by extract(epoch from r.at - r.entered)::float8 / ${DAY_S}) as from_entry,
            percentile_cont(0.5) within group (order by extract(epoch from r.at - b.at)::float8 / ${DAY_S}) as from_before
       from reach r left join reach b on b.contact_id = r.contact_id and b.position = r.position - 1 group by 1`,
    values,
  );

const monthsOf = (sql: Sql, values: readonly unknown[]): Promise<readonly { month: string; position: number; n: number }[]> =>
  sql.query(
    `with ${REACH} select to_char(entered at time zone $4, 'YYYY-MM') as month, position, count(*)::int as n from reach group by 1, 2`,
    values,
  );

/** Where those who entered stand now; a stage that is on the ladder no more counts as none. */
const standingOf = (sql: Sql, values: readonly unknown[]): Promise<readonly { position: number | null; n: number }[]> =>
  sql.query(
    `with ${REACH} select l.position, count(*)::int as n from entry e join contact c on c.id = e.contact_id
       left join ladder l on l.id = c.stage_id::text group by 1`,
    values,
  );
