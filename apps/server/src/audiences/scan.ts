import { atClock, holds, type Compiled, type ConditionNode, type Moment } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { ALL, loadStates } from '../engine/load-states';

/** So many are loaded at a time; a company brings its contacts along. */
const LOADED_AT_ONCE = { contact: 500, company: 50 } as const;

/** Of contacts and companies those that stand: worked at least once, and not merged into another. */
export const STANDING = { contact: 'c.last_now is not null and c.merged_into is null', company: 'c.last_now is not null' } as const;

interface Scanned {
  readonly of: 'contact' | 'company';
  readonly moment: Moment;
  /** narrows the rows `c` that are looked at, with parameters from $1 on */
  readonly where?: { readonly text: string; readonly values: readonly unknown[] };
}

/**
 * Asks conditions of one subject after another, at another clock than now. Scores and audiences are stored as they are now, so SQL cannot
 * answer that; the counting index does it far faster where it is ready.
 *
 * @param see is told of each subject, by falling id, which conditions hold; it stops the scan by answering false
 * @param sql one snapshot, so that all are seen as of one commit
 */
export async function scan(
  sql: Sql,
  compiled: Compiled,
  nodes: readonly ConditionNode[],
  { of, moment, where = { text: 'true', values: [] } }: Scanned,
  see: (id: number, holding: readonly boolean[]) => boolean | void,
): Promise<void> {
  const n = where.values.length;
  for (let before: number | null = null; ;) {
    const rows: { id: number }[] = await sql.query<{ id: number }>(
      `select c.id from ${of} c where ${STANDING[of]} and ${where.text} and ($${n + 1}::bigint is null or c.id < $${n + 1}::bigint) order by c.id desc limit $${n + 2}`,
      [...where.values, before, LOADED_AT_ONCE[of]],
    );
    const ids = rows.map((row) => row.id);
    const states = await loadStates(sql, compiled.catalogue, ids, ALL);
    for (const id of ids) {
      const state = states.get(id);
      if (!state) continue;
      const there = atClock(compiled, state, moment);
      if (
        see(
          id,
          nodes.map((node) => holds(node, there, moment)),
        ) === false
      )
        return;
    }
    if (ids.length < LOADED_AT_ONCE[of]) return;
    before = ids.at(-1) ?? null;
  }
}
