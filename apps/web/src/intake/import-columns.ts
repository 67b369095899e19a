import Papa from 'papaparse';
import { detailName, keyFrom, oneOfList, ownFields, type Catalogue, type DetailField, type FieldType } from '@eager-sieve/core';
import { CARD_COLUMNS, CardCutter, cardCells, cellsOf, type importOptionsSchema } from '@eager-sieve/contracts';
import { type z } from 'zod';

/** What a file dialog offers. */
export const FILE_TYPES = '.csv,.txt,.tsv,.ndjson,.jsonl,.vcf,text/csv,application/x-ndjson,text/vcard';

/** The target of each column. */
export type Mapping = Readonly<Record<string, string>>;

const SEPARATORS = [',', ';', '\t'] as const;

/** How a file is read. All of it is guessed from its head, shown, and can be said otherwise. */
export type Reading = Required<Pick<Options, 'of' | 'format' | 'separator' | 'encoding' | 'dates'>> & Pick<Options, 'signalType'>;
type Options = z.input<typeof importOptionsSchema>;

/** The head of a file. */
export interface Preview {
  readonly file: File;
  readonly columns: readonly string[];
  readonly rows: readonly Readonly<Record<string, string>>[];
}

const PREVIEW_BYTES = 256 * 1024;
const SHOWN_ROWS = 5;

/** The first bytes of a file, however long it is. */
export const headOf = async (file: File): Promise<Uint8Array> => new Uint8Array(await file.slice(0, PREVIEW_BYTES).arrayBuffer());

/** In which encoding a file seems to be written. */
export function encodingOf(head: Uint8Array): Reading['encoding'] {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  try {
    // The head may end in the middle of a character.
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: true });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}

/** How a file seems to have to be read, by its head and its name. */
export function readingOf(name: string, head: Uint8Array): Omit<Reading, 'of' | 'signalType' | 'dates'> {
  const encoding = encodingOf(head);
  const text = new TextDecoder(encoding).decode(head).trimStart();
  const format = formatOf(name, text);
  const guessed = Papa.parse<unknown>(text, { preview: 6, skipEmptyLines: true }).meta.delimiter;
  return { encoding, format, separator: SEPARATORS.find((each) => each === guessed) ?? ',' };
}

function formatOf(name: string, text: string): Reading['format'] {
  if (/\.(vcf|vcard)$/i.test(name) || /^BEGIN:VCARD/i.test(text)) return 'vcard';
  return /\.(ndjson|jsonl)$/i.test(name) || text.startsWith('{') ? 'ndjson' : 'csv';
}

/** What stands in the first rows, read so. */
export function preview(file: File, head: Uint8Array, reading: Pick<Reading, 'encoding' | 'format' | 'separator'>): Preview {
  const text = new TextDecoder(reading.encoding).decode(head).replace(/^\uFEFF/, '');
  if (reading.format === 'ndjson') return { file, ...ofLines(text) };
  if (reading.format === 'vcard') return { file, ...ofCards(text) };
  const parsed = Papa.parse<Record<string, string>>(text, {
    header: true,
    preview: SHOWN_ROWS + 1,
    skipEmptyLines: true,
    delimiter: reading.separator,
    transformHeader: (name) => name.trim(),
  });
  return { file, columns: (parsed.meta.fields ?? []).filter(Boolean), rows: parsed.data.slice(0, SHOWN_ROWS) };
}

type Cells = Preview['rows'][number];

/** Of cards those columns are shown in which the first of them have something. */
function ofCards(text: string): Pick<Preview, 'columns' | 'rows'> {
  const rows = [...new CardCutter().take(`${text}\n`)].flatMap(({ text: card }): Cells[] => {
    const cells = card === undefined ? undefined : cardCells(card, ';');
    return cells ? [cells] : [];
  });
  return { columns: CARD_COLUMNS.filter((column) => rows.some((row) => row[column])), rows: rows.slice(0, SHOWN_ROWS) };
}

