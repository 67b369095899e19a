import { type Needs } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { append } from './append';
import { type States } from './parts/part';

/** Which histories and signals to load: those that definitions read, or all. */
export type LoadScope = Needs | 'all';

/** Loads the past: removed tags and values, audiences left, recorded changes. Only what some definition reads. */
export async function loadHistory(sql: Sql, states: States, wanted: LoadScope): Promise<void> {
  await loadPastTags(sql, states, wanted === 'all' ? 'all' : wanted.pastTags);
  await loadLeavings(sql, states, wanted === 'all' ? 'all' : wanted.leavings);
  await loadChanges(sql, states, wanted === 'all' ? 'all' : wanted.changes);
}

type Only<Key> = ReadonlySet<Key> | 'all';
const isNone = (only: Only<unknown>): boolean => only !== 'all' && only.size === 0;
const listed = (only: Only<unknown>): unknown[] | null => (only === 'all' ? null : [...only]);

export async function loadPastTags(sql: Sql, states: States, tags: Only<number> = 'all'): Promise<void> {
  if (isNone(tags)) return;
  for (const row of await sql.query<{
    contact_id: number;
    tag_id: number;
    since: Date;
    until: Date;
    value: number | null;
    went: boolean;
  }>(
    `select contact_id, tag_id, since, until, value, went from contact_tag_past
      where contact_id = any($1::bigint[]) and ($2::int[] is null or tag_id = any($2::int[])) order by until, id`,
    [[...states.keys()], listed(tags)],
  )) {
    const past = { since: row.since.getTime(), until: row.until.getTime(), value: row.value ?? undefined, went: row.went };
    append(states.get(row.contact_id)?.pastTags, row.tag_id, past);
  }
}

/** When a contact last left each audience. */
export async function loadLeavings(sql: Sql, states: States, audiences: Only<number> = 'all'): Promise<void> {
  if (isNone(audiences)) return;
  for (const row of await sql.query<{ contact_id: number; definition_id: number; until: Date }>(
    `select contact_id, definition_id, max(until) as until from membership_past
      where contact_id = any($1::bigint[]) and ($2::int[] is null or definition_id = any($2::int[])) group by 1, 2`,
    [[...states.keys()], listed(audiences)],
  ))
    states.get(row.contact_id)?.leavings.set(row.definition_id, row.until.getTime());
}

export async function loadChanges(sql: Sql, states: States, of: Only<string> = 'all'): Promise<void> {
  if (isNone(of)) return;
  for (const row of await sql.query<{ contact_id: number; of: string; at: Date; before: string | null; after: string | null }>(
    `select contact_id, of, at, before, after from contact_change
      where contact_id = any($1::bigint[]) and ($2::text[] is null or of = any($2::text[])) order by at, id`,
    [[...states.keys()], listed(of)],
  ))
    append(states.get(row.contact_id)?.changes, row.of, { at: row.at.getTime(), from: row.before, to: row.after });
}
