import { type ImportOptions, type ImportView } from '@eager-sieve/contracts';
import { type Database, type Sql } from '../database/database';
import { type ImportRun } from '../database/entities';
import { ImportTaken } from './import-files';
import { type ImportRow } from './import-row';

/** So many of the first rows that were refused are shown. */
const KEPT_FAULTS = 100;

interface Counted {
  readonly rows: number;
  readonly created: number;
  readonly updated: number;
  /** that go on with the row above */
  readonly joined: number;
  readonly faults: readonly Pick<ImportRow, 'row' | 'faults'>[];
  readonly bytesRead: number;
}

/** @throws ImportTaken where somebody else has the import in hand, or it is over */
export async function countRows(
  sql: Sql,
  { id, holder }: { readonly id: number; readonly holder: string },
  { rows, created, updated, joined, faults, bytesRead }: Counted,
): Promise<void> {
  const unchanged = rows - created - updated - joined - faults.length;
  const counted = await sql.query(
    `update import_run set rows = rows + $3, created = created + $4, updated = updated + $5, unchanged = unchanged + $6, faulty = faulty + $7, bytes_read = $8,
            faults = case when jsonb_array_length(faults) < ${KEPT_FAULTS} then faults || $9::jsonb else faults end
      where id = $1 and holder = $2 and state = 'running' returning id`,
    [id, holder, rows, created, updated, unchanged, faults.length, bytesRead, JSON.stringify(faults.slice(0, KEPT_FAULTS))],
  );
  if (counted.length === 0) throw new ImportTaken();
}

/** So long the last rows are waited for; figures that are not exact by then stay as they are. */
const WORKED_WITHIN_MS = 60_000;
const LONGEST_PAUSE_MS = 1_000;

/** Waits until the rows of an import have been worked, and says how many were really changed: what a row says is often known already. */
export async function countChanged(database: Database, id: number, { of }: Pick<ImportOptions, 'of'>, signal: AbortSignal): Promise<void> {
  if (of !== 'contact' && of !== 'company') return;
  const end = Date.now() + WORKED_WITHIN_MS;
  for (let pause = 25; ; pause = Math.min(LONGEST_PAUSE_MS, pause * 1.5)) {
    const [row] = await database.query<{ waits: boolean }>(
      `select exists (select from inbox where kind = 'edit' and payload->'cause'->>'kind' = 'import' and payload->'cause'->>'ref' = $1) as waits`,
      [String(id)],
    );
    if (row?.waits !== true) break;
    if (Date.now() > end || signal.aborted) return;
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
  await database.query(
    `update import_run r set updated = c.n, unchanged = r.rows - r.created - r.faulty - c.n
       from (select least(r.updated, greatest(0, count(distinct l.contact_id)::int - r.created)) as n
               from import_run r left join ledger l on l.cause_kind = 'import' and l.cause_ref = $2 where r.id = $1 group by r.id) c
      where r.id = $1`,
    [id, String(id)],
  );
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
