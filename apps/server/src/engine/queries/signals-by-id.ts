import { type Sql } from '../../database/database';
import { SIGNAL_PARTS, type SignalsOfContact } from './signals-of';

/** Single signals, given by their contacts and ids, in the form of `signalsOf`. */
export const signalsById = (sql: Sql, contacts: readonly number[], ids: readonly number[]): Promise<SignalsOfContact[]> =>
  sql.query(
    `select s.contact_id, string_agg(${SIGNAL_PARTS} || ']', ',') as signals
       from unnest($1::bigint[], $2::bigint[]) as r(contact_id, id)
       join signal s on s.contact_id = r.contact_id and s.id = r.id
      group by s.contact_id`,
    [contacts, ids],
  );
