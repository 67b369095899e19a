import { Transform } from 'node:stream';
import { parse, CsvError } from 'csv-parse';
import { isStorable } from '@eager-sieve/core';
import { CardCutter, cardCells, cellsOf, type ImportOptions } from '@eager-sieve/contracts';
import { UploadStopped } from '../http/uploads';

const MAX_COLUMNS = 200;
const MAX_ROW_BYTES = 256 * 1024;

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
  if (options.format === 'vcard') return [decoderOf(options), cards(options)];
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
export interface FileRecord {
  /** undefined where a line holds no object, or no card */
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

/** One vCard after another, each as the cells of a row. */
function cards({ listSeparator = ';' }: ImportOptions): Transform {
  const cutter = new CardCutter();
  const told = ({ line, text }: { readonly line: number; readonly text: string | undefined }): FileRecord => ({
    record: text === undefined ? undefined : cardCells(text, listSeparator),
    info: { lines: line },
  });
  return new Transform({
    readableObjectMode: true,
    decodeStrings: false,
    transform(chunk: Buffer | string, _encoding, done) {
      for (const card of cutter.take(chunk.toString())) this.push(told(card));
      done(
        cutter.waiting > MAX_ROW_BYTES ? new ImportError('A card is longer than 256 kB: perhaps its end, END:VCARD, is missing.') : null,
      );
    },
    flush(done) {
      for (const card of cutter.end()) this.push(told(card));
      done();
    },
  });
}

function recordIn(line: string, listSeparator: string): Record<string, string> | undefined {
  try {
    const value: unknown = JSON.parse(line);
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
    return cellsOf(value, listSeparator);
  } catch {
    return undefined;
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
