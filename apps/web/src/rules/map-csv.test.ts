import fc from 'fast-check';
import { catalogue } from '../testing/catalogue';
import { rowsFromCsv, rowsToCsv } from './map-csv';

const tags = catalogue.all('tag').map((tag) => tag.id);
const some = fc.uniqueArray(fc.constantFrom(...tags), { maxLength: tags.length });
const rows = fc.array(
  fc.record({
    value: fc.string({ minLength: 1, unit: 'binary-ascii' }).map((text) => `a${text.replace(/[^ -~]/g, '').trim()}`),
    add: some,
    remove: some,
  }),
  { minLength: 1 },
);

describe('the rows of a map as a spreadsheet', () => {
  it('come back as they went', () => {
    fc.assert(
      fc.property(rows, (given) => expect(rowsFromCsv(rowsToCsv(given, catalogue), catalogue)).toEqual({ rows: given, wrong: [] })),
    );
    const taken = [{ value: 'Glaze', add: [tags[0] as number], remove: [], whenTaken: { add: [tags[1] as number], remove: [] } }];
    expect(rowsFromCsv(rowsToCsv(taken, catalogue), catalogue).rows).toEqual(taken);
  });

  it('are not taken where a tag is unknown or a column is missing, and it is said which', () => {
    expect(rowsFromCsv('value,gives\nGlaze,nothing.such glaze.ash\n', catalogue)).toEqual({
      rows: [],
      wrong: ['There is no tag nothing.such.'],
    });
    expect(rowsFromCsv('product,gives\nGlaze,glaze.ash\n', catalogue).wrong).toEqual(['It has no column named “value”.']);
    expect(rowsFromCsv('value,gives\n', catalogue).wrong).toEqual(['It has no rows.']);
  });
});
