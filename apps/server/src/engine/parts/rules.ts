import { keyedPart } from './part';

/** How often a rule has run, and when last. */
export const firings = keyedPart({
  part: 'firings',
  table: 'rule_firing',
  key: { rule_id: 'int' },
  columns: { times: 'int', last_at: 'instant' },
  keyOf: (row) => row.rule_id,
  keyColumns: (rule_id) => ({ rule_id }),
  read: (row) => ({ times: row.times, lastAt: row.last_at }),
  write: ({ times, lastAt }) => ({ times, last_at: lastAt }),
  checks: [
    {
      kind: 'firing count',
      sql: `with merged as (
              select distinct on (l.contact_id, l.definition_id) l.contact_id, l.definition_id, l.id, (l.after->>'times')::int as times from ledger l
               where l.kind = 'firing' and l.verb = 'merged' and not exists (select from ledger r where r.reverses = l.id)
               order by l.contact_id, l.definition_id, l.id desc),
            fired as (
              select l.contact_id, l.definition_id, count(*) filter (where l.id > coalesce(m.id, 0)) as n from ledger l
                left join merged m on m.contact_id = l.contact_id and m.definition_id = l.definition_id
               where l.kind = 'firing' and l.verb = 'fired' and not exists (select from ledger r where r.reverses = l.id and r.verb = 'taken back')
               group by 1, 2)
            select f.contact_id, f.rule_id as definition_id from rule_firing f
              left join merged m on m.contact_id = f.contact_id and m.definition_id = f.rule_id
              left join fired d on d.contact_id = f.contact_id and d.definition_id = f.rule_id
             where f.times <> coalesce(m.times, 0) + coalesce(d.n, 0)`,
    },
  ],
});

/** Rules that went in a circle for this subject and run no more. */
export const suspendedRules = keyedPart({
  part: 'suspendedRules',
  table: 'suspended_rule',
  key: { rule_id: 'int' },
  columns: { since: 'instant' },
  keyOf: (row) => row.rule_id,
  keyColumns: (rule_id) => ({ rule_id }),
  read: ({ since }) => since,
  write: (since) => ({ since }),
});
