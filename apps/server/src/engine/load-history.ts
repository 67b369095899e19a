import { type Needs } from '@eager-sieve/core';
import { append } from './append';
import { type States } from './parts/part';
import { readingOf, type Reading } from './readings';

/** Which histories and signals to load: those that definitions read, or all. */
export type LoadScope = Needs | 'all';

/** The past: removed tags and values, audiences left, recorded changes. Only what some definition reads. */
export const historyReadings = (states: States, ids: readonly number[], wanted: LoadScope): readonly Reading[] => [
  ...pastTags(states, ids, wanted === 'all' ? 'all' : wanted.pastTags),
  ...leavings(states, ids, wanted === 'all' ? 'all' : wanted.leavings),
  ...changes(states, ids, wanted === 'all' ? 'all' : wanted.changes),
];

type Only<Key> = ReadonlySet<Key> | 'all';
const isNone = (only: Only<unknown>): boolean => only !== 'all' && only.size === 0;
const listed = (only: Only<unknown>): unknown[] | null => (only === 'all' ? null : [...only]);

export function pastTags(states: States, ids: readonly number[], tags: Only<number> = 'all'): readonly Reading[] {
  if (isNone(tags)) return [];
  return [
    readingOf<{ contact_id: number; tag_id: number; since: string; until: string; value: number | null; went: boolean }>(
      ['contact_id', 'tag_id', 'since', 'until', 'value', 'went'],
      `select contact_id, tag_id, since, until, value, went from contact_tag_past
        where contact_id = any($1::bigint[]) and ($2::int[] is null or tag_id = any($2::int[])) order by until, id`,
      [ids, listed(tags)],
      ({ contact_id, tag_id, since, until, value, went }) =>
        append(states.get(contact_id)?.pastTags, tag_id, {
          since: Date.parse(since),
          until: Date.parse(until),
          value: value ?? undefined,
          went,
        }),
    ),
  ];
}

/** When a contact last left each audience. */
export function leavings(states: States, ids: readonly number[], audiences: Only<number> = 'all'): readonly Reading[] {
  if (isNone(audiences)) return [];
  return [
    readingOf<{ contact_id: number; definition_id: number; until: string }>(
      ['contact_id', 'definition_id', 'until'],
      `select contact_id, definition_id, max(until) as until from membership_past
        where contact_id = any($1::bigint[]) and ($2::int[] is null or definition_id = any($2::int[])) group by 1, 2`,
      [ids, listed(audiences)],
      ({ contact_id, definition_id, until }) => states.get(contact_id)?.leavings.set(definition_id, Date.parse(until)),
    ),
  ];
}

export function changes(states: States, ids: readonly number[], of: Only<string> = 'all'): readonly Reading[] {
  if (isNone(of)) return [];
  return [
    readingOf<{ contact_id: number; of: string; at: string; before: string | null; after: string | null }>(
      ['contact_id', 'of', 'at', 'before', 'after'],
      `select contact_id, of, at, before, after from contact_change
        where contact_id = any($1::bigint[]) and ($2::text[] is null or of = any($2::text[])) order by at, id`,
      [ids, listed(of)],
      ({ contact_id, of: changed, at, before, after }) =>
        append(states.get(contact_id)?.changes, changed, { at: Date.parse(at), from: before, to: after }),
    ),
  ];
}
