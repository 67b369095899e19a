import { Transform } from 'node:stream';
import { parse, CsvError } from 'csv-parse';
import { isStorable, splitName, storageOf, type Catalogue, type Fault } from '@eager-sieve/core';
import { type CompanyWrite, type ContactWrite, type ImportOptions } from '@eager-sieve/contracts';
import { UploadStopped } from '../http/uploads';
import { dayIn } from './import-dates';

const MAX_COLUMNS = 200;
const MAX_ROW_BYTES = 256 * 1024;

/** One row of a file as a contact or a company, or what is wrong with it. */
export interface ImportRow {
  /** the line of the file on which it ends, from one */
  readonly row: number;
  /** as it stood in the file: each column with its cell */
  readonly cells: readonly (readonly [string, string])[];
  readonly write: ContactWrite & CompanyWriteToBe;
  readonly faults: readonly Fault[];
}
type CompanyWriteToBe = Partial<Pick<CompanyWrite, 'name'>>;

/** The text of a file, whatever it is written in. */
function decoderOf({ encoding }: ImportOptions): Transform {
  const decoder = new TextDecoder(encoding, { fatal: true });
  const how =
    encoding === 'utf-8'
      ? 'UTF-8. Save it as “CSV UTF-8” and try again, or say in which encoding it is'
      : `${encoding}: say in which encoding it is`;
  return new Transform({
    decodeStrings: true,
    readableObjectMode: false,
    transform(chunk: Buffer, _encoding, done) {
      try {
        done(null, decoder.decode(chunk, { stream: true }));
      } catch {
        done(new ImportError(`The file is not ${how}.`));
      }
    },
    flush(done) {
      try {
        done(null, decoder.decode());
      } catch {
        done(new ImportError('The file ends in the middle of a character: it is not whole, or not in this encoding.'));
      }
    },
  });
}

/** The parts of a pipeline from the bytes of a file to its records. */
export function stepsOf(options: ImportOptions): [Transform, Transform] {
  if (options.format === 'ndjson') return [decoderOf(options), jsonLines(options)];
  const records = parse({
    bom: true,
    columns: (header: string[]) => checkHeader(header, options),
    delimiter: options.separator,
    relax_column_count: true,
    skip_empty_lines: true,
    max_record_size: MAX_ROW_BYTES,
    info: true,
    trim: true,
  });
  return [decoderOf(options), records];
}

/** What the last of the steps hands out. */
interface FileRecord {
  /** undefined where a line holds no object */
  readonly record: Readonly<Record<string, string>> | undefined;
  readonly info: { readonly lines: number };
}

/** One JSON object a line, its values as the cells of a table. */
function jsonLines({ listSeparator = ';' }: ImportOptions): Transform {
  let rest = '';
  let lines = 0;
  const read = (line: string): FileRecord[] => {
    lines += 1;
    if (line.trim() === '') return [];
    return [{ record: recordIn(line, listSeparator), info: { lines } }];
  };
  return new Transform({
    readableObjectMode: true,
    decodeStrings: false,
    transform(chunk: Buffer | string, _encoding, done) {
      const found = (rest + chunk.toString()).replace(/^\uFEFF/, '').split('\n');
      rest = found.pop() ?? '';
      if (rest.length > MAX_ROW_BYTES) return done(new ImportError(`Line ${lines + found.length + 1} is longer than 256 kB.`));
      for (const line of found) for (const record of read(line)) this.push(record);
      done();
    },
    flush(done) {
      for (const record of read(rest)) this.push(record);
      done();
    },
  });
}

function recordIn(line: string, listSeparator: string): Record<string, string> | undefined {
  try {
    const value: unknown = JSON.parse(line);
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
    return Object.fromEntries(Object.entries(value).map(([key, cell]) => [key, cellIn(cell, listSeparator)]));
  } catch {
    return undefined;
  }
}

function cellIn(value: unknown, listSeparator: string): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) return value.map((one) => cellIn(one, listSeparator)).join(listSeparator);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'object' ? JSON.stringify(value) : String(value as string | number);
}

