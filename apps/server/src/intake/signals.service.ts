import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import {
  bad,
  faultsOf,
  good,
  localDay,
  readDetails,
  readInstant,
  unfitIn,
  type Catalogue,
  type Checked,
  type Fault,
} from '@eager-sieve/core';
import { cloudEventSchema, type CloudEvent } from '@eager-sieve/contracts';
import { Database, type Sql, type Transaction } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { type EditCause } from '../engine/edits.service';
import { appendToInbox, WAKE, withMade, type InboxEntry, type SignalPayload } from '../engine/inbox';
import { originOfEdit, originOfSignal } from '../contacts/origin';
import { readSubject, resolveContacts, subjectKey, type Subject } from '../contacts/resolve';

/** A signal dated further ahead than this is refused: its sender's clock is wrong. */
const MOST_AHEAD_MS = 5 * 60_000;
const MAX_DATA_BYTES = 64 * 1024;
/** The source of signals that came from files. */
export const IMPORT_SOURCE = 'import';
const EARLIEST = Date.UTC(1900, 0, 1);

export interface Rejected extends Fault {
  readonly index: number;
}
export interface Intake {
  readonly accepted: number;
  readonly duplicates: number;
  readonly rejected: readonly Rejected[];
  /** inbox rows of what was accepted, to wait for */
  readonly seqs: readonly number[];
  readonly signalIds: readonly number[];
  readonly contactIds: readonly number[];
}

/** A signal that has been read, with its place in what was sent. */
export interface ReadSignal {
  readonly index: number;
  readonly event: unknown;
  /** the currency that has no rate yet: the signal is kept, and worked when it has one */
  readonly waitsFor?: string;
  readonly subject: Subject;
  readonly source: string;
  readonly senderId: string;
  readonly typeId: number;
  readonly time: number;
  readonly historic: boolean;
  readonly details: SignalPayload['details'];
  readonly data: unknown;
}

/** Takes signals in: checks each, finds or makes its contact, and puts it into its lane's inbox once. What is accepted is committed. */
@Injectable()
export class SignalsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /**
   * @param by who sends: the key or part of the product that contacts made on the way are put down to
   * @param also written with it, or not at all; told whom the accepted signals are about
   */
  async take(
    events: readonly unknown[],
    by: string,
    also?: (sql: Transaction, contactIds: readonly number[]) => Promise<unknown>,
  ): Promise<Intake> {
    const result = await this.database.sharedEpoch(
      async (sql) => {
        const { compiled } = await this.store.current(sql);
        const now = this.clock.now();
        const rejected: Rejected[] = [];
        const read = events.flatMap((event, index) => {
          const checked = readEvent(event, compiled.catalogue, now);
          if (checked.ok) return [{ index, event, ...checked.value }];
          rejected.push(...checked.faults.map((fault) => ({ index, ...fault })));
          return [];
        });
        const sent = await prepareSignals(sql, compiled.catalogue, read, { kind: 'api', ref: by }, now);
        const contactIds = [...new Set(sent.contacts.values())];
        const seqs = await appendToInbox(sql, sent.entries, iso(now));
        await also?.(sql, contactIds);
        const accepted = sent.accepted.size;
        return { accepted, duplicates: read.length - accepted, rejected, seqs, signalIds: sent.signalIds, contactIds };
      },
      { isPrepared: true },
    );
    if (result.accepted > 0) await this.database.query(`select pg_notify('${WAKE}', '')`);
    return result;
  }
}

