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
  /** its details as they were sent, where they are needed */
  readonly data?: unknown;
}

/** Surrogates stand before U+E000 in UTF-16 and after it by code point; moved, code units sort as UTF-8 bytes do in the database. */
const sortKey = (unit: number): number => (unit >= 0xe000 ? unit - 0x800 : unit >= 0xd800 ? unit + 0x2000 : unit);

/** By code point, as PostgreSQL's collation "C" orders text. */
export function compareText(a: string, b: string): number {
  if (a === b) return 0;
  const length = Math.min(a.length, b.length);
  for (let index = 0; index < length; index += 1) {
    const difference = sortKey(a.charCodeAt(index)) - sortKey(b.charCodeAt(index));
    if (difference !== 0) return difference;
  }
  return a.length - b.length;
}

/** Order in time; equal times are ordered by source, then by the sender's id. */
export const compareSignals = (a: Signal, b: Signal): number =>
  a.time - b.time || compareText(a.source, b.source) || compareText(a.senderId, b.senderId);
