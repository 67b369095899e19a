import { type CountedPart } from '@eager-sieve/core';
import { type Sql } from '../../database/database';

/** What one revision of one lane moved: whom (contacts and companies), and how much of each kind. */
export interface FeedDelta {
  readonly contacts: readonly number[];
  /** of contacts of whom it is known: what alone has changed of them, beside their links */
  readonly only?: Readonly<Record<number, OnlyChanged>>;
  readonly counts: Readonly<Record<string, number>>;
  /** definitions whose holders changed: tags, audiences, scorecards, rules */
  readonly things: readonly number[];
  /** definitions that were retired, deleted or turned off: nobody of the lane is in them, has their points or is pinned for them any more */
  readonly ended?: readonly number[];
  /** who joined and left what, of whom nothing else changed */
  readonly moves?: readonly MovedAtOnce[];
  /** who has other points by what, of whom nothing else changed but what is told beside */
  readonly scores?: readonly ScoredAtOnce[];
}
/** Parts that may have changed as a whole, and signals that came in. */
export interface OnlyChanged {
  readonly parts: readonly CountedPart[];
  readonly signals: readonly SignalKey[];
}
/** A signal of a contact: its type, its time in ms and its id, by which it is found at once. */
export type SignalKey = readonly [number, number, number];
/** Who joined and left something at one instant. */
export interface MovedAtOnce {
  readonly id: number;
  readonly at: string;
  readonly joins: readonly number[];
  readonly leaves: readonly number[];
}
/** Other points by a scorecard: of each contact its id, points, band, and since when it is in the band, in ms. */
export interface ScoredAtOnce {
  readonly id: number;
  readonly scores: readonly (readonly [number, number, string, number])[];
}
export interface Moved {
  readonly lane: number;
  readonly revision: number;
  readonly delta: FeedDelta;
}

/** So many revisions of a lane at a time. */
export const REVISIONS_AT_ONCE = 1_000;

/**
 * What came after the given revision of each lane, in the order of each lane.
 *
 * Tried, with nothing new / with two revisions in each of 64 lanes:
 * - lateral (this one): 0.5 / 1.5 ms; one short look into the key for each lane that moved, however long the feed has become
 * - a plain join with the feed: 0.7 / 1.6 ms at 1,600 revisions, and it grows with the feed
 */
export const feedAfterRevisions = (sql: Sql, revisions: ReadonlyMap<number, number>): Promise<Moved[]> =>
  sql.query(
    `select f.lane, f.revision, f.delta from unnest($1::smallint[], $2::bigint[]) as r(lane, revision)
       join lane l on l.lane = r.lane and l.revision > r.revision
       cross join lateral (select lane, revision, delta from feed where lane = r.lane and revision > r.revision order by revision limit ${REVISIONS_AT_ONCE}) f
      order by f.lane, f.revision`,
    [[...revisions.keys()], [...revisions.values()]],
  );
