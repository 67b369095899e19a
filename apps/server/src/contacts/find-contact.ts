import { fold } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { notFound } from '../http/problem';

export interface FoundContact {
  readonly id: number;
  readonly uid: string;
  readonly lane: number;
  readonly email: string | null;
  readonly outside_id: string | null;
  readonly name: string;
  readonly owner: string | null;
  readonly made_at: Date;
  readonly company_id: number | null;
}

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** @param named the id, the email address however capitalised, or `id:` and the outside id; of one that was merged, the one that it was merged into is found */
export async function findContact(sql: Sql, named: string): Promise<FoundContact> {
  const [by, value] = UUID.test(named)
    ? ['uid = $1::uuid', named]
    : named.startsWith('id:')
      ? ['outside_id = $1', named.slice(3)]
      : ['email_folded = $1', fold(named)];
  const [row] = await sql.query<FoundContact & { merged_into: number | null }>(
    `select id, uid, lane, email, outside_id, name, owner, made_at, company_id, merged_into from contact where ${by}`,
    [value],
  );
  if (!row) throw notFound('contact');
  if (row.merged_into === null) return row;
  const [kept] = await sql.query<{ uid: string }>('select uid from contact where id = $1', [row.merged_into]);
  return findContact(sql, kept?.uid ?? '');
}