/** The rows of records, without the first so many. */
export async function* rowsOf(
  records: AsyncIterable<FileRecord>,
  options: ImportOptions,
  catalogue: Catalogue,
  skipped: number,
): AsyncGenerator<ImportRow> {
  let read = 0;
  for await (const { record, info } of records) {
    read += 1;
    if (read <= skipped) continue;
    const cells = Object.entries(record ?? {});
    if (record) yield { row: info.lines, cells, ...new RowReader(record, options, catalogue).read() };
    else yield { row: info.lines, cells, write: {}, faults: [{ path: [], code: 'line.json', expected: 'one JSON object a line' }] };
  }
}

export class ImportError extends Error {
  override readonly name = 'ImportError';
}

export function failureText(error: unknown): string {
  if (error instanceof ImportError) return error.message;
  if (error instanceof UploadStopped)
    return 'The file stopped coming before its end. The rows counted here are in; go on with the same file to bring in the rest.';
  if (error instanceof CsvError) {
    const line = (error as { lines?: number }).lines;
    if (error.code === 'CSV_QUOTE_NOT_CLOSED') return `A quotation mark that opens before line ${line ?? '?'} is never closed.`;
    if (error.code === 'CSV_MAX_RECORD_SIZE')
      return `The row around line ${line ?? '?'} is longer than 256 kB; perhaps a quotation mark is not closed.`;
    return `Line ${line ?? '?'} cannot be read as CSV: ${error.message}`;
  }
  return 'The import stopped. The rows counted here are in; import the file again to bring in the rest.';
}

function checkHeader(header: readonly string[], options: ImportOptions): string[] {
  const names = header.map((name) => name.trim());
  const unfit = names.find((name) => name === '__proto__' || !isStorable(name));
  if (unfit !== undefined)
    throw new ImportError(`A column is named “${shownName(unfit)}”, which cannot be taken: give it another name in the first line.`);
  if (names.length > MAX_COLUMNS) throw new ImportError(`The file has ${names.length} columns; at most ${MAX_COLUMNS} are taken.`);
  const missing = Object.values(options.mapping).filter((column) => !names.includes(column));
  if (missing.length > 0)
    throw new ImportError(
      `The file has no column ${missing.map((column) => `“${column}”`).join(', ')}. Its columns are ${names.slice(0, 12).join(', ')}.`,
    );
  return names.map((name, index) => (names.indexOf(name) === index ? name : `${name} (${index + 1})`));
}

/** With what cannot be shown left out. */
const shownName = (name: string): string => name.toWellFormed().replaceAll('\u0000', '');

const YES = /^(yes|y|true|1|given|x)$/i;
const NO = /^(no|n|false|0|withdrawn)$/i;

/** Of a tag that carries a value, a bare 1 or 0 is one. */
const WORD = /^(yes|y|true|x|no|n|false)$/i;

const PLAIN: Readonly<Record<ImportOptions['of'], readonly string[]>> = {
  contact: ['email', 'outsideId', 'name', 'company', 'part', 'stage', 'owner', 'consent:email', 'consent:text', 'consent:chat'],
  company: ['outsideId', 'name'],
};

/** Whether an import can bring what a column is to go to. */
export function takes(target: string, of: ImportOptions['of'], catalogue: Catalogue): boolean {
  if (PLAIN[of].includes(target)) return true;
  const [kind = '', key = ''] = target.split(/:(.*)/s);
  if (kind === 'field') return catalogue.all('field').some((field) => field.key === key && field.body.of === of);
  return kind === 'tag' && of === 'contact' && catalogue.all('tag').some((tag) => tag.key === key);
}

/** Reads one row. An empty cell says nothing and changes nothing, unless it is to clear its field. */
class RowReader {
  readonly #faults: Fault[] = [];
  readonly #fields: Record<string, unknown> = {};
  readonly #record: Readonly<Record<string, string>>;
  readonly #options: ImportOptions;
  readonly #catalogue: Catalogue;

  constructor(record: Readonly<Record<string, string>>, options: ImportOptions, catalogue: Catalogue) {
    this.#record = record;
    this.#options = options;
    this.#catalogue = catalogue;
  }

