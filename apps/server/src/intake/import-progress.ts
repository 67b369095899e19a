import { type ImportView } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { type ImportRun } from '../database/entities';
import { ImportTaken } from './import-files';
import { type ImportRow } from './import-rows';

/** So many of the first rows that were refused are shown. */
const KEPT_FAULTS = 100;

interface Counted {
  readonly rows: number;
  readonly created: number;
  readonly updated: number;
  readonly faults: readonly Pick<ImportRow, 'row' | 'faults'>[];
  readonly bytesRead: number;
}

/** @throws ImportTaken where somebody else has the import in hand, or it is over */
export async function countRows(
  sql: Sql,
  { id, holder }: { readonly id: number; readonly holder: string },
  { rows, created, updated, faults, bytesRead }: Counted,
): Promise<void> {
  const unchanged = rows - created - updated - faults.length;
  const counted = await sql.query(
    `update import_run set rows = rows + $3, created = created + $4, updated = updated + $5, unchanged = unchanged + $6, faulty = faulty + $7, bytes_read = $8,
            faults = case when jsonb_array_length(faults) < ${KEPT_FAULTS} then faults || $9::jsonb else faults end
      where id = $1 and holder = $2 and state = 'running' returning id`,
    [id, holder, rows, created, updated, unchanged, faults.length, bytesRead, JSON.stringify(faults.slice(0, KEPT_FAULTS))],
  );
  if (counted.length === 0) throw new ImportTaken();
}

/** The file stopped coming, and what came of it is still here. */
export const canGoOn = (run: ImportRun): boolean => run.state === 'failed' && run.stored > 0;

export const viewOf = (run: ImportRun): ImportView => {
  const { options: _options, aliveUntil: _aliveUntil, holder: _holder, isWhole: _isWhole, watchId: _watchId, ...shown } = run;
  return {
    ...shown,
    canGoOn: canGoOn(run),
    startedAt: run.startedAt.toISOString(),
    finishedAt: run.finishedAt?.toISOString() ?? null,
  };
};
