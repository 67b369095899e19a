import { type Decided, type Deciding } from '../audiences/sieve.ts';
import { leafHolds } from '../conditions/evaluate/holds.ts';
import { type ConditionNode, type LeafNode } from '../conditions/node.ts';
import { type Compiled } from '../engine/compiled.ts';
import { atClock } from '../engine/look-through.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type PreparedColumn } from '../tables/column.ts';
import { type Moment } from '../time/moment.ts';
import { Bits, countSets, linesOf, setOf } from './bits.ts';
import { type ContactColumns } from './contact-columns.ts';
import { ContactRow } from './contact-row.ts';
import { behind, inOrder, type SortedKeys } from './in-order.ts';
import { type LineSets } from './line-sets.ts';
import { sortKeys } from './sort-keys.ts';

/** Lines whose answer at another clock is worked out, and not read. */
const readsDerived = (line: LeafNode): boolean =>
  line.kind === 'score' ||
  line.kind === 'band' ||
  line.kind === 'audience' ||
  (line.kind === 'compare' && [line.left, line.right].some((side) => side.kind === 'score'));

/** So many contacts are asked one by one between two moments at which somebody else can be served. */
const ROWS_A_STEP = 100;

/** For whom a line holds at another clock than now, where scores and audiences are worked out from definitions. */
function* throughClock(columns: ContactColumns, line: LeafNode, moment: Moment, through: Compiled): Generator<void, Bits> {
  const row = new ContactRow(columns);
  const bits = Bits.none(columns.capacity);
  let rows = 0;
  for (const place of columns.everyone.places()) {
    if ((rows += 1) % ROWS_A_STEP === 0) yield;
    row.at = place;
    if (leafHolds(line, atClock(through, row, moment), moment)) bits.put(place, true);
  }
  return bits;
}

/** The set of each line of some conditions, one after the other. */
function* setsOf(
  sets: LineSets,
  nodes: readonly ConditionNode[],
  moment: Moment,
  through?: Compiled,
): Generator<void, ReadonlyMap<LeafNode, Bits>> {
  const holding = new Map<LeafNode, Bits>();
  for (const line of linesOf(nodes)) {
    if (through && readsDerived(line)) holding.set(line, yield* throughClock(sets.columns, line, moment, through));
    else holding.set(line, through ? sets.holdingAt(line, moment) : sets.holding(line, moment));
    yield;
  }
  return holding;
}

/**
 * How many contacts each of several conditions holds for. Conditions that share their lines (the same nodes) ask each of them once.
 *
 * @param through for another clock than now: scores and audiences are worked out from these definitions instead of taken as recorded
 */
export const countTogether = (sets: LineSets, nodes: readonly ConditionNode[], moment: Moment, through?: Compiled): readonly number[] =>
  countSieve(sets, nodes, { of: [], at: false }, moment, through).counts;

export interface Counted {
  readonly counts: readonly number[];
  readonly decided: Decided;
}

/** The same, and which of the conditions decided for whom. */
export function countSieve(...asked: Parameters<typeof countInSteps>): Counted {
  return atOnce(countInSteps(...asked));
}

/** The same step by step, so that a long one can be put aside for others, or given up. The columns may not change meanwhile. */
export function* countInSteps(
  sets: LineSets,
  nodes: readonly ConditionNode[],
  deciding: Deciding,
  moment: Moment,
  through?: Compiled,
): Generator<void, Counted> {
  const holding = yield* setsOf(sets, nodes, moment, through);
  return countSets({ nodes, deciding }, sets.columns.everyone, (line) => holding.get(line) ?? Bits.none(sets.columns.capacity));
}

/** The ids of those for whom a condition holds, the newest first. @param before only ids below this one */
export function findNewest(
  sets: LineSets,
  node: ConditionNode,
  moment: Moment,
  { limit, before }: { readonly limit: number; readonly before?: number | undefined },
  through?: Compiled,
): readonly number[] {
  const { columns } = sets;
  const holding = atOnce(setsOf(sets, [node], moment, through));
  const held = setOf(node, columns.everyone, (line) => holding.get(line) ?? Bits.none(columns.capacity));
  const found: number[] = [];
  for (const id of columns.newestFirst(before)) {
    if (found.length === limit) break;
    const place = columns.placeOf(id);
    if (place !== undefined && held.has(place)) found.push(id);
  }
  return found;
}

/** What is sorted by. */
export interface SortedBy {
  readonly column: PreparedColumn;
  readonly down: boolean;
}
/** A row and by what it is sorted, as pages hand it out: null where there is nothing. */
export interface RowInOrder {
  readonly id: number;
  readonly key: readonly (string | null)[];
}

/**
 * Those for whom a condition holds in an order of one's own; of those whom nothing sets apart the newest first. Undefined where the columns do not hold
 * what they are sorted by.
 *
 * @param after the row behind which they begin
 */
export function findInOrder(
  sets: LineSets,
  node: ConditionNode,
  moment: Moment,
  catalogue: Catalogue,
  sort: readonly SortedBy[],
  { limit, skip, after }: { readonly limit: number; readonly skip: number; readonly after?: RowInOrder | undefined },
): readonly RowInOrder[] | undefined {
  const { columns } = sets;
  const by: SortedKeys[] = [];
  for (const { column, down } of sort) {
    const keys = sortKeys(column, { columns, catalogue, moment });
    if (!keys) return undefined;
    by.push({ ...keys, down });
  }
  const holding = atOnce(setsOf(sets, [node], moment));
  const held = setOf(node, columns.everyone, (line) => holding.get(line) ?? Bits.none(columns.capacity));
  const all = columns.newestPlaces(held);
  const row = after && {
    id: after.id,
    keys: by.map(({ read }, index) => {
      const key = after.key[index];
      return key === null || key === undefined ? Number.NaN : read(key);
    }),
  };
  const places = row ? behind(all, by, row, (place) => columns.idAt(place)) : all;
  return inOrder(places, by, skip, skip + limit).map((place) => ({
    id: columns.idAt(place),
    key: by.map(({ keys, write }) => (Number.isNaN(keys[place]) ? null : write(keys[place] as number))),
  }));
}

function atOnce<Result>(steps: Generator<void, Result>): Result {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
