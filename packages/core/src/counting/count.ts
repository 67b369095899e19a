import { type Decided, type Deciding } from '../audiences/sieve.ts';
import { holds, leafHolds } from '../conditions/evaluate/holds.ts';
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

/** How everyone is asked. */
export interface Asking {
  /** whether the moment is now, as it goes on: then what lines answer is kept. It is, if left out */
  readonly isNow?: boolean | undefined;
  /** for another clock than now: scores and audiences are worked out instead of taken as recorded */
  readonly through?: Compiled | undefined;
  /** only those whom one of these minds, by the sign-in address */
  readonly own?: readonly string[] | undefined;
}

/** Of whom it is asked, and for whom of them each line of some conditions holds; one line after the other. */
function* setsOf(
  sets: LineSets,
  nodes: readonly ConditionNode[],
  moment: Moment,
  { isNow = true, through, own }: Asking = {},
): Generator<void, { readonly everyone: Bits; readonly holding: (line: LeafNode) => Bits }> {
  const of = (line: LeafNode): Bits => (isNow && !through ? sets.holding(line, moment) : sets.holdingAt(line, moment));
  const everyone = own ? of({ kind: 'owner', ask: 'one of', owners: own }) : sets.columns.everyone;
  const holding = new Map<LeafNode, Bits>();
  for (const line of linesOf(nodes)) {
    holding.set(line, through && readsDerived(line) ? yield* throughClock(sets.columns, line, moment, through) : of(line));
    yield;
  }
  const nobody = Bits.none(sets.columns.capacity);
  const among = (line: LeafNode): Bits => holding.get(line) ?? nobody;
  return { everyone, holding: own ? (line) => among(line).and(everyone) : among };
}

/** How many contacts each of several conditions holds for. Conditions that share their lines (the same nodes) ask each of them once. */
export const countTogether = (sets: LineSets, nodes: readonly ConditionNode[], moment: Moment, asking?: Asking): readonly number[] =>
  countSieve(sets, nodes, { of: [], at: false }, moment, asking).counts;

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
  asking?: Asking,
): Generator<void, Counted> {
  const { everyone, holding } = yield* setsOf(sets, nodes, moment, asking);
  return countSets({ nodes, deciding }, everyone, holding);
}

/** The ids of those for whom a condition holds, the newest first. @param before only ids below this one */
export function findNewest(
  sets: LineSets,
  node: ConditionNode,
  moment: Moment,
  { limit, before }: { readonly limit: number; readonly before?: number | undefined },
  asking?: Asking,
): readonly number[] {
  const { columns } = sets;
  const isFound = foundAt(sets, node, moment, asking);
  const found: number[] = [];
  for (const id of columns.newestFirst(before)) {
    if (found.length === limit) break;
    const place = columns.placeOf(id);
    if (place !== undefined && isFound(place)) found.push(id);
  }
  return found;
}

/** Whether a condition holds at a place. What has to be worked out for another clock is only worked out for those who are asked. */
function foundAt(sets: LineSets, node: ConditionNode, moment: Moment, asking: Asking = {}): (place: number) => boolean {
  const { through, own } = asking;
  if (!through || ![...linesOf([node])].some(readsDerived)) {
    const { everyone, holding } = atOnce(setsOf(sets, [node], moment, asking));
    const held = setOf(node, everyone, holding);
    return (place) => held.has(place);
  }
  const row = new ContactRow(sets.columns);
  return (place) => {
    row.at = place;
    return (!own || (row.owner !== undefined && own.includes(row.owner))) && holds(node, atClock(through, row, moment), moment);
  };
}

/** The ids of all for whom a condition holds now, the newest first; undefined where they are more than so many. */
export function findFew(
  sets: LineSets,
  node: ConditionNode,
  moment: Moment,
  most: number,
  own?: readonly string[],
): readonly number[] | undefined {
  const { columns } = sets;
  const { everyone, holding } = atOnce(setsOf(sets, [node], moment, { own }));
  const held = setOf(node, everyone, holding);
  return held.count > most ? undefined : [...columns.newestPlaces(held)].map((place) => columns.idAt(place));
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
  own?: readonly string[],
): readonly RowInOrder[] | undefined {
  const { columns } = sets;
  const by: SortedKeys[] = [];
  for (const { column, down } of sort) {
    const keys = sortKeys(column, { columns, catalogue, moment });
    if (!keys) return undefined;
    by.push({ ...keys, down });
  }
  const { everyone, holding } = atOnce(setsOf(sets, [node], moment, { own }));
  const held = setOf(node, everyone, holding);
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
