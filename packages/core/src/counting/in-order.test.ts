import fc from 'fast-check';
import { behind, inOrder, type SortedKeys } from './in-order.ts';

const PEOPLE = 40;
/** Few different ones, so that many share them. */
const key = fc.constantFrom(Number.NaN, 0, 0, 1, 2, -3);
const column = fc
  .record({ keys: fc.array(key, { minLength: PEOPLE, maxLength: PEOPLE }), down: fc.boolean() })
  .map(({ keys, down }): SortedKeys => ({ keys: Float64Array.from(keys), down, write: String, read: Number }));
const columns = fc.array(column, { maxLength: 3 });
const places = fc.uniqueArray(fc.nat({ max: PEOPLE - 1 })).map((some) => Uint32Array.from(some.sort((a, b) => b - a)));

/** All of them, sorted as one would by hand. */
const sorted = (some: Uint32Array, by: readonly SortedKeys[]): number[] =>
  [...some].sort((a, b) => {
    for (const { keys, down } of by) {
      const [one, other] = [keys[a] as number, keys[b] as number];
      if (Object.is(one, other)) continue;
      if (Number.isNaN(one)) return 1;
      if (Number.isNaN(other)) return -1;
      if (one !== other) return one < other === down ? 1 : -1;
    }
    return b - a;
  });

describe('an order of places', () => {
  it('gives any stretch as if everyone had been sorted', () => {
    fc.assert(
      fc.property(places, columns, fc.nat({ max: PEOPLE }), fc.nat({ max: PEOPLE }), (some, by, from, length) => {
        expect(inOrder(some, by, from, from + length)).toEqual(sorted(some, by).slice(from, from + length));
      }),
      { numRuns: 2_000 },
    );
  });

  it('goes on behind any row, also behind one that is no more', () => {
    fc.assert(
      fc.property(places, columns, fc.nat({ max: PEOPLE - 1 }), (some, by, row) => {
        const rest = behind(some, by, { keys: by.map(({ keys }) => keys[row] as number), id: row }, (place) => place);
        const all = sorted(Uint32Array.from([...new Set([...some, row])].sort((a, b) => b - a)), by);
        expect(inOrder(rest, by, 0, PEOPLE)).toEqual(all.slice(all.indexOf(row) + 1));
      }),
      { numRuns: 2_000 },
    );
  });
});
