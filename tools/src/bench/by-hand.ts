import { type WrittenCondition } from '@eager-sieve/core';
import { type Client } from 'pg';

/** A condition, and the same question as somebody would write it in SQL who knows the tables: the best that was found. */
export interface ByHand {
  readonly words: string;
  readonly condition: WrittenCondition;
  /** `$1` is where "the last days" begin, `$2` now */
  readonly sql: string;
  readonly days: number;
}

const id = (kind: string, key: string): string => `(select id from definition where kind = '${kind}' and key = '${key}')`;
const ordered = { kind: 'signal', type: 'order.placed', within: { last: 30, unit: 'days' } } as const;
const standing = 'merged_into is null and last_now is not null';

export const BY_HAND: readonly ByHand[] = [
  {
    words: 'of one region',
    condition: { kind: 'field', of: 'contact', field: 'region', op: 'is', value: 'mill-end' },
    sql: `select count(*) from contact_fact where field_id = ${id('field', 'region')} and left(folded, 100) = 'mill-end' and $1::timestamptz <= $2::timestamptz`,
    days: 0,
  },
  {
    words: 'with a score of at least 40',
    condition: { kind: 'score', scorecard: 'keenness', op: '>=', value: 40 },
    sql: `select count(*) from contact_score s join contact c on c.id = s.contact_id
           where s.scorecard_id = ${id('scorecard', 'keenness')} and s.points >= 40000 and ${standing} and $1::timestamptz <= $2::timestamptz`,
    days: 0,
  },
  {
    words: 'ordered at least twice in 30 days',
    condition: { ...ordered, count: { op: '>=', value: 2 } },
    // By type and time: 20 times as fast as through each contact.
    sql: `select count(*) from (select contact_id from signal where type_id = ${id('signalType', 'order.placed')} and time >= $1 and time <= $2
           group by contact_id having count(*) >= 2) s`,
    days: 30,
  },
  {
    words: 'never ordered in 30 days',
    condition: { ...ordered, count: { op: '=', value: 0 } },
    // Everyone but those who did, which is half the work of looking for nobody's order.
    sql: `select (select count(*) from contact where ${standing})
               - (select count(distinct contact_id) from signal where type_id = ${id('signalType', 'order.placed')} and time >= $1 and time <= $2) as count`,
    days: 30,
  },
  {
    words: 'a tag and an order of more than 500 in 90 days',
    condition: {
      match: 'all',
      of: [
        { kind: 'tag', tag: 'glaze.buyer', op: 'has' },
        { ...ordered, where: [{ path: 'amount', op: '>', value: 500 }], within: { last: 90, unit: 'days' } },
      ],
    },
    sql: `select count(*) from contact_tag t where t.tag_id = ${id('tag', 'glaze.buyer')} and exists (
            select from signal s where s.contact_id = t.contact_id and s.type_id = ${id('signalType', 'order.placed')} and s.time >= $1 and s.time <= $2
               and s.amount > 50000)`,
    days: 90,
  },
];

/** How many, and how long that took, in ms. */
export async function countedByHand(
  client: Client,
  { sql }: ByHand,
  from: Date,
  now: Date,
): Promise<{ readonly n: number; readonly ms: number }> {
  const begin = performance.now();
  const { rows } = await client.query<{ count: string }>(sql, [from, now]);
  return { n: Number(rows[0]?.count), ms: performance.now() - begin };
}
