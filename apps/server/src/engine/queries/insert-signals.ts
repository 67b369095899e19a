import { type Sql } from '../../database/database';

/** A row of the table of signals. Instants are ISO texts. */
export interface SignalRow {
  readonly contact_id: number;
  readonly type_id: number;
  readonly time: string;
  readonly id: number;
  readonly source_id: number;
  readonly sender_id: string;
  /** days since 1970 in the time zone of the workspace */
  readonly day: number;
  /** minor units */
  readonly amount: number | null;
  readonly historic: boolean;
  readonly received_at: string;
  readonly details: unknown;
  readonly data: unknown;
  readonly import_id: number | null;
}

/**
 * Writes signals down, and how many there are of each type for each contact.
 *
 * Tried, for 500 signals of 500 contacts:
 * - one JSON text (this one): 24 ms
 * - an array for each column: 28 ms
 */
export const insertSignals = (sql: Sql, rows: readonly SignalRow[]): Promise<unknown> =>
  sql.query(
    `with r as (
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, type_id int, time timestamptz, id bigint, source_id int, sender_id text, day int, amount bigint,
              historic boolean, received_at timestamptz, details jsonb, data jsonb, import_id int)),
     written as (
       insert into signal (contact_id, type_id, time, id, source_id, sender_id, day, amount, historic, received_at, details, data, import_id) select * from r)
     insert into signal_sum (contact_id, type_id, n, first, last)
     select contact_id, type_id, count(*), min(time), max(time) from r group by 1, 2
     on conflict (contact_id, type_id) do update
        set n = signal_sum.n + excluded.n, first = least(signal_sum.first, excluded.first), last = greatest(signal_sum.last, excluded.last)`,
    [JSON.stringify(rows)],
  );
