import { type Sql } from '../database/database';
import { iso } from './clock';
import { type SignalPayload } from './inbox';

export interface WorkedSignal {
  readonly contactId: number;
  readonly receivedAt: string;
  readonly payload: Omit<SignalPayload, 'source'>;
}

/** Writes down signals that a pass has worked, and how many there are of each type. */
export async function writeSignals(sql: Sql, signals: readonly WorkedSignal[]): Promise<void> {
  if (signals.length === 0) return;
  const rows = signals.map(({ contactId, receivedAt, payload }) => {
    const { amount } = payload.details;
    return {
      contact_id: contactId,
      type_id: payload.typeId,
      time: iso(payload.time),
      id: payload.id,
      source_id: payload.sourceId,
      sender_id: payload.senderId,
      day: payload.day,
      // A type of one's own may call some text an amount: only a number is one.
      amount: typeof amount === 'number' ? amount : null,
      historic: payload.historic,
      received_at: receivedAt,
      details: payload.details,
      data: payload.data,
    };
  });
  await sql.query(
    `with r as (
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, type_id int, time timestamptz, id bigint, source_id int, sender_id text, day int, amount bigint,
              historic boolean, received_at timestamptz, details jsonb, data jsonb)),
     written as (
       insert into signal (contact_id, type_id, time, id, source_id, sender_id, day, amount, historic, received_at, details, data) select * from r)
     insert into signal_sum (contact_id, type_id, n, first, last)
     select contact_id, type_id, count(*), min(time), max(time) from r group by 1, 2
     on conflict (contact_id, type_id) do update
        set n = signal_sum.n + excluded.n, first = least(signal_sum.first, excluded.first), last = greatest(signal_sum.last, excluded.last)`,
    [JSON.stringify(rows)],
  );
}
