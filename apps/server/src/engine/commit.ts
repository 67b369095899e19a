import { type Sql } from '../database/database';
import { type Epoch } from '../settings/definition-store';
import { writeFeed } from './feed';
import { enqueueFollowUps } from './follow-ups';
import { type WorkedSubject } from './worked';
import { type LedgerIds } from './write-ledger';
import { writeStates } from './write-states';

interface Committed {
  readonly ids: LedgerIds;
  /** whether something waits now that was not there before */
  readonly hasFollowUps: boolean;
  /** that the lanes have now */
  readonly revisions: ReadonlyMap<number, number>;
}

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
): Promise<Committed> {
  const ids = await writeStates(sql, compiled.catalogue, epoch, worked);
  const hasFollowUps = await enqueueFollowUps(sql, compiled, worked, ids, now);
  const moved = [...new Set([...worked.map((subject) => subject.lane), ...lanes])];
  return { ids, hasFollowUps, revisions: await writeFeed(sql, worked, moved, now, [], owner) };
}