export function readEvent(event: unknown, catalogue: Catalogue, now: number): Checked<Omit<ReadSignal, 'index' | 'event'>> {
  const unfit = unfitIn(event);
  if (unfit.length > 0) return bad(...unfit);
  const shape = cloudEventSchema.safeParse(event);
  if (!shape.success) return bad(...faultsOf(shape.error));
  const given: CloudEvent = shape.data;
  const subject = readSubject(given.subject);
  if (!subject) return bad({ path: ['subject'], code: 'subject.malformed', expected: 'an email address, or id: and an outside id' });
  const type = catalogue.find('signalType', given.type);
  if (!type || type.retired) {
    const known = catalogue.all('signalType').map((each) => each.key);
    return bad({ path: ['type'], code: 'signal-type.unknown', expected: `one of ${known.join(', ')}` });
  }
  const time = given.time === undefined ? now : readInstant(given.time, catalogue.zone);
  if (time === undefined || time < EARLIEST)
    return bad({ path: ['time'], code: 'time.malformed', expected: 'an RFC 3339 time like 2026-11-25T14:00:00Z' });
  if (time > now + MOST_AHEAD_MS)
    return bad({ path: ['time'], code: 'time.ahead', expected: 'a time that is not more than 5 minutes ahead' });
  if (given.data !== undefined && JSON.stringify(given.data).length > MAX_DATA_BYTES)
    return bad({ path: ['data'], code: 'data.size', expected: 'at most 64 kB of data' });
  const { workspace } = catalogue;
  const { details, faults } = readDetails(type.body.fields, given.data, catalogue.zone, {
    currency: workspace.currency,
    ratesMillionths: workspace.ratesMillionths,
  });
  const waitsFor = withoutRate(faults, given.data);
  if (faults.length > 0 && waitsFor === undefined) return bad(...faults);
  return good({
    ...(waitsFor === undefined ? {} : { waitsFor }),
    subject,
    source: given.source,
    senderId: given.id,
    typeId: type.id,
    time,
    historic: given.historic ?? false,
    details,
    data: given.data ?? null,
  });
}

/** The currency of a signal of which nothing is wrong but that there is no rate for it. */
function withoutRate(faults: readonly Fault[], data: unknown): string | undefined {
  if (faults.length === 0 || faults.some((fault) => fault.code !== 'money.rate')) return undefined;
  const currency = typeof data === 'object' && data !== null ? (data as { currency?: unknown }).currency : undefined;
  return typeof currency === 'string' && /^[A-Z]{3}$/.test(currency.trim().toUpperCase()) ? currency.trim().toUpperCase() : undefined;
}

/** Signals whose keys are claimed, and what is to be put into the inboxes. */
export interface PreparedSignals {
  /** the places of those that had not come before */
  readonly accepted: ReadonlySet<number>;
  readonly entries: readonly InboxEntry[];
  readonly signalIds: readonly number[];
  /** whom each is about, by its place; without those that wait for a rate */
  readonly contacts: ReadonlyMap<number, number>;
}

/**
 * Claims the keys of signals, and finds or makes the contacts of those that had not come before.
 *
 * @param cause what the contacts that are made on the way are put down to
 */
export async function prepareSignals(
  sql: Sql,
  catalogue: Catalogue,
  read: readonly ReadSignal[],
  cause: EditCause,
  now: number,
): Promise<PreparedSignals> {
  const accepted = read.length === 0 ? [] : await claim(sql, read, now);
  await keepWaiting(sql, accepted, cause.ref, now);
  const places = new Set(accepted.map(({ index }) => index));
  return { accepted: places, ...(await entriesOf(sql, catalogue, accepted, cause, now)) };
}

/** Those of these signals that nobody has sent before. */
async function claim(sql: Sql, read: readonly ReadSignal[], now: number): Promise<readonly ReadSignal[]> {
  const sources = await sourceIds(sql, [...new Set(read.map((signal) => signal.source))]);
  const keyed = new Map<string, ReadSignal>();
  for (const signal of read) {
    const key = `${sources.get(signal.source)} ${createHash('sha256').update(signal.senderId).digest('hex')}`;
    if (!keyed.has(key)) keyed.set(key, signal);
  }
  // In one order everywhere, so that two batches with the same signals wait for each other instead of locking each other.
  const keys = [...keyed.keys()].sort();
  const winners = await sql.query<{ source_id: number; hash: string }>(
    `insert into signal_key (source_id, key_hash, received_at)
     select r.source_id, decode(r.hash, 'hex'), $3 from unnest($1::int[], $2::text[]) as r(source_id, hash)
     on conflict do nothing returning source_id, encode(key_hash, 'hex') as hash`,
    [keys.map((key) => Number(key.split(' ')[0])), keys.map((key) => key.split(' ')[1]), iso(now)],
  );
  const won = new Set(winners.map((row) => `${row.source_id} ${row.hash}`));
  return [...keyed].filter(([key]) => won.has(key)).map(([, signal]) => signal);
}

