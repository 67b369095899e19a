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
      sql: `select f.contact_id, f.rule_id as definition_id from rule_firing f
            left join lateral (select l.id, (l.after->>'times')::int as times from ledger l where l.contact_id = f.contact_id and l.kind = 'firing' and l.verb = 'merged' and l.definition_id = f.rule_id
                                  and not exists (select from ledger r where r.reverses = l.id) order by l.id desc limit 1) m on true
           where f.times <> coalesce(m.times, 0) + (select count(*) from ledger l where l.contact_id = f.contact_id and l.kind = 'firing' and l.verb = 'fired' and l.definition_id = f.rule_id and l.id > coalesce(m.id, 0)
                               and not exists (select from ledger r where r.reverses = l.id and r.verb = 'taken back'))`,
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
