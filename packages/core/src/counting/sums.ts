import { passes } from '../conditions/evaluate/details.ts';
import { type ValueTest } from '../conditions/operators/index.ts';
import { type Moment } from '../time/moment.ts';
import { boundsAt, nextCrossing, type PreparedWindow } from '../time/window.ts';
import { type Day, type Instant } from '../time/zone.ts';
import { type Rows, type RowsInLine } from './rows.ts';
import { crossings } from './within.ts';

const NEVER = Number.POSITIVE_INFINITY;

/** Where a kernel puts what it found. Of whom it says nothing, a line holds as it does of a contact of whom nothing is known. */
export interface Found {
  /** @param next a lower bound of the instant at which the truth changes by itself */
  readonly tell: (place: number, truth: boolean, next: Instant) => void;
  /** leaves the place to the evaluator of single contacts */
  readonly ask: (place: number) => void;
}

/** Numbers of everyone that are added up, when the earliest of them changes by itself, and who was added up. */
export interface Sums {
  sums: Float64Array;
  nexts: Float64Array;
  seen: Uint8Array;
}
/** Used again for each line: memory of this size that comes and goes keeps the collector busy. */
const SCRATCH: Sums = { sums: new Float64Array(0), nexts: new Float64Array(0), seen: new Uint8Array(0) };
const [ADDED, ALONE] = [1, 2] as const;

export function emptySums(size: number): Sums {
  if (SCRATCH.seen.length !== size) {
    SCRATCH.sums = new Float64Array(size);
    SCRATCH.nexts = new Float64Array(size);
    SCRATCH.seen = new Uint8Array(size);
  }
  SCRATCH.sums.fill(0);
  SCRATCH.nexts.fill(NEVER);
  SCRATCH.seen.fill(0);
  return SCRATCH;
}

/**
 * Adds up, for each place, what its rows of a window are worth. The first column of numbers holds when a row was, the earliest first.
 *
 * @param dayOf where days are counted: those on which a row is worth anything
 */
export function addUp<Row>(
  rows: Rows<Row> | undefined,
  window: PreparedWindow,
  moment: Moment,
  worth: (rows: RowsInLine) => (row: number) => number,
  { sums, nexts, seen }: Sums,
  dayOf?: (instant: Instant) => Day,
): void {
  if (!rows) return;
  const { from: first, to: last } = boundsAt(window, moment);
  const crossing = crossings(window, moment);
  const now = moment.instant;
  const fromLast = window.kind === 'last';
  const inLine = rows.inLine();
  const { count, places, ends } = inLine;
  const times = inLine.numbers(0);
  const worthOf = worth(inLine);
  for (let at = 0, from = 0; at < count; at += 1) {
    const to = ends ? (ends[at] as number) : at + 1;
    const place = places[at] as number;
    let sum = 0;
    let earliest = NEVER;
    let next = NEVER;
    let day: Day | undefined;
    for (let row = to - 1; row >= from; row -= 1) {
      const time = times[row] as number;
      if (time < first) break;
      if (time > now) next = Math.min(next, nextCrossing(window, time, moment));
      // Of what has happened the earliest crosses first.
      else if (fromLast || time > last) earliest = time;
      if (time > last) continue;
      const worth = worthOf(row);
      if (!dayOf) sum += worth;
      else if (worth !== 0 && day !== (day = dayOf(time))) sum += 1;
    }
    if (earliest !== NEVER) next = Math.min(next, crossing(earliest));
    sums[place] = (sums[place] as number) + sum;
    if (next < (nexts[place] as number)) nexts[place] = next;
    seen[place] = (seen[place] as number) | ADDED;
    from = to;
  }
  for (const place of rows.loose()) seen[place] = ALONE;
}

/** Tells of everyone who was added up whether the number passes; those beside the columns are asked one by one. */
export function tellSums({ sums, nexts, seen }: Sums, test: ValueTest, moment: Moment, found: Found): void {
  for (let place = 0; place < seen.length; place += 1) {
    if (seen[place] === ADDED) found.tell(place, passes(test, sums[place], moment), nexts[place] as number);
    else if (seen[place] !== 0) found.ask(place);
  }
}

/** Each row counts once. */
export const one = () => () => 1;
