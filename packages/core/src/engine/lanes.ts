import { type ContactId } from '../settings/ids.ts';

/** Work is spread over so many lanes; a lane is in one hand at a time, so a contact is never in two. */
export const LANES = 64;

/** The lane of a subject: the top six bits of its id multiplied by 2⁶⁴/φ (Knuth, TAOCP 3, 6.4), so that neighbours are spread. */
export function laneOf(id: ContactId): number {
  return Number((BigInt.asUintN(64, BigInt(id) * 11400714819323198485n) >> 58n) & 63n);
}
