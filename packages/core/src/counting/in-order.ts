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
  const selected = values.slice();
  const lowest = select(selected, from);
  const highest = select(selected, end - 1, from);
  const alike = new Map<number, number[]>();
  let at = 0;
  for (let index = 0; index < values.length; index += 1) {
    const value = values[index] as number;
    if (value < lowest) at += 1;
    if (value < lowest || value > highest) continue;
    const those = alike.get(value);
    if (those) those.push(places[index] as number);
    else alike.set(value, [places[index] as number]);
  }
  const found: number[] = [];
  // Those who share a value are put in order by what comes next.
  for (const [, those] of [...alike].sort(([a], [b]) => a - b)) {
    found.push(...inOrder(Uint32Array.from(those), rest, Math.max(0, from - at), end - at));
    at += those.length;
  }
  return found;
}

/**
 * The value that would stand at a position if all were sorted. Whatever is less ends up before it and whatever is more behind (Hoare's selection), so that a later
 * position can be looked for from there.
 *
 * @param from nothing behind this position is less than what stands before it
 */
function select(values: Float64Array, position: number, from = 0): number {
  let [low, high] = [from, values.length - 1];
  while (low < high) {
    const pivot = middleOf(values, low, high);
    let [left, right] = [low, high];
    while (left <= right) {
      while ((values[left] as number) < pivot) left += 1;
      while ((values[right] as number) > pivot) right -= 1;
      if (left <= right) {
        const kept = values[left] as number;
        values[left] = values[right] as number;
        values[right] = kept;
        left += 1;
        right -= 1;
      }
    }
    if (position <= right) high = right;
    else if (position >= left) low = left;
    else break;
  }
  return values[position] as number;
}

/** The middle one of the first, the middle and the last value. */
function middleOf(values: Float64Array, low: number, high: number): number {
  const [a, b, c] = [values[low] as number, values[(low + high) >>> 1] as number, values[high] as number];
  return Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
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
