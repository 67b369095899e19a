import { type Sql } from '../database/database';
import { type Epoch } from '../settings/definition-store';
import { writeFeed } from './feed';
import { enqueueFollowUps } from './follow-ups';
import { type WorkedSubject } from './worked';
import { type LedgerIds } from './write-ledger';
import { writeStates } from './write-states';

/**
 * Writes what passes did, in the transaction in which their subjects were loaded: their states and the ledger, what it means to others, and
 * what open pages are told.
 *
 * @param lanes those that moved beside the subjects' own
 * @param owner the worker that has the lanes in hand
 */
export async function commitPasses(
  sql: Sql,
  { compiled, epoch }: Epoch,
  worked: readonly WorkedSubject[],
  now: number,
  lanes: readonly number[] = [],
  owner?: string,
): Promise<{ readonly ids: LedgerIds; readonly revisions: ReadonlyMap<number, number> }> {
  const ids = await writeStates(sql, compiled.catalogue, epoch, worked);
  await enqueueFollowUps(sql, compiled, worked, ids, now);
  const moved = [...new Set([...worked.map((subject) => subject.lane), ...lanes])];
  return { ids, revisions: await writeFeed(sql, worked, moved, now, [], owner) };
}
