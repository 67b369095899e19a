import { type SortKeys } from './sort-keys.ts';

/** By what places are sorted: by the first, then by the next. Whoever has nothing there comes last, also downwards. */
export interface SortedKeys extends SortKeys {
  readonly down: boolean;
}

const NOTHING = Number.POSITIVE_INFINITY;

/** The same so that the smaller comes first, and nothing last. */
function rising({ keys, down }: SortedKeys, places: Uint32Array): Float64Array {
  const values = new Float64Array(places.length);
  for (let index = 0; index < places.length; index += 1) {
    const key = keys[places[index] as number] as number;
    values[index] = Number.isNaN(key) ? NOTHING : down ? -key : key;
  }
  return values;
}

/**
 * Some places of an order, from one of its positions to before another. Only as much is put in order as is asked for.
 *
 * @param places those whom nothing sets apart stand in this order
 */
export function inOrder(places: Uint32Array, by: readonly SortedKeys[], from: number, to: number): readonly number[] {
  const end = Math.min(to, places.length);
  if (from >= end) return [];
  const [first, ...rest] = by;
  if (!first) return [...places.subarray(from, end)];
  const values = rising(first, places);
  const sorted = values.slice().sort();
  const [lowest, highest] = [sorted[from] as number, sorted[end - 1] as number];
  const alike = new Map<number, number[]>();
  values.forEach((value, index) => {
    if (value < lowest || value > highest) return;
    const those = alike.get(value);
    if (those) those.push(places[index] as number);
    else alike.set(value, [places[index] as number]);
  });
  const found: number[] = [];
  let at = firstOf(sorted, lowest);
  // Those who share a value are put in order by what comes next.
  for (const [, those] of [...alike].sort(([a], [b]) => a - b)) {
    found.push(...inOrder(Uint32Array.from(those), rest, Math.max(0, from - at), end - at));
    at += those.length;
  }
  return found;
}

/** Where a value begins among sorted ones. */
function firstOf(sorted: Float64Array, value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((sorted[middle] as number) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** A row behind which others are asked for: its keys, as they are sorted, and its id. */
export interface Behind {
  readonly keys: readonly number[];
  readonly id: number;
}

/** Those who come behind a row: further on in the first column in which they differ, and of those that are alike the older one. */
export function behind(
  places: Uint32Array,
  by: readonly SortedKeys[],
  { keys: at, id }: Behind,
  idOf: (place: number) => number,
): Uint32Array {
  const columns = by.map((each, index) => {
    const key = at[index] ?? Number.NaN;
    return { values: rising(each, places), key: Number.isNaN(key) ? NOTHING : each.down ? -key : key };
  });
  return places.filter((place, index) => {
    for (const { values, key } of columns) {
      const value = values[index] as number;
      if (value !== key) return value > key;
    }
    return idOf(place) < id;
  });
}
