import { type Catalogue, type MapBody } from '@eager-sieve/core';
import Papa from 'papaparse';

type Row = MapBody['rows'][number];

/** The columns of the rows of a map in a spreadsheet; tags stand in a cell one after the other, with spaces between. */
const COLUMNS = ['value', 'gives', 'takes off', 'taken back gives', 'taken back takes off'] as const;
type Column = (typeof COLUMNS)[number];

/** The rows of a map as CSV. */
export function rowsToCsv(rows: readonly Row[], catalogue: Catalogue): string {
  const keys = (tags: readonly number[] = []): string => tags.map((tag) => catalogue.get('tag', tag)?.key ?? '').join(' ');
  const cells = rows.map((row): Record<Column, string> => ({
    value: row.value,
    gives: keys(row.add),
    'takes off': keys(row.remove),
    'taken back gives': keys(row.whenTaken?.add),
    'taken back takes off': keys(row.whenTaken?.remove),
  }));
  return `${Papa.unparse({ fields: [...COLUMNS], data: cells })}\r\n`;
}

/** The rows that a spreadsheet holds, and what is wrong with it. Nothing is taken where anything is wrong. */
export function rowsFromCsv(text: string, catalogue: Catalogue): { readonly rows: Row[]; readonly wrong: readonly string[] } {
  const { data, meta } = Papa.parse<Partial<Record<Column, string>>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  const wrong = new Set<string>();
  if (!meta.fields?.includes('value')) wrong.add('It has no column named “value”.');
  const tags = (cell = ''): number[] =>
    cell
      .split(/[\s,;]+/)
      .filter(Boolean)
      .flatMap((key) => {
        const tag = catalogue.find('tag', key);
        if (!tag || tag.retired) wrong.add(`There is no tag ${key}.`);
        return tag ? [tag.id] : [];
      });
  const rows = data.flatMap((cells): Row[] => {
    const value = cells.value?.trim() ?? '';
    const whenTaken = { add: tags(cells['taken back gives']), remove: tags(cells['taken back takes off']) };
    const row = { value, add: tags(cells.gives), remove: tags(cells['takes off']) };
    if (value === '') return [];
    return [whenTaken.add.length + whenTaken.remove.length > 0 ? { ...row, whenTaken } : row];
  });
  if (wrong.size === 0 && rows.length === 0) wrong.add('It has no rows.');
  return wrong.size > 0 ? { rows: [], wrong: [...wrong] } : { rows, wrong: [] };
}