  read(): Pick<ImportRow, 'write' | 'faults'> {
    const plain: Record<string, string> = {};
    const tags: Record<string, boolean | string> = {};
    const consent: Record<string, 'given' | 'withdrawn'> = {};
    for (const [target, column] of Object.entries(this.#options.mapping)) {
      const cell = this.#record[column]?.trim() ?? '';
      if (!isStorable(cell)) {
        this.#fault(column, 'text.unfit', 'text without the character U+0000');
        continue;
      }
      const [kind = '', key = ''] = target.split(/:(.*)/s);
      if (kind === 'field') this.#field(key, cell, column);
      else if (cell === '') continue;
      else if (kind === 'name') this.#name(cell, plain);
      else if (kind === 'tag') this.#tag(key, cell, column, tags);
      else if (kind === 'consent') {
        const given = this.#yesNo(cell, column);
        if (given !== undefined) consent[key] = given ? 'given' : 'withdrawn';
      } else plain[kind] = cell;
    }
    return { write: this.#options.of === 'company' ? this.#company(plain) : this.#contact(plain, tags, consent), faults: this.#faults };
  }

  #company({ outsideId = '', name }: Readonly<Record<string, string>>): ImportRow['write'] {
    if (outsideId === '') this.#fault(this.#options.mapping['outsideId'] ?? '', 'outside-id.missing', 'the outside id of the company');
    return { outsideId, ...(name === undefined ? {} : { name }), fields: this.#fields };
  }

  #contact(
    { name: _name, ...plain }: Readonly<Record<string, string>>,
    tags: Record<string, boolean | string>,
    consent: Record<string, 'given' | 'withdrawn'>,
  ): ImportRow['write'] {
    const { list, owner, consent: ofAll } = this.#options;
    return {
      ...plain,
      email: plain['email'] ?? '',
      fields: this.#fields,
      tags,
      consent: { ...(ofAll ? { email: ofAll } : {}), ...consent },
      ...(owner === undefined || plain['owner'] !== undefined ? {} : { owner }),
      ...(list === undefined ? {} : { lists: { [list]: true } }),
    };
  }

  #name(cell: string, plain: Record<string, string>): void {
    if (this.#options.of === 'company') {
      plain['name'] = cell;
      return;
    }
    const { given, family } = splitName(cell);
    if (given !== undefined) this.#fields['given-name'] ??= given;
    if (family !== undefined) this.#fields['family-name'] ??= family;
  }

  #field(key: string, cell: string, column: string): void {
    if (cell === '') {
      if (this.#options.emptyCells === 'clear') this.#fields[key] = null;
      return;
    }
    const body = this.#catalogue.all('field').find((field) => field.key === key && field.body.of === this.#options.of)?.body;
    const storage = body && storageOf[body.type];
    if (storage === 'choices' && this.#options.listSeparator !== undefined) {
      this.#fields[key] = cell
        .split(this.#options.listSeparator)
        .map((one) => one.trim())
        .filter(Boolean);
      return;
    }
    const isDay = storage === 'day' || storage === 'instant';
    const day = isDay ? dayIn(cell, this.#options.dates) : cell;
    if (day === undefined) this.#fault(column, 'value.date', `a day, ${this.#options.dates}`);
    else this.#fields[key] = day;
  }

  #tag(key: string, cell: string, column: string, tags: Record<string, boolean | string>): void {
    if (this.#catalogue.find('tag', key)?.body.value !== undefined && !WORD.test(cell)) {
      tags[key] = cell;
      return;
    }
    const given = this.#yesNo(cell, column);
    if (given !== undefined) tags[key] = given;
  }

  #yesNo(cell: string, column: string): boolean | undefined {
    if (YES.test(cell)) return true;
    if (NO.test(cell)) return false;
    this.#fault(column, 'value.yes-no', 'yes or no');
    return undefined;
  }

  #fault(column: string, code: string, expected: string): void {
    this.#faults.push({ path: [column], code, expected });
  }
}
