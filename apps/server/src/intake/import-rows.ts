import { type Catalogue } from '@eager-sieve/core';
import { type ImportOptions } from '@eager-sieve/contracts';
import { Cells } from './import-cells';
import { type FileRecord } from './import-formats';
import { joinedRows } from './import-joined';
import { kindOf } from './import-kinds';
import { type ImportRow } from './import-row';

const NO_RECORD = {
  csv: { code: 'line.row', expected: 'a row of the table' },
  ndjson: { code: 'line.json', expected: 'one JSON object a line' },
  vcard: { code: 'line.card', expected: 'a vCard of version 3.0 or 4.0, from BEGIN:VCARD to END:VCARD' },
} as const;

/** The rows of records, without the first so many; those that are one signal together. */
export async function* rowsOf(
  records: AsyncIterable<FileRecord>,
  options: ImportOptions,
  catalogue: Catalogue,
  skipped: number,
): AsyncGenerator<ImportRow> {
  yield* joinedRows(singleRows(records, options, catalogue, skipped), options, catalogue);
}

async function* singleRows(
  records: AsyncIterable<FileRecord>,
  options: ImportOptions,
  catalogue: Catalogue,
  skipped: number,
): AsyncGenerator<ImportRow> {
  const kind = kindOf(options);
  let read = 0;
  for await (const { record, info } of records) {
    read += 1;
    if (read <= skipped) continue;
    if (!record) {
      yield { row: info.lines, cells: [], write: undefined, faults: [{ path: [], ...NO_RECORD[options.format] }] };
      continue;
    }
    const cells = new Cells(record, options, catalogue);
    const write = kind.read(cells);
    yield { row: info.lines, cells: Object.entries(record), write, faults: cells.faults };
  }
}
