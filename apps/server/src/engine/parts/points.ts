import { type Keeps } from '@eager-sieve/core';
import { STANDING } from './checks';
import { keyedPart } from './part';

/** Points that rules gave, by what gave them. */
export const points = keyedPart({
  part: 'points',
  table: 'contact_points',
  key: { ref: 'text' },
  columns: { scorecard_id: 'int', rule_id: 'int', points: 'bigint', at: 'instant', keeps: 'json' },
  order: 'ref',
  keyOf: (row) => row.ref,
  keyColumns: (ref) => ({ ref }),
  read: (row) => ({ scorecard: row.scorecard_id, rule: row.rule_id, points: row.points, at: row.at, keeps: row.keeps as Keeps }),
  write: (given) => ({ scorecard_id: given.scorecard, rule_id: given.rule, points: given.points, at: given.at, keeps: given.keeps }),
  checks: [
    {
      kind: 'points given',
      sql: `select coalesce(p.contact_id, g.contact_id) as contact_id, null::int as definition_id from (select p.* from contact_points p join (${STANDING}) s on s.id = p.contact_id) p
            full join (select l.contact_id, l.after->>'ref' as ref from ledger l join (${STANDING}) s on s.id = l.contact_id where l.kind = 'points' and l.verb = 'given'
                          and not exists (select from ledger r where r.reverses = l.id and r.verb = 'taken back')) g on g.contact_id = p.contact_id and g.ref = p.ref
           where p.contact_id is null or g.contact_id is null`,
    },
  ],
});

/** Latched scorecard lines, by `scorecard:line`, or `scorecard:line@deal`. */
export const latchedLines = keyedPart({
  part: 'latchedLines',
  table: 'latched_line',
  key: { scorecard_id: 'int', line: 'text' },
  columns: { since: 'instant' },
  keyOf: (row) => `${row.scorecard_id}:${row.line}`,
  keyColumns: (key) => {
    const colon = key.indexOf(':');
    return { scorecard_id: Number(key.slice(0, colon)), line: key.slice(colon + 1) };
  },
  read: ({ since }) => since,
  write: (since) => ({ since }),
});
