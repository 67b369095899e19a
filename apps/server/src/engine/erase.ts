import { type Database, type Sql } from '../database/database';
import { notFound } from '../http/problem';
import { iso, type Clock } from './clock';
import { writeFeed } from './feed';
import { MOVED } from './inbox';
import { ALL_PARTS } from './parts';

/** Tables with data about a contact other than its state, by `contact_id`. The ledger keeps its rows, without values. */
const BESIDE_STATE = [
  'contact_tag_past',
  'contact_change',
  'membership_past',
  'signal',
  'signal_sum',
  'inbox',
  'set_aside',
  'due',
  'ledger_value',
  'task',
  'taken_work',
  'notice',
  'post',
  'send_recipient',
  'phone_claim',
  'consent_request',
  'visitor',
  'watch_row',
  'worklist_entry',
  'note',
  'attachment',
];

/** Erases a contact and those merged into it. Irreversible; the ledger records that it was done, and by whom. */
export async function eraseContact(database: Database, clock: Clock, uid: string, by: string): Promise<void> {
  await database.sharedEpoch(async (sql) => {
    const [found] = await sql.query<{ id: number; lane: number; company_id: number | null }>(
      'select id, lane, company_id from contact where uid = $1::uuid and merged_into is null',
      [uid],
    );
    if (!found) throw notFound('contact');
    await sql.query('select lane from lane where lane = $1 for update', [found.lane]);
    const rows = await sql.query<{ id: number }>('select id from contact where id = $1 or merged_into = $1', [found.id]);
    const now = clock.now();
    const ids = rows.map((row) => row.id);
    // What they began to answer and never sent belongs to nobody yet, but for the address that they typed.
    await sql.query(
      `delete from form_visit v using contact c where c.id = any($1::bigint[]) and c.email is not null and position(lower(c.email) in lower(v.answers::text)) > 0`,
      [ids],
    );
    // A view of a list can be narrowed to somebody by their address.
    await sql.query(
      `delete from saved_view v using contact c where c.id = any($1::bigint[]) and c.email is not null
          and position(lower(c.email) in lower(replace(v.query, '%40', '@'))) > 0`,
      [ids],
    );
    await eraseRows(sql, ids);
    if (found.company_id !== null)
      await sql.query('insert into company_touched (company_id, lane, since) select id, lane, $2 from company where id = $1', [
        found.company_id,
        iso(now),
      ]);
    await sql.query(
      `insert into ledger (id, at, epoch, kind, verb, after, cause_kind, cause_ref)
       select nextval('ledger_id_seq'), $1, epoch, 'contact', 'erased', $2::jsonb, 'person', $3 from workspace where id = 1`,
      [iso(now), JSON.stringify({ contact: uid }), by],
    );
    await writeFeed(sql, [], [found.lane], now, ids);
  });
  await database.query(`select pg_notify('${MOVED}', '')`);
}

async function eraseRows(sql: Sql, ids: readonly number[]): Promise<void> {
  const tables = [
    ...[...ALL_PARTS].reverse().flatMap((part) => part.tables),
    ...BESIDE_STATE.map((name) => ({ name, subject: 'contact_id' })),
  ];
  for (const { name, subject } of tables) await sql.query(`delete from ${name} where ${subject} = any($1::bigint[])`, [ids]);
  await sql.query('delete from staff_mail where contact_ids && $1::bigint[]', [ids]);
  await sql.query('delete from contact_apart where a_id = any($1::bigint[]) or b_id = any($1::bigint[])', [ids]);
  await sql.query('delete from contact_merge where into_id = any($1::bigint[]) or other_id = any($1::bigint[])', [ids]);
  // What rules wrote of deals, owners and reasons can tell who it was.
  await sql.query(`update ledger set before = null, after = null, channel = null where contact_id = any($1::bigint[])`, [ids]);
  await sql.query('delete from contact where id = any($1::bigint[])', [ids]);
  // Nobody can say whom a file names that stopped on its way, or a row that was refused; whoever has the file can send all of it again.
  await sql.query(
    `with stopped as (update import_run set stored = 0 where state = 'failed' and stored > 0 returning id)
     delete from import_piece using stopped where import_id = stopped.id`,
  );
  await sql.query('delete from import_fault');
  await sql.query('delete from watch_row where contact_id is null');
  await sql.query(`update hook_delivery set body = 'null', faults = '[]'`);
}
