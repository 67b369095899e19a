import { Transform } from 'node:stream';
import { parse, CsvError } from 'csv-parse';
import { isStorable, splitName, type Catalogue, type Fault } from '@eager-sieve/core';
import { type ContactWrite, type ImportOptions } from '@eager-sieve/contracts';
import { UploadStopped } from '../http/uploads';

const MAX_COLUMNS = 200;
const MAX_ROW_BYTES = 256 * 1024;

/** One row of a file as a contact, or what is wrong with it. */
export interface ImportRow {
  /** the line of the file on which it ends, from one */
  readonly row: number;
  readonly write: ContactWrite;
  readonly faults: readonly Fault[];
}

/** The parts of a pipeline from the bytes of a file to its records. */
export function csvSteps(options: ImportOptions): [Transform, Transform] {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  const decoded = new Transform({
    decodeStrings: true,
    readableObjectMode: false,
    transform(chunk: Buffer, _encoding, done) {
      try {
        done(null, decoder.decode(chunk, { stream: true }));
      } catch {
        done(new ImportError('The file is not UTF-8. Save it as “CSV UTF-8” and try again.'));
      }
    },
    flush(done) {
      try {
        done(null, decoder.decode());
      } catch {
        done(new ImportError('The file ends in the middle of a character: it is not whole, or not UTF-8.'));
      }
    },
  });
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
  return [decoded, records];
}

/** What the last of the steps hands out. */
interface CsvRecord {
  readonly record: Record<string, string>;
  readonly info: { readonly lines: number };
}

/** The rows of records, without the first so many. */
export async function* rowsOf(
  records: AsyncIterable<CsvRecord>,
  options: ImportOptions,
  catalogue: Catalogue,
  skipped: number,
): AsyncGenerator<ImportRow> {
  let read = 0;
  for await (const { record, info } of records) {
    read += 1;
    if (read > skipped) yield { row: info.lines, ...rowOf(record, options, catalogue) };
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

/** Whether an import of contacts can bring what a column is to go to. */
export function takes(target: string, catalogue: Catalogue): boolean {
  const [kind = '', key = ''] = target.split(/:(.*)/s);
  if (kind === 'field') return catalogue.all('field').some((field) => field.key === key && field.body.of === 'contact');
  return kind !== 'tag' || catalogue.all('tag').some((tag) => tag.key === key);
}

/** One row as a contact. An empty cell says nothing, and changes nothing. */
function rowOf(
  record: Readonly<Record<string, string>>,
  options: ImportOptions,
  catalogue: Catalogue,
): { write: ContactWrite; faults: Fault[] } {
  const faults: Fault[] = [];
  const fields: Record<string, unknown> = {};
  const tags: Record<string, boolean | string> = {};
  const consent: Record<string, 'given' | 'withdrawn'> = {};
  let email = '';
  let outsideId: string | undefined;
  for (const [target, column] of Object.entries(options.mapping)) {
    const cell = record[column]?.trim() ?? '';
    if (!isStorable(cell)) {
      faults.push({ path: [column], code: 'text.unfit', expected: 'text without the character U+0000' });
      continue;
    }
    const [kind = '', key = ''] = target.split(/:(.*)/s);
    if (kind === 'email') email = cell;
    else if (cell === '') continue;
    else if (kind === 'outsideId') outsideId = cell;
    else if (kind === 'field') fields[key] = cell;
    else if (kind === 'name') {
      const { given, family } = splitName(cell);
      if (given !== undefined) fields['given-name'] ??= given;
      if (family !== undefined) fields['family-name'] ??= family;
    } else if (kind === 'tag' && catalogue.find('tag', key)?.body.value !== undefined && !WORD.test(cell)) tags[key] = cell;
    else if (!YES.test(cell) && !NO.test(cell)) faults.push({ path: [column], code: 'value.yes-no', expected: 'yes or no' });
    else if (kind === 'tag') tags[key] = YES.test(cell);
    else consent[key] = YES.test(cell) ? 'given' : 'withdrawn';
  }
  return { write: { email, ...(outsideId ? { outsideId } : {}), fields, tags, consent }, faults };
}