function ofLines(text: string): Pick<Preview, 'columns' | 'rows'> {
  const objects = text
    .split('\n')
    .slice(0, 50)
    .flatMap((line): Record<string, unknown>[] => {
      try {
        const value: unknown = JSON.parse(line);
        return typeof value === 'object' && value !== null && !Array.isArray(value) ? [value as Record<string, unknown>] : [];
      } catch {
        return [];
      }
    });
  const rows = objects.map((each) => cellsOf(each, ';'));
  return { columns: [...new Set(rows.flatMap((each) => Object.keys(each)))], rows: rows.slice(0, SHOWN_ROWS) };
}

const WRITTEN_DAY = /^(\d{1,2})[./\s-](\d{1,2})[./\s-](\d{2}|\d{4})\b/;

/** How days seem to be written in a file: a first number above twelve can be no month. */
export function datesIn(rows: Preview['rows']): Reading['dates'] {
  const written = rows.flatMap((row) => Object.values(row).map((cell) => WRITTEN_DAY.exec(cell.trim()))).filter((each) => each !== null);
  if (written.length === 0) return 'year first';
  return written.some(([, , second]) => Number(second) > 12) ? 'month first' : 'day first';
}

type Target = readonly [target: string, name: string];

/** What a column can go to, each with its name. */
export function targets(catalogue: Catalogue, { of, signalType }: Pick<Reading, 'of' | 'signalType'>): readonly Target[] {
  const fields = catalogue
    .all('field')
    .filter((field) => field.body.of === (of === 'signal' ? 'contact' : of) && ![...ownFields, 'company-name'].includes(field.key))
    .map((field) => [`field:${field.key}`, field.name] as const);
  if (of === 'company') return [['outsideId', 'outside id'], ['name', 'name of the company'], ...fields];
  if (of === 'deal') return [...OF_DEALS, ...fields];
  const tags = catalogue.all('tag').map((tag): Target => [`tag:${tag.key}`, `tag ${tag.key} (${TAG_CELLS[tag.body.value ?? 'none']})`]);
  if (of === 'signal') {
    const details = detailTargets(catalogue.find('signalType', signalType ?? '')?.body.fields ?? []);
    return [...OF_SIGNALS, ...details, FULL_NAME, ...fields.map(([key, name]): Target => [key, `the contact’s ${name}`]), CONSENT, ...tags];
  }
  return [
    ['email', 'email address'],
    ['outsideId', 'outside id'],
    FULL_NAME,
    ...fields,
    ['company', 'company, by its outside id'],
    ['stage', 'stage, by its key'],
    ['owner', 'owner, by email'],
    CONSENT,
    ...tags,
  ];
}

const FULL_NAME: Target = ['name', 'full name, given and family'];
const CONSENT: Target = ['consent:email', 'consent to email (yes / no)'];
const OF_DEALS: readonly Target[] = [
  ['outsideId', 'outside id'],
  ['name', 'name of the deal'],
  ['contact', 'contact, by email address'],
  ['company', 'company, by its outside id'],
  ['pipeline', 'pipeline, by its key'],
  ['stage', 'stage, by its key'],
  ['amount', 'amount'],
  ['currency', 'currency'],
];
const OF_SIGNALS: readonly Target[] = [
  ['email', 'email address'],
  ['outsideId', 'outside id of the contact'],
  ['time', 'when it happened'],
  ['id', 'its own id at its source'],
];

/** The details of a signal; of a list what one element of it has. */
function detailTargets(fields: readonly DetailField[], path = 'detail:', behind = ''): readonly Target[] {
  return fields.flatMap((field): readonly Target[] => {
    const target = `${path}${field.key}`;
    const name = `${detailName(field, fields)}${behind}`;
    if (field.type === 'answers') return [[target, `${name}, as JSON`]];
    if (field.type !== 'list') return [[target, name]];
    return [...detailTargets(field.of ?? [], `${target}.`, ` of ${oneOfList(field, fields)}`), [target, `all ${name}, as JSON`]];
  });
}

/** What a cell of a tag's column may say. */
const TAG_CELLS = {
  none: 'yes / no',
  number: 'its number, or yes / no',
  date: 'its date, or yes / no',
  active: 'active / inactive, or yes / no',
} as const;

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
  town: 'field:city',
  born: 'field:birthday',
  dateofbirth: 'field:birthday',
  telephone: 'field:phone',
  tel: 'field:phone',
  mobile: 'field:phone',
  mayemail: 'consent:email',
  consent: 'consent:email',
};

