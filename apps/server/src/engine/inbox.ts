import { storableJson, type Cause, type ConsentChannel, type ConsentState, type Details } from '@eager-sieve/core';
import { type Sql } from '../database/database';

/** A signal that has been accepted and waits to be worked. Everything that the signal's row will hold is here. */
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
}

/** Changes that wait to be made. Values are as they came; they were checked, and are read again under the pass's own epoch. */
export interface EditPayload {
  readonly cause: Cause;
  readonly fields?: Readonly<Record<number, unknown>>;
  readonly addTags?: readonly number[];
  readonly removeTags?: readonly number[];
  readonly reason?: { readonly kind: 'hand' | 'import' | 'api'; readonly ref: string };
  readonly consent?: Readonly<Partial<Record<ConsentChannel, ConsentState>>>;
}

export type InboxPayload =
  { readonly kind: 'signal'; readonly payload: SignalPayload } | { readonly kind: 'edit'; readonly payload: EditPayload };
export type InboxEntry = InboxPayload & { readonly contactId: number; readonly lane: number };

/** Channel on which workers are woken. It carries nothing: what there is to do stands in the tables. */
export const WAKE = 'sieve_wake';
export const MOVED = 'sieve_moved';

/** Appends to the inboxes of lanes, in the order given, and answers the sequence numbers. */
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
