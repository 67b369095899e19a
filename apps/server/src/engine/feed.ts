import { type Effect } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type WorkedSubject } from './worked';

/** What one gen of one lane moved: whom, and how much of each kind. */
export interface FeedDelta {
  readonly contacts: readonly number[];
  readonly counts: Readonly<Record<string, number>>;
  /** definitions whose holders changed: tags, audiences, scorecards, rules */
  readonly things: readonly number[];
}

const COUNTED: Partial<Record<`${Effect['kind']} ${Effect['verb']}`, string>> = {
  'contact added': 'contacts',
  'tag added': 'tagsAdded',
  'tag removed': 'tagsRemoved',
  'firing fired': 'rulesRan',
  'band crossed': 'bandsCrossed',
  'membership joined': 'joined',
  'membership left': 'left',
};

/** Raises the gen of each lane that was worked and writes what moved, in the transaction of the pass. */
export async function writeFeed(
  sql: Sql,
  worked: readonly (WorkedSubject & { readonly signals: number })[],
  lanes: readonly number[],
  at: number,
): Promise<void> {
  const deltas = lanes.map((lane) => {
    const here = worked.filter((each) => each.lane === lane);
    const counts: Record<string, number> = {};
    const things = new Set<number>();
    for (const { effects, signals } of here) {
      if (signals > 0) counts['signals'] = (counts['signals'] ?? 0) + signals;
      for (const effect of effects) {
        const name = COUNTED[`${effect.kind} ${effect.verb}`];
        if (name) counts[name] = (counts[name] ?? 0) + 1;
        if (effect.thing !== undefined) things.add(effect.thing);
      }
    }
    const delta: FeedDelta = { contacts: here.map(({ state }) => state.id), counts, things: [...things] };
    return { lane, delta };
  });
  await sql.query(
    `with moved as (
       update lane l set gen = l.gen + 1
         from jsonb_to_recordset($1::jsonb) as r(lane smallint, delta jsonb)
        where l.lane = r.lane returning l.lane, l.gen, r.delta)
     insert into feed (lane, gen, at, delta) select lane, gen, $2, delta from moved`,
    [JSON.stringify(deltas), iso(at)],
  );
}
