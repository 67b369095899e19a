import { type Sql } from '../database/database';
import { iso } from '../engine/clock';

/** Records a change of a setting, an access or a definition in the ledger: what was done, and by whom. */
export async function writeSetting(
  sql: Sql,
  verb: string,
  after: unknown,
  by: string,
  now: number,
  definitionId: number | null = null,
): Promise<void> {
  await sql.query(
    `insert into ledger (id, at, epoch, kind, verb, definition_id, after, cause_kind, cause_ref)
     select nextval('ledger_id_seq'), $1, w.epoch, 'setting', $2, $3, $4::jsonb, 'person', $5 from workspace w`,
    [iso(now), verb, definitionId, JSON.stringify(after), by],
  );
}
