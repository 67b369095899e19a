import { SubjectState, type Catalogue, type CountedPart } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { loadChanges, loadLeavings, loadPastTags } from './load-history';
import { loadSignalsByKey } from './load-signals';
import { takeLinks, type LinkRow } from './load-states';
import { PARTS } from './parts';
import { type SignalKey } from './queries/feed-after';
import { type States } from './parts/part';

/** What of a contact is to be loaded, beside its links. */
export interface WantedParts {
  readonly parts: ReadonlySet<CountedPart>;
  readonly signals: readonly SignalKey[];
}

const LOADERS: Readonly<Record<CountedPart, (sql: Sql, catalogue: Catalogue, states: States) => Promise<void>>> = {
  facts: PARTS.facts.load,
  tags: PARTS.tags.load,
  pastTags: (sql, _catalogue, states) => loadPastTags(sql, states),
  consent: PARTS.consent.load,
  scores: PARTS.scores.load,
  memberships: PARTS.memberships.load,
  leavings: (sql, _catalogue, states) => loadLeavings(sql, states),
  changes: (sql, _catalogue, states) => loadChanges(sql, states),
  extras: async (sql, catalogue, states) => {
    for (const part of ['deals', 'latchedLines', 'points', 'pins'] as const) await PARTS[part].load(sql, catalogue, states);
  },
};

/** Contacts of which only their links, some parts and some signals are loaded; those that stand no more are left out. */
export async function loadParts(
  sql: Sql,
  catalogue: Catalogue,
  wanted: ReadonlyMap<number, WantedParts>,
): Promise<Map<number, SubjectState>> {
  const rows = await sql.query<LinkRow & { readonly id: number; readonly last_now: Date }>(
    `select id, last_now, stage_id, stage_since, owner, company_id from contact
      where id = any($1::bigint[]) and merged_into is null and last_now is not null`,
    [[...wanted.keys()]],
  );
  const states = new Map<number, SubjectState>();
  for (const row of rows) {
    const state = new SubjectState({ id: row.id, isNew: false, lastNow: row.last_now.getTime(), dueAt: undefined });
    takeLinks(state, row);
    states.set(row.id, state);
  }
  for (const part of Object.keys(LOADERS) as CountedPart[]) {
    const ofPart = new Map([...states].filter(([id]) => wanted.get(id)?.parts.has(part)));
    if (ofPart.size > 0) await LOADERS[part](sql, catalogue, ofPart);
  }
  await loadSignalsByKey(
    sql,
    states,
    [...states.keys()].flatMap((contact) => (wanted.get(contact)?.signals ?? []).map((key) => ({ contact, key }))),
  );
  return states;
}