const KEPT = 'import columns';

/** Where columns went before, by their names in small letters. Where the browser keeps nothing there is none. */
function remembered(): Readonly<Record<string, string>> {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Record<string, string>;
  } catch {
    return {};
  }
}

/** Keeps where columns went, for the next file. */
export function remember(mapping: Mapping): void {
  const next = { ...remembered(), ...Object.fromEntries(Object.entries(mapping).map(([column, target]) => [plain(column), target])) };
  try {
    localStorage.setItem(KEPT, JSON.stringify(Object.fromEntries(Object.entries(next).slice(-500))));
  } catch {
    // A browser that keeps nothing guesses by name alone.
  }
}

/** In a list of orders a name may be that of what was bought. */
const { name: _name, ...ALIKE_OF_PEOPLE } = ALIKE;

const ALIKE_OF: Readonly<Record<Reading['of'], Readonly<Record<string, string>>>> = {
  contact: ALIKE,
  company: { id: 'outsideId', outsideid: 'outsideId', name: 'name', company: 'name', companyname: 'name' },
  deal: {
    id: 'outsideId',
    deal: 'outsideId',
    dealid: 'outsideId',
    title: 'name',
    dealname: 'name',
    email: 'contact',
    mail: 'contact',
    customer: 'contact',
    value: 'amount',
    worth: 'amount',
  },
  signal: {
    ...ALIKE_OF_PEOPLE,
    customer: 'email',
    date: 'time',
    day: 'time',
    when: 'time',
    at: 'time',
    created: 'time',
    createdat: 'time',
    timestamp: 'time',
    orderdate: 'time',
    orderid: 'detail:order',
    ordernumber: 'detail:order',
    total: 'detail:amount',
    sum: 'detail:amount',
    sku: 'detail:items.product',
    product: 'detail:items.product',
    article: 'detail:items.product',
  },
};
/** What a target is called by itself: `city` of `field:city`, `product` of `detail:items.product` */
const lastOf = (target: string): string => target.replace(target.startsWith('detail:') ? /^.*[:.]/ : /^\w+:/, '');

/** A guess for each column: where it went before, or by its name. */
export function guess(columns: readonly string[], catalogue: Catalogue, rows: Pick<Reading, 'of' | 'signalType'>): Mapping {
  const known = targets(catalogue, rows);
  const before = remembered();
  const mapping: Record<string, string> = {};
  const targetOf = (name: string): string | undefined => {
    const kept = before[name];
    return (
      (known.some(([key]) => key === kept) ? kept : undefined) ??
      ALIKE_OF[rows.of][name] ??
      known.find(([key, label]) => plain(label) === name || plain(lastOf(key)) === name)?.[0]
    );
  };
  for (const column of columns) {
    // Of what is inside of something else, its own name says what it is.
    const target = targetOf(plain(column)) ?? (column.includes('.') ? targetOf(plain(column.replace(/^.*\./, ''))) : undefined);
    const hasParts = columns.some((other) => other.startsWith(`${column}[]`));
    if (target && !hasParts && known.some(([key]) => key === target) && !Object.values(mapping).includes(target)) mapping[column] = target;
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
  readonly of: Exclude<Reading['of'], 'signal'>;
  readonly type: FieldType;
}

/** The fields that columns are to become, and where their columns go then. */
export function withNewFields(
  mapping: Mapping,
  chosen: Preview,
  catalogue: Catalogue,
  of: Reading['of'],
): { readonly fields: readonly NewFieldItem[]; readonly mapping: Mapping } {
  const taken = new Set(catalogue.every('field').map((field) => field.key));
  const fields: NewFieldItem[] = [];
  if (of === 'signal') return { fields, mapping };
  const next = Object.fromEntries(
    Object.entries(mapping).map(([column, target]) => {
      if (!target.startsWith(NEW_FIELD)) return [column, target];
      const key = keyFrom(column, taken);
      taken.add(key);
      fields.push({ key, name: column, of, type: typeOf(chosen.rows.map((row) => row[column] ?? '')) });
      return [column, `field:${key}`];
    }),
  );
  return { fields, mapping: next };
}
