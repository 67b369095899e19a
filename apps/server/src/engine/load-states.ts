import {
  ContactState,
  storageOf,
  type Catalogue,
  type ConsentChannel,
  type ConsentState,
  type Details,
  type Fact,
  type Signal,
  type TagReason,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';

const ms = (value: Date | null): number | undefined => value?.getTime();
const NEVER = Number.POSITIVE_INFINITY;

/**
 * The whole state of some contacts, one query a table. Only signals of types that a definition reads are loaded.
 *
 * @param types ids of those types
 */
export async function loadStates(
  sql: Sql,
  catalogue: Catalogue,
  contactIds: readonly number[],
  types: Iterable<number>,
): Promise<Map<number, ContactState>> {
  const states = new Map<number, ContactState>();
  if (contactIds.length === 0) return states;
  const ids = [contactIds];
  const contacts = await sql.query<{ id: number; last_now: Date | null; due_at: Date | null; epoch: number }>(
    'select c.id, c.last_now, c.epoch, d.due_at from contact c left join due d on d.contact_id = c.id where c.id = any($1::bigint[])',
    ids,
  );
  for (const row of contacts) {
    states.set(
      row.id,
      new ContactState({
        id: row.id,
        isNew: row.last_now === null,
        lastNow: ms(row.last_now) ?? 0,
        dueAt: ms(row.due_at),
        epoch: row.epoch,
      }),
    );
  }
  const of = (contactId: number): ContactState | undefined => states.get(contactId);

  for (const row of await sql.query<FactRow>(
    'select contact_id, field_id, shown, folded, number, choices from contact_fact where contact_id = any($1::bigint[])',
    ids,
  )) {
    const state = of(row.contact_id);
    const fact = factOf(row, catalogue);
    if (!state || fact === undefined) continue;
    state.facts.set(row.field_id, fact);
    if (row.shown !== null) state.shown.set(row.field_id, row.shown);
  }
  const reasons = new Map<string, TagReason[]>();
  for (const row of await sql.query<{ contact_id: number; tag_id: number; kind: TagReason['kind']; ref: string }>(
    'select contact_id, tag_id, kind, ref from contact_tag_reason where contact_id = any($1::bigint[]) order by kind, ref',
    ids,
  )) {
    const key = `${row.contact_id} ${row.tag_id}`;
    const known = reasons.get(key);
    if (known) known.push({ kind: row.kind, ref: row.ref });
    else reasons.set(key, [{ kind: row.kind, ref: row.ref }]);
  }
  for (const row of await sql.query<{ contact_id: number; tag_id: number; since: Date }>(
    'select contact_id, tag_id, since from contact_tag where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.tags.set(row.tag_id, { since: row.since.getTime(), reasons: reasons.get(`${row.contact_id} ${row.tag_id}`) ?? [] });
  }
  for (const row of await sql.query<{ contact_id: number; channel: ConsentChannel; state: ConsentState; at: Date }>(
    'select contact_id, channel, state, at from contact_consent where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.consent.set(row.channel, { state: row.state, at: row.at.getTime() });
  }
  for (const row of await sql.query<{
    contact_id: number;
    scorecard_id: number;
    points: number;
    band: string;
    band_since: Date;
    exact_until: Date | null;
  }>(
    'select contact_id, scorecard_id, points, band, band_since, exact_until from contact_score where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.scores.set(row.scorecard_id, {
      points: row.points,
      band: row.band,
      bandSince: row.band_since.getTime(),
      exactUntil: ms(row.exact_until) ?? NEVER,
    });
  }
  for (const row of await sql.query<{ contact_id: number; definition_id: number; since: Date }>(
    'select contact_id, definition_id, since from membership where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.memberships.set(row.definition_id, { since: row.since.getTime() });
  }
  for (const row of await sql.query<{ contact_id: number; rule_id: number; times: number; last_at: Date }>(
    'select contact_id, rule_id, times, last_at from rule_firing where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.firings.set(row.rule_id, { times: row.times, lastAt: row.last_at.getTime() });
  }
  for (const row of await sql.query<{ contact_id: number; rule_id: number; since: Date }>(
    'select contact_id, rule_id, since from rule_held where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.held.set(row.rule_id, row.since.getTime());
  }
  for (const row of await sql.query<{ contact_id: number; scorecard_id: number; line: string; since: Date }>(
    'select contact_id, scorecard_id, line, since from once_held where contact_id = any($1::bigint[])',
    ids,
  )) {
    of(row.contact_id)?.marks.set(`${row.scorecard_id}:${row.line}`, row.since.getTime());
  }
  await loadSignals(sql, states, [...types]);
  return states;
}

interface FactRow {
  contact_id: number;
  field_id: number;
  shown: string | null;
  folded: string | null;
  number: number | null;
  choices: string[] | null;
}

function factOf(row: FactRow, catalogue: Catalogue): Fact | undefined {
  const field = catalogue.body('field', row.field_id);
  if (!field) return undefined;
  const storage = storageOf[field.type];
  const fact = storage === 'text' || storage === 'choice' ? row.folded : storage === 'choices' ? row.choices : row.number;
  return fact ?? undefined;
}

async function loadSignals(sql: Sql, states: ReadonlyMap<number, ContactState>, types: readonly number[]): Promise<void> {
  const rows = await sql.query<{
    contact_id: number;
    type_id: number;
    time: Date;
    id: number;
    source: string;
    sender_id: string;
    historic: boolean;
    details: Details;
  }>(
    `select s.contact_id, s.type_id, s.time, s.id, o.name as source, s.sender_id, s.historic, s.details
       from signal s join source o on o.id = s.source_id
      where s.contact_id = any($1::bigint[]) and s.type_id = any($2::int[])
      order by s.contact_id, s.time, o.name collate "C", s.sender_id collate "C"`,
    [[...states.keys()], types],
  );
  for (const row of rows) {
    const state = states.get(row.contact_id);
    if (!state) continue;
    const signal: Signal = {
      id: row.id,
      typeId: row.type_id,
      time: row.time.getTime(),
      source: row.source,
      senderId: row.sender_id,
      details: row.details,
      historic: row.historic,
    };
    const ofType = state.signals.get(row.type_id);
    if (ofType) ofType.push(signal);
    else state.signals.set(row.type_id, [signal]);
  }
}
