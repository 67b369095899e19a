import { createHash } from 'node:crypto';
import {
  laneOf,
  localDay,
  messagesOf,
  readDetails,
  takeTurn,
  withTeams,
  type Cause,
  type Compiled,
  type Effect,
  type Change,
  type Message,
  type Reason,
  type TakenTurn,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { appendToInbox, type FanPayload, type InboxEntry, type SignalPayload, type TurnPayload } from './inbox';
import { type InboxRow } from './arrivals';
import { putTurn, teamsOf, turnsOf } from './routing-turns';
import { type LedgerIds } from './write-ledger';
import { type WorkedSubject } from './worked';

/** So many contacts of a company are told at a time. */
const FAN_STEP = 1_000;
/** A company is refreshed at most this often because of its contacts. */
const COMPANY_PAUSE_MS = 1_000;
/** The source of signals that the product sends itself. */
export const OWN_SOURCE = 'eager-sieve';

/**
 * Sends the messages of these passes to other subjects. A pass writes only its own subject, so they go by inboxes, in the same transaction.
 *
 * @returns whether there were any
 */
export async function enqueueFollowUps(
  sql: Sql,
  compiled: Compiled,
  worked: readonly WorkedSubject[],
  ids: LedgerIds,
  now: number,
): Promise<boolean> {
  const entries: InboxEntry[] = [];
  const marks = new Map<number, Mark>();
  const signals: OwnSignal[] = [];
  for (const subject of worked) {
    for (const message of messagesOf(compiled, { hop: 0, ...subject }, now)) {
      switch (message.kind) {
        case 'change company':
        case 'change contacts':
        case 'tell contacts':
        case 'take turn':
          entries.push(entryFor(message, subject, ids));
          break;
        case 'tell company':
          mark(marks, message, ids);
          break;
        case 'send signal':
          signals.push(signalFor(message, subject, ids));
      }
    }
  }
  await appendToInbox(sql, entries, iso(now));
  await markCompanies(sql, [...marks.values()], now);
  await sendOwn(sql, compiled, signals, now);
  return entries.length + marks.size + signals.length > 0;
}

/** An effect as others know it: by its id in the ledger. */
const idOf = (effect: Effect['parent'], ids: LedgerIds): number | undefined => (typeof effect === 'object' ? ids.get(effect) : effect);

/** The cause given to others: the effect, if there is one. */
function toldFor({ cause, parent }: Reason, ids: LedgerIds): { readonly cause: Cause; readonly parent?: number } {
  const id = idOf(parent, ids);
  return id === undefined ? { cause } : { cause: { kind: 'effect', ref: String(id) }, parent: id };
}

type InboxMessage = Exclude<Message, { readonly kind: 'tell company' | 'send signal' }>;

function entryFor(message: InboxMessage, { state }: WorkedSubject, ids: LedgerIds): InboxEntry {
  if (message.kind === 'tell contacts') {
    const { company, on, hop } = message;
    return { kind: 'fan', contactId: company, lane: laneOf(company), payload: { on, ...toldFor(message, ids), hop, after: 0 } };
  }
  const parent = idOf(message.parent, ids) ?? 0;
  const by = { cause: { kind: 'effect' as const, ref: String(parent) }, parent, hop: message.hop };
  switch (message.kind) {
    case 'change company':
      return { kind: 'edit', contactId: message.company, lane: laneOf(message.company), payload: { asked: message.changes, ...by } };
    case 'change contacts': {
      const { company, changes, parts } = message;
      const asked = { asked: changes, ...(parts ? { parts } : {}) };
      return { kind: 'fan', contactId: company, lane: laneOf(company), payload: { on: [], ...asked, ...by, after: 0 } };
    }
    case 'take turn': {
      const { routing, rows, replace, hop } = message;
      return { kind: 'turn', contactId: -routing, lane: laneOf(-routing), payload: { rows, contact: state.id, replace, parent, hop } };
    }
  }
}

/** Of several that tell one company, the latest effect says why. */
function mark(marks: Map<number, Mark>, message: Extract<Message, { readonly kind: 'tell company' }>, ids: LedgerIds): void {
  const { company, hop } = message;
  const mine: Mark = { company, ...toldFor(message, ids), hop };
  const other = marks.get(company);
  const later = other && (other.parent ?? 0) > (mine.parent ?? 0) ? other : mine;
  marks.set(company, { ...later, hop: Math.max(hop, other?.hop ?? 0) });
}

/** Marks companies for a refresh because of what their contacts did. */
async function markCompanies(sql: Sql, marks: readonly Mark[], now: number): Promise<void> {
  if (marks.length === 0) return;
  // Marks are only inserted: no waiting for a worker that is deleting one, and none can be lost to it.
  await sql.query(
    `insert into company_touched (company_id, lane, since, cause, parent, hop)
     select c.id, c.lane, greatest($2::timestamptz, c.last_now + $3::bigint * interval '1 millisecond'), r.cause, r.parent, r.hop
       from jsonb_to_recordset($1::jsonb) as r(company bigint, cause jsonb, parent bigint, hop smallint) join company c on c.id = r.company`,
    [JSON.stringify(marks), iso(now), COMPANY_PAUSE_MS],
  );
}

/** A mark that a company needs a refresh, with its cause and the number of subjects it passed through. */
interface Mark {
  readonly company: number;
  readonly cause: Cause;
  readonly parent?: number;
  readonly hop: number;
}

export interface TouchedCompany {
  readonly id: number;
  readonly lane: number;
  readonly cause: Cause | null;
  readonly parent: number | null;
  readonly hop: number;
}

/** Companies of the locked lanes whose mark is due; deletes the marks. If there are several, the latest effect is the cause. */
export async function takeTouched(
  sql: Sql,
  lanes: readonly number[],
  now: number,
  limit: number,
  only?: number,
): Promise<readonly TouchedCompany[]> {
  const due = await sql.query<TouchedCompany>(
    `select company_id as id, lane, max(parent) as parent, max(hop)::int as hop,
            (array_agg(cause order by parent desc nulls last, since desc))[1] as cause
       from company_touched where lane = any($1::smallint[]) and since <= $2 and ($4::bigint is null or company_id = $4) group by company_id, lane order by company_id limit $3`,
    [lanes, iso(now), limit, only ?? null],
  );
  // Deletes all marks of a company as of now; a later one is for the next refresh.
  if (due.length > 0)
    await sql.query('delete from company_touched where company_id = any($1::bigint[])', [due.map((company) => company.id)]);
  return due;
}

interface OwnSignal {
  readonly contact: number;
  readonly lane: number;
  readonly type: string;
  readonly time: number;
  /** names the signal, so that it is sent once */
  readonly senderId: string;
  readonly data: Readonly<Record<string, unknown>>;
  readonly historic: boolean;
}

/** By what the product knows a signal of its own: the signal whose plan lapsed, or the effect that it tells of. */
export const senderOf = (of: { readonly contact: number; readonly lapse: number } | { readonly effect: number | undefined }): string =>
  'lapse' in of ? `lapse/${of.contact}/${of.lapse}` : `effect/${of.effect}`;

function signalFor(message: Extract<Message, { readonly kind: 'send signal' }>, { state, lane }: WorkedSubject, ids: LedgerIds): OwnSignal {
  const { type, time, data, historic, of } = message;
  const senderId = senderOf('lapse' in of ? { contact: state.id, lapse: of.lapse } : { effect: ids.get(of.effect) });
  return { contact: state.id, lane, type, time, senderId, data, historic };
}

/** Enqueues signals that the product sends itself: plans that lapsed, deals that moved on. */
async function sendOwn(sql: Sql, compiled: Compiled, found: readonly OwnSignal[], now: number): Promise<void> {
  if (found.length === 0) return;
  await sql.query('insert into source (name) values ($1) on conflict do nothing', [OWN_SOURCE]);
  const [source] = await sql.query<{ id: number }>('select id from source where name = $1', [OWN_SOURCE]);
  const { catalogue } = compiled;
  for (const { contact, lane, type: key, time, senderId, data, historic } of found) {
    const type = catalogue.find('signalType', key);
    const hash = createHash('sha256').update(senderId).digest();
    const won = await sql.query(
      'insert into signal_key (source_id, key_hash, received_at) values ($1, $2, $3) on conflict do nothing returning source_id',
      [source?.id, hash, iso(now)],
    );
    if (!type || won.length === 0) continue;
    const [fresh] = await sql.query<{ id: number }>(`select nextval('signal_id_seq') as id`);
    const { details } = readDetails(type.body.fields, data, catalogue.zone, catalogue.workspace);
    const payload: SignalPayload = {
      id: Number(fresh?.id),
      typeId: type.id,
      time,
      day: localDay(time, catalogue.zone),
      sourceId: source?.id as number,
      source: OWN_SOURCE,
      senderId,
      historic,
      details,
      data,
    };
    await appendToInbox(sql, [{ kind: 'signal', contactId: contact, lane, payload }], iso(now));
  }
}

/** Works inbox rows that belong to no single subject: messages to all contacts of a company, turns of a routing table. */
export async function workControls(sql: Sql, compiled: Compiled, rows: readonly InboxRow[], now: number): Promise<void> {
  for (const row of rows) {
    if (row.kind === 'fan') await fanOut(sql, row, row.payload, now);
    if (row.kind === 'turn') await nextTurn(sql, compiled, -row.contact_id, row.payload, now);
  }
}

async function fanOut(sql: Sql, row: InboxRow, payload: FanPayload, now: number): Promise<void> {
  const contacts = await sql.query<{ id: number; lane: number }>(
    'select id, lane from contact where company_id = $1 and id > $2 and last_now is not null and merged_into is null order by id limit $3',
    [row.contact_id, payload.after, FAN_STEP],
  );
  const { on, asked, parts, cause, parent, hop = 0 } = payload;
  const entries = contacts.map(({ id, lane }): InboxEntry => {
    const to = { contactId: id, lane };
    if (asked === undefined) return { kind: 'touch', ...to, payload: { on, cause, parent, hop } };
    return {
      kind: 'edit',
      ...to,
      payload: { cause, asked, ...(parts ? { parts } : {}), hop, ...(parent === undefined ? {} : { parent }) },
    };
  });
  const last = contacts.at(-1);
  if (last && contacts.length === FAN_STEP)
    entries.push({ kind: 'fan', contactId: row.contact_id, lane: row.lane, payload: { ...payload, after: last.id } });
  await appendToInbox(sql, entries, iso(now));
}

/** What a contact that asked a routing table is told. */
export const answerOf = (routing: number, taken: TakenTurn | undefined, replace: boolean): Change =>
  taken ? { kind: 'owner', owner: taken.owner, replace, routing } : { kind: 'nobody free', routing };

async function nextTurn(sql: Sql, compiled: Compiled, routing: number, payload: TurnPayload, now: number): Promise<void> {
  const table = compiled.routing.get(routing)?.body;
  if (!table) return;
  const { contact, parent, hop, replace, rows } = payload;
  const taken = takeTurn(withTeams(table, await teamsOf(sql)), await turnsOf(sql, routing), rows, now, compiled.catalogue.zone);
  if (taken) await putTurn(sql, routing, taken);
  const cause = { kind: 'effect' as const, ref: String(parent) };
  await appendToInbox(
    sql,
    [
      {
        kind: 'edit',
        contactId: contact,
        lane: laneOf(contact),
        payload: { cause, asked: [answerOf(routing, taken, replace)], parent, hop },
      },
    ],
    iso(now),
  );
}
