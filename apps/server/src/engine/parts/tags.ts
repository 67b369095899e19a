import { type TagReason } from '@eager-sieve/core';
import { readingOf } from '../readings';
import { lastOf, latestOf } from './checks';
import { keyedPart, type StoredPart } from './part';
import { changes, deleteKeys, withRows } from './rows';

const REASONS = { table: 'contact_tag_reason', subject: 'contact_id', key: { tag_id: 'int' } } as const;

const tagRows = keyedPart({
  part: 'tags',
  table: 'contact_tag',
  key: { tag_id: 'int' },
  columns: { since: 'instant', value: 'bigint?' },
  effect: 'tag',
  keyOf: (row) => row.tag_id,
  keyColumns: (tag_id) => ({ tag_id }),
  read: ({ since, value }) => ({ since, value: value ?? undefined, reasons: [] }),
  write: ({ since, value }) => ({ since, value: value ?? null }),
  checks: [
    {
      kind: 'tag without effect',
      sql: `select t.contact_id, t.tag_id as definition_id from contact_tag t
            left join (${latestOf('tag')}) l on l.contact_id = t.contact_id and l.definition_id = t.tag_id
           where coalesce(l.verb, 'none') not in ('added', 'reason added', 'reason removed', 'valued')`,
    },
    {
      kind: 'tag without reason',
      sql: `select t.contact_id, t.tag_id as definition_id from contact_tag t where not exists (select from contact_tag_reason r where r.contact_id = t.contact_id and r.tag_id = t.tag_id)`,
    },
    {
      kind: 'reason without tag',
      sql: `select r.contact_id, r.tag_id as definition_id from contact_tag_reason r where not exists (select from contact_tag t where r.contact_id = t.contact_id and r.tag_id = t.tag_id)`,
    },
    {
      kind: 'tags of the contact row',
      sql: `select c.id as contact_id, null::int as definition_id from contact c
           where c.tags is distinct from coalesce((select array_agg(t.tag_id order by t.tag_id) from contact_tag t where t.contact_id = c.id), '{}')`,
    },
    {
      kind: 'effect without tag',
      sql: `select l.contact_id, l.definition_id from (${lastOf('tag')}) l
           where l.verb in ('added', 'reason added', 'reason removed', 'valued') and not exists (select from contact_tag t where t.contact_id = l.contact_id and t.tag_id = l.definition_id)`,
    },
  ],
});

/** Tags, each with its reasons in a table beside it. */
export const tags: StoredPart = {
  tables: [...tagRows.tables, { name: REASONS.table, subject: REASONS.subject }],
  onlyOfContacts: true,
  checks: tagRows.checks,
  readings: (catalogue, states, ids) => [
    ...tagRows.readings(catalogue, states, ids),
    readingOf<{ contact_id: number; tag_id: number } & TagReason>(
      ['contact_id', 'tag_id', 'kind', 'ref'],
      'select contact_id, tag_id, kind, ref from contact_tag_reason where contact_id = any($1::bigint[]) order by contact_id, tag_id, kind, ref',
      [ids],
      ({ contact_id, tag_id, kind, ref }) =>
        (states.get(contact_id)?.tags.get(tag_id)?.reasons as TagReason[] | undefined)?.push({ kind, ref }),
    ),
  ],
  write: async (sql, catalogue, worked, latest) => {
    const { put, gone } = changes(worked, 'tags');
    await deleteKeys(
      sql,
      REASONS,
      [...gone, ...put].map(({ state, key }) => ({ contact_id: state.id, tag_id: key })),
    );
    await tagRows.write(sql, catalogue, worked, latest);
    await withRows(
      sql,
      `insert into contact_tag_reason (contact_id, tag_id, kind, ref)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, kind text, ref text)`,
      put.flatMap(({ state, key, value }) => value.reasons.map(({ kind, ref }) => ({ contact_id: state.id, tag_id: key, kind, ref }))),
    );
  },
};
