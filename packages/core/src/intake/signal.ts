import { type SignalId, type SignalTypeId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { type Details } from './details.ts';

/** Something that happened to a contact, as the core works with it. */
export interface Signal {
  readonly id: SignalId;
  readonly typeId: SignalTypeId;
  readonly time: Instant;
  readonly source: string;
  /** the sender's own id: with the source it names the signal */
  readonly senderId: string;
  readonly details: Details;
  /** a historic signal takes its place in time but fires no rule */
  readonly historic: boolean;
}

const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** Order in time; equal times are ordered by source, then by the sender's id. */
export const compareSignals = (a: Signal, b: Signal): number =>
  a.time - b.time || compareText(a.source, b.source) || compareText(a.senderId, b.senderId);
