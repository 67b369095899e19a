import Papa from 'papaparse';
import { keyFrom, type Catalogue, type FieldType } from '@eager-sieve/core';

/** The target of each column. */
export type Mapping = Readonly<Record<string, string>>;

const SEPARATORS = [',', ';', '\t'] as const;
type Separator = (typeof SEPARATORS)[number];

/** The head of a file. */
export interface Preview {
  readonly file: File;
  readonly columns: readonly string[];
  readonly rows: readonly Readonly<Record<string, string>>[];
  readonly separator: Separator;
}

const PREVIEW_BYTES = 256 * 1024;

/** Reads only the head of the file, however long it is. */
export async function preview(file: File): Promise<Preview> {
  const head = await file.slice(0, PREVIEW_BYTES).text();
  const parsed = Papa.parse<Record<string, string>>(head.replace(/^\uFEFF/, ''), {
    header: true,
    preview: 6,
    skipEmptyLines: true,
    transformHeader: (name) => name.trim(),
  });
  return {
    file,
    columns: (parsed.meta.fields ?? []).filter(Boolean),
    rows: parsed.data.slice(0, 5),
    separator: SEPARATORS.find((each) => each === parsed.meta.delimiter) ?? ',',
  };
}

/** What a column can go to, each with its name. */
export function targets(catalogue: Catalogue): readonly (readonly [string, string])[] {
  return [
    ['email', 'email address'],
    ['outsideId', 'outside id'],
    ['name', 'full name, given and family'],
    ...catalogue
      .all('field')
      .filter((field) => field.body.of === 'contact' && field.key !== 'email' && field.key !== 'added')
      .map((field) => [`field:${field.key}`, field.name] as const),
    ['consent:email', 'consent to email (yes / no)'],
    ...catalogue.all('tag').map((tag) => [`tag:${tag.key}`, `tag ${tag.key} (${TAG_CELLS[tag.body.value ?? 'none']})`] as const),
  ];
}

/** What a cell of a tag's column may say. */
const TAG_CELLS = { none: 'yes / no', number: 'its number, or yes / no', date: 'its date, or yes / no' } as const;

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]+/g, '');
const ALIKE: Readonly<Record<string, string>> = {
  email: 'email',
  emailaddress: 'email',
  mail: 'email',
  name: 'name',
  fullname: 'name',
  contactname: 'name',
  customername: 'name',
  firstname: 'field:given-name',
  forename: 'field:given-name',
  first: 'field:given-name',
  last: 'field:family-name',
  lastname: 'field:family-name',
  surname: 'field:family-name',
  mayemail: 'consent:email',
  consent: 'consent:email',
};

/** A guess for each column, by its name. */
export function guess(columns: readonly string[], catalogue: Catalogue): Mapping {
  const known = targets(catalogue);
  const mapping: Record<string, string> = {};
  for (const column of columns) {
    const target =
      ALIKE[plain(column)] ??
      known.find(([key, name]) => plain(name) === plain(column) || plain(key.replace(/^\w+:/, '')) === plain(column))?.[0];
    if (target && known.some(([key]) => key === target) && !Object.values(mapping).includes(target)) mapping[column] = target;
  }
  return mapping;
}

/** A target takes one column: choosing it for another takes it from the first. */
export function assigned(mapping: Mapping, column: string, target: string): Mapping {
  const next = Object.fromEntries(Object.entries(mapping).filter(([name, to]) => name !== column && to !== target));
  return target ? { ...next, [column]: target } : next;
}

/** The target of a column that becomes a field of its own. */
export const NEW_FIELD = 'new:';
export const newField = (column: string): string => `${NEW_FIELD}${column}`;

/** What kind of values a column holds, by the first of them. */
function typeOf(values: readonly string[]): FieldType {
  const filled = values.map((value) => value.trim()).filter(Boolean);
  const all = (shape: RegExp): boolean => filled.length > 0 && filled.every((value) => shape.test(value));
  // A number that begins with a nought is a telephone or an article, and nothing to add up.
  if (all(/^-?(0|[1-9]\d*)(\.\d+)?$/)) return 'number';
  if (all(/^\d{4}-\d{2}-\d{2}$/)) return 'date';
  return all(/^(yes|no)$/i) ? 'yes/no' : 'text';
}

interface NewFieldItem {
  readonly key: string;
  readonly name: string;
  readonly of: 'contact';
  readonly type: FieldType;
}

/** The fields that columns are to become, and where their columns go then. */
export function withNewFields(
  mapping: Mapping,
  chosen: Preview,
  catalogue: Catalogue,
): { readonly fields: readonly NewFieldItem[]; readonly mapping: Mapping } {
  const taken = new Set(catalogue.every('field').map((field) => field.key));
  const fields: NewFieldItem[] = [];
  const next = Object.fromEntries(
    Object.entries(mapping).map(([column, target]) => {
      if (!target.startsWith(NEW_FIELD)) return [column, target];
      const key = keyFrom(column, taken);
      taken.add(key);
      fields.push({ key, name: column, of: 'contact', type: typeOf(chosen.rows.map((row) => row[column] ?? '')) });
      return [column, `field:${key}`];
    }),
  );
  return { fields, mapping: next };
}
