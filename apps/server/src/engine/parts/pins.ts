import { lastOf, STANDING } from './checks';
import { keyedPart } from './part';

/** Somebody's word that stands above the conditions of an audience. */
export const pins = keyedPart({
  part: 'pins',
  table: 'contact_pin',
  key: { audience_id: 'int' },
  columns: { is_in: 'boolean', reason: 'text', until: 'instant?', since: 'instant', said_by: 'text' },
  effect: 'pin',
  keyOf: (row) => row.audience_id,
  keyColumns: (audience_id) => ({ audience_id }),
  read: (row) => ({ in: row.is_in, reason: row.reason, until: row.until ?? undefined, since: row.since, by: row.said_by }),
  write: (pin) => ({ is_in: pin.in, reason: pin.reason, until: pin.until ?? null, since: pin.since, said_by: pin.by }),
  checks: [
    {
      kind: 'pin without effect',
      sql: `select p.contact_id, p.audience_id as definition_id from contact_pin p join (${STANDING}) s on s.id = p.contact_id
            left join (${lastOf('pin')}) l on l.contact_id = p.contact_id and l.definition_id = p.audience_id
           where l.verb is distinct from 'set' or (l.after->>'in')::boolean is distinct from p.is_in`,
    },
    {
      kind: 'effect without pin',
      sql: `select l.contact_id, l.definition_id from (${lastOf('pin')}) l join definition d on d.id = l.definition_id and not d.deleted and not d.retired
           where l.verb = 'set' and not exists (select from contact_pin p where p.contact_id = l.contact_id and p.audience_id = l.definition_id)`,
    },
  ],
});
