import { type Sql } from '../../database/database';

/** A text, where it stands, and how many have it. */
export interface Found {
  /** the field, or the type of signal */
  readonly of: number;
  /** of the detail; empty for a field */
  readonly path: string;
  readonly value: string;
  readonly count: number;
  /** how many different texts stand there, and how many stand there in all */
  readonly distinct: number;
  readonly all: number;
}

/** So many of each place, the most frequent. */
const MOST = 300;
/** Of so many contacts and signals: what is rarer than that nobody misses in a list to pick from. */
const FACTS_READ = 500_000;
const SIGNALS_READ = 100_000;

/** However a text is written, it is one: the usual way of writing it is shown. */
const usual = (text: string): string => `mode() within group (order by ${text})`;

const RANKED = `
  ranked as (
    select *, row_number() over (partition by place, path order by count desc, value) as rank,
           count(*) over (partition by place, path)::int as distinct, sum(count) over (partition by place, path)::int as all
      from counted)
  select place as of, path, value, count, "distinct", "all" from ranked where rank <= $1 order by place, path, rank`;

/** The texts of these fields, with how many have each. */
export const valuesInFields = (sql: Sql, fields: readonly number[]): Promise<Found[]> =>
  sql.query(
    `with read as (select field_id, shown, folded from contact_fact where field_id = any($2::int[]) and shown is not null limit $3),
          counted as (select field_id as place, '' as path, ${usual('shown')} as value, count(*)::int as count from read group by field_id, folded),
          ${RANKED}`,
    [MOST, fields, FACTS_READ],
  );

/** The texts in the details of the latest signals as they were sent, also in what their lists hold, with how many contacts have each. */
export const valuesInDetails = (sql: Sql): Promise<Found[]> =>
  sql.query(
    `with latest as (select type_id, contact_id, coalesce(data, details) as data from signal order by time desc, id desc limit $2),
          texts as (
            select type_id, contact_id, detail.key as path, detail.value #>> '{}' as value
              from latest, jsonb_each(data) detail where jsonb_typeof(detail.value) = 'string'
            union all
            select type_id, contact_id, detail.key || '.' || part.key, part.value #>> '{}'
              from latest, jsonb_each(data) detail,
                   jsonb_array_elements(case when jsonb_typeof(detail.value) = 'array' then detail.value else '[]' end) thing,
                   jsonb_each(case when jsonb_typeof(thing) = 'object' then thing else '{}' end) part
             where jsonb_typeof(part.value) = 'string'),
          counted as (select type_id as place, path, ${usual('value')} as value, count(distinct contact_id)::int as count from texts group by type_id, path, lower(value)),
          ${RANKED}`,
    [MOST, SIGNALS_READ],
  );

/** How many have each field filled, each tag, a signal of each type, and how many are in each audience, by the id of the definition. */
export const held = (sql: Sql): Promise<{ id: number; count: number }[]> =>
  sql.query(
    `with standing as (select id from contact where merged_into is null union all select id from company),
          having_it as (
            select contact_id, field_id as id from contact_fact
            union all select contact_id, tag_id from contact_tag
            union all select contact_id, type_id from signal_sum
            union all select contact_id, definition_id from membership)
     select h.id, count(*)::int as count from having_it h join standing s on s.id = h.contact_id group by h.id`,
  );
