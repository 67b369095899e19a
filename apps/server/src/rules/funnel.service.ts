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
      if (ladder.length === 0) return { entered: 0, off: 0, stages: [], months: [] };
      const values = [ladder.map((stage) => stage.id), instant(from, 0), instant(to, 1), catalogue.zone];
      const { stages, months, standing } = await reached(sql, ladder.length, values);
      const of = (position: number) => stages.find((row) => row.position === position + 1);
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
        // Whoever is on the ladder has reached its first stage, or a later one.
        months: months.map((row) => ({ ...row, entered: row.reached[0] ?? 0 })),
      };
    });
  }
}

interface Reached {
  readonly stages: readonly {
    readonly position: number;
    readonly reached: number;
    readonly skipped: number;
    readonly from_entry: number | null;
    readonly from_before: number | null;
  }[];
  readonly months: readonly { readonly month: string; readonly reached: number[] }[];
  /** where those who entered stand now; a stage that is on the ladder no more counts as none */
  readonly standing: readonly { readonly position: number | null; readonly n: number }[];
}

/**
 * How far contacts came, from one way through the histories: a row for each contact, with when it first came to each stage or beyond it, and whether it
 * ever stood on it. Over a million contacts, 440,000 changes of stage: 2.4 s. Joined stage by stage it took 10.5 s.
 *
 * @param values the stages in their order, the bounds of the time of entry, and the zone
 */
async function reached(sql: Sql, stages: number, values: readonly unknown[]): Promise<Reached> {
  const positions = Array.from({ length: stages }, (_, index) => index + 1);
  const columns = positions.map(
    (p) => `min(h.at) filter (where l.position >= ${p}) as at${p}, coalesce(bool_or(l.position = ${p}), false) as stood${p}`,
  );
  const days = (span: string): string => `percentile_cont(0.5) within group (order by extract(epoch from ${span})::float8 / ${DAY_S})`;
  const stage = (p: number): string =>
    `select ${p} as position, count(at${p})::int as reached, count(*) filter (where at${p} is not null and not stood${p})::int as skipped,
            ${days(`at${p} - entered`)} as from_entry, ${p === 1 ? 'null::float8' : days(`at${p} - at${p - 1}`)} as from_before from came`;
  const listed = (rows: string): string => `(select coalesce(jsonb_agg(to_jsonb(q)), '[]') from (${rows}) q)`;
  const [row] = await sql.query<Reached>(
    `with ladder as (select id::text as id, position::int from unnest($1::int[]) with ordinality as l(id, position)),
     came as materialized (
       select h.contact_id, min(h.at) as entered, ${columns.join(', ')} from contact_change h join ladder l on l.id = h.after
        where h.of = 'stage' group by 1
       having ($2::timestamptz is null or min(h.at) >= $2) and ($3::timestamptz is null or min(h.at) < $3))
     select ${listed(positions.map(stage).join(' union all '))} as stages,
            ${listed(
              `select to_char(entered at time zone $4, 'YYYY-MM') as month, array[${positions.map((p) => `count(at${p})::int`).join(', ')}] as reached
                 from came group by 1 order by 1`,
            )} as months,
            ${listed(
              `select l.position, count(*)::int as n from came e join contact c on c.id = e.contact_id
                 left join ladder l on l.id = c.stage_id::text group by 1`,
            )} as standing`,
    values,
  );
  return row ?? { stages: [], months: [], standing: [] };
}
