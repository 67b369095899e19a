import { type Effect } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type Worked } from './parts/part';
import { withRows } from './parts/rows';
import { type LedgerIds } from './write-ledger';

/** Tasks and notices that rules made. */
export async function writeWork(sql: Sql, worked: Worked, ids: LedgerIds): Promise<void> {
  const made = worked.flatMap(({ state, effects }) =>
    effects.flatMap((effect: Effect) => (effect.workItem ? [{ contact: state.id, effect, makes: effect.workItem }] : [])),
  );
  const back = worked.flatMap(({ effects }) =>
    effects.flatMap((effect) => (effect.verb === 'taken back' && effect.reverses !== undefined ? [effect.reverses] : [])),
  );
  if (back.length > 0) {
    await sql.query('delete from task where ledger_id = any($1::bigint[]) and done_at is null', [back]);
    await sql.query('delete from notice where ledger_id = any($1::bigint[]) and read_at is null', [back]);
  }
  await withRows(
    sql,
    `insert into task (contact_id, title, due_at, assignee, made_at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, title text, due_at timestamptz, assignee text, made_at timestamptz, ledger_id bigint)`,
    made.flatMap(({ contact, effect, makes }) =>
      makes.what === 'task'
        ? [
            {
              contact_id: contact,
              title: makes.title,
              due_at: iso(makes.due),
              assignee: makes.for,
              made_at: iso(effect.at),
              ledger_id: ids.get(effect),
            },
          ]
        : [],
    ),
  );
  await withRows(
    sql,
    `insert into notice (contact_id, text, recipient, made_at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, text text, recipient text, made_at timestamptz, ledger_id bigint)`,
    made.flatMap(({ contact, effect, makes }) =>
      makes.what === 'notice'
        ? [{ contact_id: contact, text: makes.text, recipient: makes.to, made_at: iso(effect.at), ledger_id: ids.get(effect) }]
        : [],
    ),
  );
}
