import { type Sql } from '../database/database';
import { iso } from './clock';
import { type SignalPayload } from './inbox';
import { insertSignals } from './queries/insert-signals';

export interface WorkedSignal {
  readonly contactId: number;
  readonly receivedAt: string;
  readonly payload: Omit<SignalPayload, 'source'>;
}

/** Stores the signals that a pass has worked, and their counts by type. */
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
      // A custom type may have a text detail called `amount`; only numbers are stored as one.
      amount: typeof amount === 'number' ? amount : null,
      historic: payload.historic,
      received_at: receivedAt,
      details: payload.details,
      data: payload.data,
      import_id: payload.importId ?? null,
    };
  });
  await insertSignals(sql, rows);
}
