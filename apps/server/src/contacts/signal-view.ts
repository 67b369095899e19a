import { type Catalogue } from '@eager-sieve/core';
import { type Timeline } from '@eager-sieve/contracts';
import { summaryOf } from '../intake/summary';

/** A signal as it is read to be shown. */
export interface SignalRow {
  readonly id: number;
  readonly type_id: number;
  readonly time: Date;
  readonly received_at: Date;
  readonly source: string;
  readonly sender_id: string;
  readonly data: unknown;
}

export function signalView(row: SignalRow, catalogue: Catalogue): Omit<Timeline['signals'][number], 'did'> {
  const type = catalogue.get('signalType', row.type_id);
  return {
    id: row.id,
    type: type?.key ?? '',
    typeName: type?.name ?? '',
    verb: type?.body.verb ?? '',
    time: row.time.toISOString(),
    receivedAt: row.received_at.toISOString(),
    source: row.source,
    senderId: row.sender_id,
    summary: summaryOf(type?.key ?? '', row.data, catalogue),
    data: row.data,
  };
}
