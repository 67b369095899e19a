import { lastOf, latestOf } from './checks';
import { keyedPart } from './part';

/** Memberships: audiences that a subject is in, and hidden conditions of rules that hold for it. */
export const memberships = keyedPart({
  part: 'memberships',
  table: 'membership',
  key: { definition_id: 'int' },
  columns: { since: 'instant' },
  effect: 'membership',
  keyOf: (row) => row.definition_id,
  keyColumns: (definition_id) => ({ definition_id }),
  read: ({ since }) => ({ since }),
  write: ({ since }) => ({ since }),
  checks: [
    {
      kind: 'membership without effect',
      sql: `select m.contact_id, m.definition_id as definition_id from membership m join definition d on d.id = m.definition_id and d.kind = 'audience'
            left join (${latestOf('membership')}) l on l.contact_id = m.contact_id and l.definition_id = m.definition_id
           where l.verb is distinct from 'joined'`,
    },
    {
      kind: 'list without effect',
      sql: `select l.contact_id, l.definition_id from (${lastOf('membership')}) l join definition d on d.id = l.definition_id and d.body->>'kind' = 'fixed' and not d.deleted
           where (l.verb = 'joined') is distinct from exists (select from membership m where m.contact_id = l.contact_id and m.definition_id = l.definition_id)`,
    },
  ],
});
