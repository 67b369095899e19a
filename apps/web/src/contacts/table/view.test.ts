import { Catalogue, columnId, type Column, type Group, type Sort } from '@eager-sieve/core';
import fc from 'fast-check';
import { definition, definitions } from '../../testing/catalogue';
import { lookedFor, measured, measuresOf, offeredColumns } from './offered';
import { firstColumns, inSight, isUnread, readView, sortedBy, writeView } from './view';

const catalogue = new Catalogue({ name: 'Test', timeZone: 'Europe/Stockholm', currency: 'SEK', ratesMillionths: new Map() }, [
  ...definitions,
  definition(170, 'field', 'added', 'added', { of: 'contact', type: 'date-time' }),
]);
const OFFERED: readonly Column[] = [
  ...offeredColumns(catalogue, 'contact').flatMap(({ columns }) => columns.map(({ column }) => column)),
  measured('order.placed', 'times', 90),
  measured('order.placed', 'sum amount', undefined),
];
const columns = fc
  .uniqueArray(fc.integer({ min: 0, max: OFFERED.length - 1 }), { maxLength: 8 })
  .map((picked) => picked.map((at) => OFFERED[at] as Column));
const tagged: Group = { match: 'any', of: [{ kind: 'tag', tag: 3, op: 'has' }] };

describe('a view of the table of people', () => {
  it('is read from its address as it was written', () => {
    fc.assert(
      fc.property(
        columns,
        columns,
        fc.boolean(),
        fc.array(fc.option(fc.integer({ min: 60, max: 900 }), { nil: undefined }), { minLength: 8, maxLength: 8 }),
        (shown, by, isNarrowed, widths) => {
          const view = {
            group: isNarrowed ? tagged : { match: 'all' as const, of: [] },
            columns: shown.map((column, at) => ({
              column,
              ...(widths[at] === undefined ? {} : { width: widths[at] }),
              ...(at % 3 === 0 ? { pinned: true } : {}),
            })),
            sort: by.slice(0, 4).map((column, at) => ({ column, down: at % 2 === 0 })),
          };
          expect(readView(writeView(view, catalogue, 'contact') || null, catalogue, 'contact')).toEqual(view);
        },
      ),
    );
  });

  it('is that of everybody where the address says nothing, and leaves out what is gone', () => {
    const first = readView(null, catalogue, 'contact');
    const line = { kind: 'field', field: 'gone', op: 'is empty' };
    expect(
      [null, '{}', '{', JSON.stringify({ condition: line }), JSON.stringify({ condition: { match: 'all', of: [line] } })].map((text) =>
        isUnread(text, catalogue),
      ),
    ).toEqual([false, false, true, true, true]);
    expect(first).toEqual({ group: { match: 'all', of: [] }, columns: firstColumns(catalogue, 'contact'), sort: [] });
    expect(writeView(first, catalogue, 'contact')).toBe('');
    expect(readView('{', catalogue, 'contact')).toEqual(first);
    expect(readView('{"columns": 3}', catalogue, 'contact')).toEqual(first);
    const gone = { kind: 'field', field: 'none' };
    expect(
      readView(
        JSON.stringify({ columns: [{ column: gone }, { column: { kind: 'owner' } }], sort: [{ column: gone }] }),
        catalogue,
        'contact',
      ),
    ).toMatchObject({
      columns: [{ column: { kind: 'owner' } }],
      sort: [],
    });
  });

  it('shows those that stay in sight first, each in its order', () => {
    const laidOut = OFFERED.slice(0, 5).map((column, at) => ({ column, pinned: at % 2 === 1 }));
    expect(inSight(laidOut).map(({ column }) => column)).toEqual([1, 3, 0, 2, 4].map((at) => OFFERED[at]));
  });

  it('is sorted by a column one way, the other, and then no more; deeper ones keep their places', () => {
    fc.assert(
      fc.property(columns, fc.integer({ min: 0, max: OFFERED.length - 1 }), (by, at) => {
        const sort: readonly Sort[] = by.slice(0, 3).map((column) => ({ column, down: true }));
        const column = OFFERED[at] as Column;
        const isBy = sort.some((each) => columnId(each.column) === columnId(column));
        fc.pre(!isBy);
        const once = sortedBy(sort, column, true);
        const twice = sortedBy(once, column, true);
        expect(once.slice(0, -1)).toEqual(sort);
        expect(twice.map((each) => columnId(each.column))).toEqual(once.map((each) => columnId(each.column)));
        expect(twice.at(-1)?.down).toBe(!once.at(-1)?.down);
        expect(sortedBy(twice, column, true)).toEqual(sort);
        expect(sortedBy(sort, column, false)).toEqual(once.slice(-1));
        expect(sortedBy(sortedBy(once.slice(-1), column, false), column, false)).toEqual([]);
      }),
    );
  });

  it('offers what is not in it yet, and the sums that a signal has', () => {
    const words = lookedFor(offeredColumns(catalogue, 'contact'), 'KEEP', []).flatMap(({ columns: each }) => each.map((one) => one.words));
    expect(words).toEqual(['In Keepers since']);
    const taken: Column = { kind: 'score', scorecard: 'keen' };
    expect(lookedFor(offeredColumns(catalogue, 'contact'), 'keenness', [taken])).toEqual([]);
    expect(measuresOf('order.placed', catalogue).map(([key]) => key)).toEqual(['times', 'days', 'sum amount']);
  });

  it('of companies begin with their own columns, by name, and have none that only people have', () => {
    const first = readView(null, catalogue, 'company');
    expect(first.sort).toEqual([{ column: { kind: 'name' }, down: false }]);
    expect(first.columns.map(({ column }) => column.kind)).toEqual(expect.arrayContaining(['contacts', 'deals', 'field', 'last']));
    expect(writeView(first, catalogue, 'company')).toBe('');
    const unsorted = writeView({ ...first, sort: [] }, catalogue, 'company');
    expect(readView(unsorted, catalogue, 'company').sort).toEqual([]);
    const asked = JSON.stringify({ columns: [{ column: { kind: 'tags' } }, { column: { kind: 'contacts' } }] });
    expect(readView(asked, catalogue, 'company').columns).toEqual([{ column: { kind: 'contacts' } }]);
    expect(readView(asked, catalogue, 'contact').columns).toEqual([{ column: { kind: 'tags' } }]);
  });
});
