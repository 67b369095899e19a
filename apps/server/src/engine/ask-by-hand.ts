import { type Change } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { iso } from './clock';
import { type Follower } from './follower';
import { appendToInbox, WAKE } from './inbox';

/** What somebody asks for, of whom. */
interface Asked {
  readonly subject: { readonly id: number; readonly lane: number };
  readonly changes: readonly Change[];
}

/**
 * Has changes made that a person or a program asked for, by a pass as everything is, and waits until that has been worked.
 *
 * @param cause who asked, for the ledger
 * @param find whom it is about and what is to change, under definitions that stand still
 */
export async function askByHand(
  { database, follower, now }: { readonly database: Database; readonly follower: Follower; readonly now: number },
  cause: { readonly kind: 'person' | 'api'; readonly ref: string },
  find: (sql: Sql) => Promise<Asked>,
): Promise<void> {
  const seqs = await database.sharedEpoch(async (sql) => {
    const { subject, changes: asked } = await find(sql);
    return appendToInbox(sql, [{ kind: 'edit', contactId: subject.id, lane: subject.lane, payload: { cause, asked } }], iso(now));
  });
  await database.query(`select pg_notify('${WAKE}', '')`);
  await follower.worked(seqs);
}
