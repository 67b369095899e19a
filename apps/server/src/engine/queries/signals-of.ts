import { type Sql } from '../../database/database';

/** A contact with signals of it as the insides of a JSON array. */
export interface SignalsOfContact {
  readonly contact_id: number;
  readonly signals: string;
}

/** A signal `s` as a JSON array that is still open at its end. */
export const SIGNAL_PARTS = `'[' || s.type_id || ',' || (extract(epoch from s.time) * 1000)::bigint || ',' || s.id || ',' || s.source_id || ','
              || to_json(s.sender_id)::text || ',' || s.historic::int || ',' || s.details::text`;

/**
 * The signals of contacts, one JSON text a contact: of each signal its type, time in ms, id, source, sender's id, whether it is historic, its
 * details, and what was sent if that is wanted. Not in any order.
 *
 * Tried, for 500 contacts with 5,500 signals, time of the database and of this process:
 * - a text put together by hand (this one): 31 + 14 ms
 * - a row for each signal: 21 + 53 ms
 * - `json_agg(json_build_array(…))`: a sixth slower in the database than the text, and the same afterwards
 * - the text in order of time, with the name of the source: 20 ms more
 *
 * @param types only signals of these types; null for all
 * @param withData the types of which also what was sent is wanted
 */
export const signalsOf = (
  sql: Sql,
  contacts: readonly number[],
  types: readonly number[] | null,
  withData: readonly number[],
): Promise<SignalsOfContact[]> =>
  sql.query(
    `select s.contact_id,
            string_agg(${SIGNAL_PARTS}
              || case when s.type_id = any($3::int[]) and s.data is not null then ',' || s.data::text else '' end || ']', ',') as signals
       from signal s
      where s.contact_id = any($1::bigint[]) and ($2::int[] is null or s.type_id = any($2::int[]))
      group by s.contact_id`,
    [contacts, types, withData],
  );
