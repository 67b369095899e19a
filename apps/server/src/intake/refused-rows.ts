import { storableJson, type Fault } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type ImportRow } from './import-row';

/** So many rows that were refused are kept to be mended. */
const MOST_MENDED = 100_000;
const AT_ONCE = 500;

/** A row that an import refused: as it stood in the file, and what is wrong with it. */
export interface RefusedRow {
  readonly line: number;
  readonly cells: ImportRow['cells'];
  readonly faults: readonly Fault[];
}

/** Keeps rows that were refused as they stood in the file, to be mended. */
export async function keepRefused(sql: Sql, id: number, rows: readonly Pick<ImportRow, 'row' | 'cells' | 'faults'>[]): Promise<void> {
  if (rows.length === 0) return;
  await sql.query(
    `insert into import_fault (import_id, line, cells, faults)
     select $1, r.line, r.cells, r.faults from jsonb_to_recordset($2::jsonb) as r(line int, cells jsonb, faults jsonb)
      where (select faulty from import_run where id = $1) < ${MOST_MENDED} on conflict do nothing`,
    [id, JSON.stringify(rows.map(({ row, cells, faults }) => ({ line: row, cells: storableJson(cells), faults })))],
  );
}

/** The rows that an import refused, in the order of the file, so many at a time. */
export async function* refusedRows(sql: Sql, id: number): AsyncGenerator<RefusedRow> {
  for (let after = -1; ;) {
    const rows = await sql.query<RefusedRow>(
      `select line, cells, faults from import_fault where import_id = $1 and line > $2 order by line limit ${AT_ONCE}`,
      [id, after],
    );
    yield* rows;
    const last = rows.at(-1);
    if (!last) return;
    after = last.line;
  }
}
