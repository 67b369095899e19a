import { type StatePart, type SubjectState } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type WorkedSubject } from './worked';

export type Worked = readonly WorkedSubject[];

/** The changed keys of one part over all subjects, parted into what is now there and what is gone. */
export function changes<Key extends number | string>(worked: Worked, part: StatePart) {
  const put: { state: SubjectState; key: Key }[] = [];
  const gone: { contact_id: number; key: Key }[] = [];
  for (const { state } of worked) {
    for (const key of state.changed[part] as Set<Key>) {
      if ((state[part] as Map<Key, unknown>).has(key)) put.push({ state, key });
      else gone.push({ contact_id: state.id, key });
    }
  }
  return { put, gone };
}

/** One statement over rows, left out where there is none. */
export async function withRows(sql: Sql, text: string, rows: readonly object[]): Promise<void> {
  if (rows.length > 0) await sql.query(text, [JSON.stringify(rows)]);
}

/** Takes away what is gone of one part: the rows of these contacts with these keys. */
export async function deleteKeys(
  sql: Sql,
  table: string,
  column: string,
  type: 'int' | 'text',
  gone: readonly { readonly contact_id: number; readonly key: number | string }[],
): Promise<void> {
  await withRows(
    sql,
    `delete from ${table} t using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key ${type}) where t.contact_id = r.contact_id and t.${column} = r.key`,
    gone,
  );
}
