import {
  storableJson,
  type Cause,
  type Change,
  type ConsentChannel,
  type ConsentState,
  type Dependency,
  type Details,
  type Fact,
  type TagReason,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';

/** An accepted signal waiting to be worked, with everything its row will hold. */
export interface SignalPayload {
  readonly id: number;
  readonly typeId: number;
  readonly time: number;
  readonly day: number;
  readonly sourceId: number;
  readonly source: string;
  readonly senderId: string;
  readonly historic: boolean;
  readonly details: Details;
  readonly data: unknown;
  /** which import brought it */
  readonly importId?: number;
  /** values of fields by id, where the contact came with this signal */
  readonly made?: MadeFacts;
}

/** What a contact is made with, by field id. */
export type MadeFacts = Readonly<Record<number, unknown>>;

/** What is to change of a deal. */
export interface DealPayload {
  readonly id: number;
  readonly outsideId: string;
  readonly name?: string | undefined;
  readonly pipeline: number;
  readonly stage: string;
  readonly amount?: number | null | undefined;
  readonly company?: number | null | undefined;
  readonly opened?: number | undefined;
  /** null empties a field */
  readonly facts: Readonly<Record<number, Fact | null>>;
}

/** Changes waiting to be made. Values are as sent; they were checked, and are read again under the epoch of the pass. */
export interface EditPayload {
  readonly cause: Cause;
  readonly fields?: Readonly<Record<number, unknown>>;
  readonly addTags?: readonly { readonly tag: number; readonly value?: number | undefined }[];
  readonly removeTags?: readonly number[];
  readonly reason?: TagReason;
  readonly consent?: Readonly<Partial<Record<ConsentChannel, ConsentState>>>;
  /** null takes away */
  readonly stage?: number | null;
  readonly owner?: string | null;
  readonly company?: number | null;
  readonly lists?: Readonly<Record<number, boolean>>;
  readonly deals?: readonly DealPayload[];
  readonly dealsGone?: readonly number[];
  /** what another subject asked for */
  readonly asked?: readonly Change[];
  /** only of a contact that has one of these parts in the purchase */
  readonly parts?: readonly string[];
  readonly parent?: number;
  readonly hop?: number;
}

/** Something changed elsewhere that the subject reads. */
export interface TouchPayload {
  readonly on: readonly Dependency[];
  readonly cause: Cause;
  readonly parent?: number | undefined;
  readonly hop?: number;
}
/** A rule is run once for the subject, or a signal map applied to its signals. */
export interface SweepPayload {
  readonly of: number;
  readonly run: number;
}
/** A message to all contacts of a company, worked in steps: what changed of it, or what each contact is asked to change. */
export interface FanPayload extends TouchPayload {
  readonly after: number;
  readonly asked?: readonly Change[];
  readonly parts?: readonly string[];
}
/** Whose turn is it in the first of these rows of a routing table in which somebody is free? The answer goes to the contact that asks. */
export interface TurnPayload {
  readonly rows: readonly string[];
  readonly contact: number;
  readonly replace: boolean;
  readonly parent: number;
  readonly hop: number;
}

export type InboxPayload =
  | { readonly kind: 'signal'; readonly payload: SignalPayload }
  | { readonly kind: 'edit'; readonly payload: EditPayload }
  | { readonly kind: 'touch'; readonly payload: TouchPayload }
  | { readonly kind: 'sweep'; readonly payload: SweepPayload }
  | { readonly kind: 'fan'; readonly payload: FanPayload }
  | { readonly kind: 'turn'; readonly payload: TurnPayload };
/** `contactId` is the id of the subject, contact or company; for a turn it is minus the id of the routing table. */
export type InboxEntry = InboxPayload & { readonly contactId: number; readonly lane: number };

/**
 * Gives each new contact what it is made with in the first entry that it has, so that its first pass sees it whole: with all that was sent
 * with it, and the signal that brought it. Who has no entry gets one.
 *
 * @param made by contact id
 */
export function withMade(
  entries: readonly InboxEntry[],
  made: ReadonlyMap<number, { readonly lane: number; readonly facts: MadeFacts }>,
  cause: Cause,
): readonly InboxEntry[] {
  const waiting = new Map(made);
  const whole = entries.map((entry): InboxEntry => {
    const facts = waiting.get(entry.contactId)?.facts;
    if (facts === undefined || (entry.kind !== 'signal' && entry.kind !== 'edit')) return entry;
    waiting.delete(entry.contactId);
    if (entry.kind === 'signal') return { ...entry, payload: { ...entry.payload, made: facts } };
    return { ...entry, payload: { ...entry.payload, fields: { ...facts, ...entry.payload.fields } } };
  });
  const alone = [...waiting].map(([contactId, { lane, facts }]): InboxEntry => ({
    kind: 'edit',
    contactId,
    lane,
    payload: { cause, fields: facts },
  }));
  return [...alone, ...whole];
}

/** The channel that wakes workers. Its payload is empty: the work is in the tables. */
export const WAKE = 'sieve_wake';
export const MOVED = 'sieve_moved';

/** Appends entries to the inboxes of their lanes, in order, and returns the sequence numbers. */
export async function appendToInbox(sql: Sql, entries: readonly InboxEntry[], arrivedAt: string): Promise<readonly number[]> {
  if (entries.length === 0) return [];
  const rows = await sql.query<{ seq: number }>(
    `insert into inbox (lane, seq, contact_id, kind, arrived_at, payload)
     select r.lane, nextval('inbox_seq'), r.contact_id, r.kind, $2, r.payload
       from rows from (jsonb_to_recordset($1::jsonb) as (lane smallint, contact_id bigint, kind text, payload jsonb)) with ordinality as r(lane, contact_id, kind, payload, ordinality)
      order by r.ordinality
     returning seq`,
    [
      JSON.stringify(
        entries.map(({ lane, contactId, kind, payload }) => ({ lane, contact_id: contactId, kind, payload: storableJson(payload) })),
      ),
      arrivedAt,
    ],
  );
  return rows.map((row) => row.seq);
}
