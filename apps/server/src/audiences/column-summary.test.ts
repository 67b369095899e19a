import { type Cell } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { summaryOf } from './column-summary';

const number = (value: number): Cell => ({ is: 'number', number: value, shown: String(value) });

describe('what a column comes to', () => {
  it('of numbers, is their sum, their mean, and each of them in just one stretch', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ value: fc.integer({ min: -100_000, max: 100_000 }).map((n) => n / 100), n: fc.integer({ min: 1, max: 9 }) }), {
          minLength: 1,
        }),
        fc.integer({ min: 0, max: 5 }),
        (numbers, none) => {
          const {
            of,
            filled,
            numbers: said,
          } = summaryOf([...numbers.map(({ value, n }) => ({ cell: number(value), n })), { cell: null, n: none }]);
          const count = numbers.reduce((sum, { n }) => sum + n, 0);
          const sum = numbers.reduce((total, { value, n }) => total + value * n, 0);
          expect([of, filled]).toEqual([count + none, count]);
          expect(said?.sum).toBeCloseTo(sum, 4);
          expect(said?.mean).toBeCloseTo(sum / count, 4);
          expect(said?.bins.reduce((total, bin) => total + bin.count, 0)).toBe(count);
          expect(said?.least).toBe(Math.min(...numbers.map(({ value }) => value)));
          expect(said?.most).toBe(Math.max(...numbers.map(({ value }) => value)));
        },
      ),
    );
  });

  it('of texts and tags, is which stand most often; of times, the first and the last', () => {
    const tags = (...held: string[]): Cell => ({ is: 'tags', tags: held });
    expect(
      summaryOf([
        { cell: tags('a', 'b'), n: 3 },
        { cell: tags('b'), n: 2 },
        { cell: tags(), n: 4 },
        { cell: null, n: 1 },
      ]),
    ).toMatchObject({
      ...{ of: 10, filled: 5, distinct: 2, numbers: null, times: null },
      values: [
        { shown: 'b', count: 5 },
        { shown: 'a', count: 3 },
      ],
    });
    const at = (time: string): Cell => ({ is: 'time', time });
    expect(
      summaryOf([
        { cell: at('2026-11-25T09:00:00.000Z'), n: 1 },
        { cell: at('2026-01-01T00:00:00.000Z'), n: 2 },
      ]).times,
    ).toMatchObject({ least: '2026-01-01T00:00:00.000Z', most: '2026-11-25T09:00:00.000Z' });
    expect(summaryOf([])).toEqual({ of: 0, filled: 0, numbers: null, times: null, values: [], distinct: 0 });
  });

  it('loses nothing of small numbers, nor of many large ones', () => {
    expect(summaryOf([{ cell: number(0.000_004), n: 3 }]).numbers?.sum).toBe(0.000_012);
    expect(
      summaryOf([
        { cell: number(999_999_999.999_999), n: 1_000_000 },
        { cell: number(-999_999_999.999_999), n: 1_000_000 },
        { cell: number(0.000_001), n: 1 },
      ]).numbers?.sum,
    ).toBe(0.000_001);
  });
});
