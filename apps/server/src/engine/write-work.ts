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
    await sql.query(
      `with gone as (delete from task where ledger_id = any($1::bigint[]) and done_at is null returning *)
       insert into taken_work (ledger_id, contact_id, task) select ledger_id, contact_id, to_jsonb(gone) - 'id' from gone on conflict do nothing`,
      [back],
    );
    await sql.query(
      `with gone as (delete from notice where ledger_id = any($1::bigint[]) and read_at is null returning *)
       insert into taken_work (ledger_id, contact_id, notice) select ledger_id, contact_id, to_jsonb(gone) - 'id' from gone on conflict do nothing`,
      [back],
    );
  }
  const again = worked.flatMap(({ effects }) =>
    effects.flatMap((effect) => (effect.workAgain === undefined ? [] : [{ was: effect.workAgain, is: ids.get(effect) }])),
  );
  if (again.length > 0) await makeAgain(sql, again);
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

/** Tasks and notices that had been taken back are there again as they were, by the effects that make them now. */
async function makeAgain(sql: Sql, again: readonly { readonly was: number; readonly is: number | undefined }[]): Promise<void> {
  const values = [again.map(({ was }) => was), again.map(({ is }) => is)];
  const gone = 'taken_work w join unnest($1::bigint[], $2::bigint[]) as a(was, is_now) on a.was = w.ledger_id';
  await sql.query(
    `insert into task (contact_id, title, due_at, assignee, made_at, ledger_id)
     select w.contact_id, t.title, t.due_at, t.assignee, t.made_at, a.is_now
       from ${gone}, jsonb_to_record(w.task) as t(title text, due_at timestamptz, assignee text, made_at timestamptz)
      where w.task is not null`,
    values,
  );
  await sql.query(
    `insert into notice (contact_id, text, recipient, made_at, ledger_id)
     select w.contact_id, t.text, t.recipient, t.made_at, a.is_now
       from ${gone}, jsonb_to_record(w.notice) as t(text text, recipient text, made_at timestamptz)
      where w.notice is not null`,
    values,
  );
  await sql.query('delete from taken_work where ledger_id = any($1::bigint[])', [again.map(({ was }) => was)]);
}
