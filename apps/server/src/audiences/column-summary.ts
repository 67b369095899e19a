import { MILLIONTHS } from '@eager-sieve/core';
import { type Cell, type ColumnSummary } from '@eager-sieve/contracts';

/** What stands in a column, and in how many rows. */
export interface Counted {
  readonly cell: Cell;
  readonly n: number;
}

const BINS = 10;
const LISTED = 12;

/** What a column comes to: of numbers their sum and how they lie, of times the first and the last, of everything else the most frequent. */
export function summaryOf(counted: readonly Counted[]): ColumnSummary {
  const of = counted.reduce((sum, { n }) => sum + n, 0);
  const there = counted.filter(({ cell }) => cell !== null && (cell.is !== 'tags' || cell.tags.length > 0));
  const filled = there.reduce((sum, { n }) => sum + n, 0);
  const numbers = there.flatMap(({ cell, n }) => {
    const value = cell?.is === 'number' ? cell.number : cell?.is === 'score' ? cell.points : undefined;
    return value === undefined ? [] : [{ value, n }];
  });
  const times = there.flatMap(({ cell, n }) => (cell?.is === 'time' ? [{ value: Date.parse(cell.time), n }] : []));
  const values = new Map<string, number>();
  for (const { cell, n } of there)
    for (const shown of cell?.is === 'text' ? [cell.shown] : cell?.is === 'tags' ? cell.tags : [])
      values.set(shown, (values.get(shown) ?? 0) + n);
  const often = [...values].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
  return {
    ...{ of, filled },
    numbers: numbers.length === 0 ? null : numbersOf(numbers),
    times: times.length === 0 ? null : spread(times, (value) => new Date(value).toISOString()),
    values: often.slice(0, LISTED).map(([shown, count]) => ({ shown, count })),
    distinct: often.length,
  };
}

interface Weighed {
  readonly value: number;
  readonly n: number;
}

function numbersOf(numbers: readonly Weighed[]): NonNullable<ColumnSummary['numbers']> {
  const n = numbers.reduce((sum, each) => sum + each.n, 0);
  // In millionths, as numbers are kept, so that a long sum stays exact.
  const total = numbers.reduce((whole, each) => whole + BigInt(Math.round(each.value * MILLIONTHS)) * BigInt(each.n), 0n);
  const sum = Number(total) / MILLIONTHS;
  return { sum, mean: sum / n, ...spread(numbers, (value) => value) };
}

/** The least and the most, and how many lie in each of ten stretches of equal length between them. */
function spread<Shown>(numbers: readonly Weighed[], shown: (value: number) => Shown) {
  const values = numbers.map(({ value }) => value);
  const [least, most] = [values.reduce((a, b) => Math.min(a, b)), values.reduce((a, b) => Math.max(a, b))];
  const width = (most - least) / BINS;
  const bins = Array.from({ length: width === 0 ? 1 : BINS }, (_, at) => ({
    from: shown(least + at * width),
    to: shown(width === 0 ? most : least + (at + 1) * width),
    count: 0,
  }));
  for (const { value, n } of numbers) {
    const bin = bins[width === 0 ? 0 : Math.min(BINS - 1, Math.floor((value - least) / width))];
    if (bin) bin.count += n;
  }
  return { least: shown(least), most: shown(most), bins };
}
