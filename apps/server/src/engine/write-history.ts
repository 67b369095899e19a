import { type Sql } from '../database/database';
import { iso } from './clock';
import { withRows } from './parts/rows';
import { type WorkedSubject } from './worked';

type Worked = readonly WorkedSubject[];

/** Writes histories: append-only, except for what is taken back. */
export async function writeHistory(sql: Sql, worked: Worked): Promise<void> {
  await forgetHistory(sql, worked);
  await withRows(
    sql,
    `insert into contact_tag_past (contact_id, tag_id, since, until, value, went)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, since timestamptz, until timestamptz, value bigint, went boolean)`,
    worked.flatMap(({ state }) =>
      state.fresh.pastTags.map(({ tag, past }) => ({
        contact_id: state.id,
        tag_id: tag,
        since: iso(past.since),
        until: iso(past.until),
        value: past.value,
        went: past.went,
      })),
    ),
  );
  await withRows(
    sql,
    `insert into membership_past (contact_id, definition_id, since, until)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, definition_id int, since timestamptz, until timestamptz)`,
    worked.flatMap(({ state }) =>
      state.fresh.stays.map((stay) => ({
        contact_id: state.id,
        definition_id: stay.definition,
        since: iso(stay.since),
        until: iso(stay.until),
      })),
    ),
  );
  await withRows(
    sql,
    `insert into contact_change (contact_id, of, at, before, after)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, of text, at timestamptz, before text, after text)`,
    worked.flatMap(({ state }) =>
      state.fresh.changes.map(({ of, change }) => ({
        contact_id: state.id,
        of,
        at: iso(change.at),
        before: change.from,
        after: change.to,
      })),
    ),
  );
}

async function forgetHistory(sql: Sql, worked: Worked): Promise<void> {
  await withRows(
    sql,
    `delete from contact_tag_past p using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, until timestamptz)
      where p.contact_id = r.contact_id and p.tag_id = r.tag_id and p.until = r.until`,
    worked.flatMap(({ state }) =>
      state.forgotten.pastTags.map(({ tag, until }) => ({ contact_id: state.id, tag_id: tag, until: iso(until) })),
    ),
  );
  await withRows(
    sql,
    `delete from membership_past p using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, definition_id int, until timestamptz)
      where p.contact_id = r.contact_id and p.definition_id = r.definition_id and p.until = r.until`,
    worked.flatMap(({ state }) =>
      state.forgotten.stays.map(({ definition, until }) => ({ contact_id: state.id, definition_id: definition, until: iso(until) })),
    ),
  );
  await withRows(
    sql,
    `delete from contact_change c using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, of text, at timestamptz, before text, after text)
      where c.contact_id = r.contact_id and c.of = r.of and c.at = r.at
        and c.before is not distinct from r.before and c.after is not distinct from r.after`,
    worked.flatMap(({ state }) =>
      state.forgotten.changes.map(({ of, change }) => ({
        contact_id: state.id,
        of,
        at: iso(change.at),
        before: change.from,
        after: change.to,
      })),
    ),
  );
}
