import { changedParts, laneOf, LANES, nameOf, type EffectName } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { every } from './every';
import { feedAfterRevisions, type FeedDelta, type Moved, type MovedAtOnce, type OnlyChanged } from './queries/feed-after';
import { forgetFeed } from './queries/forget-feed';
import { type NewScore } from './queries/write-scores';
import { type WorkedSubject } from './worked';

export { type Moved };

const COUNTED: Partial<Record<EffectName, string>> = {
  'contact added': 'contacts',
  'tag added': 'tagsAdded',
  'tag removed': 'tagsRemoved',
  'firing fired': 'rulesRan',
  'band crossed': 'bandsCrossed',
  'membership joined': 'joined',
  'membership left': 'left',
  'consent set': 'consents',
  'task made': 'tasks',
  'task taken back': 'tasks',
  'notice made': 'notices',
  'notice taken back': 'notices',
};

/** Whom it concerns: those who were worked, and those who were moved with many others. */
export const subjectsOf = ({ contacts, moves = [], scores = [] }: FeedDelta): readonly number[] => [
  ...contacts,
  ...moves.flatMap(({ joins, leaves }) => [...joins, ...leaves]),
  ...scores.flatMap((each) => each.scores.map(([contact]) => contact)),
];

/** The revision that each lane has come to. */
export async function newestRevisions(sql: Sql): Promise<Map<number, number>> {
  const rows = await sql.query<{ lane: number; revision: number }>('select lane, revision from lane');
  return new Map(rows.map(({ lane, revision }) => [lane, revision]));
}

/** What came after these revisions, in the order of each lane. Advances `revisions`. */
export async function feedAfter(sql: Sql, revisions: Map<number, number>): Promise<readonly Moved[]> {
  const rows = await feedAfterRevisions(sql, revisions);
  for (const row of rows) revisions.set(row.lane, row.revision);
  return rows;
}

/**
 * Raises the revision of each lane that was worked and writes what moved, in the transaction of the pass.
 *
 * @param gone contacts that are no more, and so were not worked
 * @param owner the worker that has the lanes in hand
 * @returns the revision that each lane has come to
 */
export async function writeFeed(
  sql: Sql,
  worked: readonly WorkedSubject[],
  lanes: readonly number[],
  at: number,
  gone: readonly number[] = [],
  owner?: string,
): Promise<ReadonlyMap<number, number>> {
  const deltas = lanes.map((lane) => {
    const here = worked.filter((each) => each.lane === lane);
    const counts: Record<string, number> = {};
    const things = new Set<number>();
    const only: Record<number, OnlyChanged> = {};
    for (const { state, effects, arrived } of here) {
      if (arrived && arrived.length > 0) counts['signals'] = (counts['signals'] ?? 0) + arrived.length;
      const parts = arrived && changedParts(state);
      if (parts) only[state.id] = { parts, signals: arrived };
      if (effects.length > 0) counts['effects'] = (counts['effects'] ?? 0) + effects.length;
      for (const effect of effects) {
        const name = COUNTED[nameOf(effect)];
        if (name) counts[name] = (counts[name] ?? 0) + 1;
        if (effect.definitionId !== undefined) things.add(effect.definitionId);
      }
    }
    if (gone.length > 0) counts['gone'] = gone.length;
    const delta: FeedDelta = { contacts: [...here.map(({ state }) => state.id), ...gone], only, counts, things: [...things] };
    return { lane, delta };
  });
  return append(sql, deltas, at, owner);
}

/** What was written of many at once. */
export interface WrittenAtOnce {
  /** who joined and left what; nobody hears of what only rules wait for */
  readonly moves: readonly (MovedAtOnce & { readonly isTold: boolean })[];
  /** by which scorecard somebody has other points or is in another band */
  readonly scores: readonly { readonly id: number; readonly scores: readonly NewScore[] }[];
}

/** The same of what was written of many at once. */
export async function writeAtOnce(sql: Sql, written: WrittenAtOnce, lanes: readonly number[], at: number): Promise<void> {
  const deltas = lanes.map((lane) => {
    const isHere = (id: number): boolean => lanes.length === 1 || laneOf(id) === lane;
    const moves = written.moves.map(({ id, at: since, joins, leaves }) => ({
      id,
      at: since,
      joins: joins.filter(isHere),
      leaves: leaves.filter(isHere),
    }));
    const told = moves.filter((_, index) => written.moves[index]?.isTold);
    const joined = told.reduce((sum, { joins }) => sum + joins.length, 0);
    const left = told.reduce((sum, { leaves }) => sum + leaves.length, 0);
    const scored = written.scores.map(({ id, scores }) => ({ id, scores: scores.filter((each) => isHere(each.contact_id)) }));
    const crossed = scored.map(({ id, scores }) => ({
      id,
      contacts: scores.flatMap((each) => (each.from_band === null ? [] : each.contact_id)),
    }));
    const bandsCrossed = crossed.reduce((sum, { contacts }) => sum + contacts.length, 0);
    const contacts = [...new Set(crossed.flatMap((each) => each.contacts))];
    const delta: FeedDelta = {
      contacts,
      only: Object.fromEntries(contacts.map((id) => [id, { parts: ['changes'], signals: [] }])),
      counts: { effects: joined + left + bandsCrossed, joined, left, bandsCrossed },
      things: [...told.map(({ id }) => id), ...crossed.flatMap((each) => (each.contacts.length > 0 ? each.id : []))],
      moves,
      scores: scored.map(({ id, scores }) => ({
        id,
        scores: scores.map((each) => [each.contact_id, each.points, each.band, each.band_since.getTime()]),
      })),
    };
    return { lane, delta };
  });
  await append(sql, deltas, at);
}

/** Whether there is anything in the feed that nobody needs any more is looked at so often. */
const FORGOTTEN_EVERY_MS = 10_000;
/** Who was away for longer begins anew: an index that was written down before, a page that was left open. */
const KEPT_MS = 2 * 86_400_000;

/** The feed is kept for two days. */
export const forgettingFeed = (sql: Sql, clock: { now(): number }): (() => Promise<false>) =>
  every(
    FORGOTTEN_EVERY_MS,
    () => Date.now(),
    () => forgetFeed(sql, iso(clock.now() - KEPT_MS)),
  );

/** Tells every lane that nobody has anything of some definitions any more. */
export async function writeEnded(sql: Sql, definitions: readonly number[], at: number): Promise<void> {
  const delta: FeedDelta = { contacts: [], counts: {}, things: definitions, ended: definitions };
  await append(
    sql,
    Array.from({ length: LANES }, (_, lane) => ({ lane, delta })),
    at,
  );
}

async function append(
  sql: Sql,
  deltas: readonly { readonly lane: number; readonly delta: FeedDelta }[],
  at: number,
  owner?: string,
): Promise<ReadonlyMap<number, number>> {
  const rows = await sql.query<{ lane: number; revision: number }>(
    `with moved as (
       update lane l set revision = l.revision + 1, owner = coalesce($3, l.owner)
         from jsonb_to_recordset($1::jsonb) as r(lane smallint, delta jsonb)
        where l.lane = r.lane returning l.lane, l.revision, r.delta)
     insert into feed (lane, revision, at, delta) select lane, revision, $2, delta from moved returning lane, revision`,
    [JSON.stringify(deltas), iso(at), owner ?? null],
  );
  return new Map(rows.map(({ lane, revision }) => [lane, revision]));
}