async function keepWaiting(sql: Sql, signals: readonly ReadSignal[], by: string, now: number): Promise<void> {
  const waiting = signals.filter((signal) => signal.waitsFor !== undefined);
  if (waiting.length === 0) return;
  await sql.query(
    `insert into signal_waiting (currency, event, by, received_at)
     select r.currency, r.event, $2, $3 from jsonb_to_recordset($1::jsonb) as r(currency text, event jsonb)`,
    [
      JSON.stringify(
        waiting.map(({ waitsFor, event, time }) => ({ currency: waitsFor, event: { ...(event as object), time: iso(time) } })),
      ),
      by,
      iso(now),
    ],
  );
}

/** Works the signals that waited for a rate and have one now. Called where the rates are changed, in the same transaction. */
export async function releaseWaiting(sql: Sql, catalogue: Catalogue, now: number): Promise<number> {
  const currencies = [...catalogue.workspace.ratesMillionths.keys(), catalogue.workspace.currency];
  const rows = await sql.query<{ id: number; event: unknown; by: string }>(
    'select id, event, by from signal_waiting where currency = any($1::text[]) order by id for update',
    [currencies],
  );
  const read = rows.flatMap(({ id, event, by }, index) => {
    const checked = readEvent(event, catalogue, now);
    return checked.ok && checked.value.waitsFor === undefined ? [{ index, id, event, by, ...checked.value }] : [];
  });
  await sql.query('delete from signal_waiting where id = any($1::bigint[])', [read.map((each) => each.id)]);
  for (const by of new Set(read.map((each) => each.by))) {
    const own = read.filter((each) => each.by === by);
    const kind = own[0]?.source === IMPORT_SOURCE ? 'import' : 'api';
    const { entries } = await entriesOf(sql, catalogue, own, { kind, ref: by }, now);
    await appendToInbox(sql, entries, iso(now));
  }
  return read.length;
}

/** Finds or makes the contacts of signals whose keys are claimed; those that wait for a rate are left out. */
async function entriesOf(
  sql: Sql,
  catalogue: Catalogue,
  all: readonly ReadSignal[],
  cause: EditCause,
  now: number,
): Promise<Omit<PreparedSignals, 'accepted'>> {
  const signals = all.filter((signal) => signal.waitsFor === undefined);
  if (signals.length === 0) return { entries: [], signalIds: [], contacts: new Map() };
  const sources = await sourceIds(sql, [...new Set(signals.map((signal) => signal.source))]);
  const firsts = new Map<string, ReadSignal>();
  for (const signal of signals) if (!firsts.has(subjectKey(signal.subject))) firsts.set(subjectKey(signal.subject), signal);
  const fromFile = cause.kind === 'import' ? await originOfEdit(sql, cause) : undefined;
  const { contacts, made } = await resolveContacts(
    sql,
    catalogue,
    [...firsts.values()].map((signal) => signal.subject),
    now,
    (subject) => {
      const first = firsts.get(subjectKey(subject)) as ReadSignal;
      return fromFile ?? originOfSignal(catalogue.get('signalType', first.typeId)?.key ?? '', first.data, first.source, catalogue);
    },
  );
  const ids = await sql.query<{ id: number }>(`select nextval('signal_id_seq') as id from generate_series(1, $1::int)`, [signals.length]);
  const about = new Map<number, number>();
  const entries = signals.flatMap((signal, place): InboxEntry[] => {
    const contact = contacts.get(subjectKey(signal.subject));
    if (!contact) return [];
    about.set(signal.index, contact.id);
    const payload: SignalPayload = {
      id: Number(ids[place]?.id),
      typeId: signal.typeId,
      time: signal.time,
      day: localDay(signal.time, catalogue.zone),
      sourceId: sources.get(signal.source) as number,
      source: signal.source,
      senderId: signal.senderId,
      historic: signal.historic,
      details: signal.details,
      data: signal.data,
      ...(cause.kind === 'import' ? { importId: Number(cause.ref) } : {}),
    };
    return [{ kind: 'signal', payload, contactId: contact.id, lane: contact.lane }];
  });
  return {
    entries: withMade(entries, made, cause),
    signalIds: ids.map((row) => Number(row.id)),
    contacts: about,
  };
}

async function sourceIds(sql: Sql, names: readonly string[]): Promise<Map<string, number>> {
  const select = () => sql.query<{ id: number; name: string }>('select id, name from source where name = any($1::text[])', [names]);
  let rows = await select();
  if (rows.length < names.length) {
    await sql.query('insert into source (name) select unnest($1::text[]) on conflict do nothing', [[...names].sort()]);
    rows = await select();
  }
  return new Map(rows.map((row) => [row.name, row.id]));
}
