import { SubjectState, type Catalogue, type CountedPart } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { changes, leavings, pastTags } from './load-history';
import { ReadSignals } from './load-signals';
import { takeLinks, type LinkRow } from './load-states';
import { PARTS } from './parts';
import { type SignalKey } from './queries/feed-after';
import { type States } from './parts/part';
import { readTogether, type Reading } from './readings';

/** What of a contact is to be loaded, beside its links. */
export interface WantedParts {
  readonly parts: ReadonlySet<CountedPart>;
  readonly signals: readonly SignalKey[];
}

type ReadingsOf = (catalogue: Catalogue, states: States, ids: readonly number[]) => readonly Reading[];
const READINGS: Readonly<Record<CountedPart, ReadingsOf>> = {
  facts: PARTS.facts.readings,
  tags: PARTS.tags.readings,
  pastTags: (_catalogue, states, ids) => pastTags(states, ids),
  consent: PARTS.consent.readings,
  scores: PARTS.scores.readings,
  memberships: PARTS.memberships.readings,
  leavings: (_catalogue, states, ids) => leavings(states, ids),
  changes: (_catalogue, states, ids) => changes(states, ids),
  extras: (...of) => (['deals', 'latchedLines', 'points', 'pins'] as const).flatMap((part) => PARTS[part].readings(...of)),
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
  const readings = (Object.keys(READINGS) as CountedPart[]).flatMap((part) => {
    const ofPart = new Map([...states].filter(([id]) => wanted.get(id)?.parts.has(part)));
    return ofPart.size > 0 ? READINGS[part](catalogue, ofPart, [...ofPart.keys()]) : [];
  });
  const signals = new ReadSignals(states);
  const keys = [...states.keys()].flatMap((contact) => (wanted.get(contact)?.signals ?? []).map((key) => ({ contact, key })));
  await readTogether(sql, keys.length > 0 ? [...readings, signals.byKey(keys)] : readings);
  await signals.take(sql, catalogue);
  return states;
}
