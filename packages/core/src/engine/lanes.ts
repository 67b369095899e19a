import { type ContactId } from '../settings/ids.ts';

/** The number of lanes that work is spread over. One worker holds a lane at a time, so no contact is worked by two. */
export const LANES = 64;

/** The lane of a subject: the top six bits of its id multiplied by 2⁶⁴/φ (Knuth, TAOCP 3, 6.4), so that neighbours are spread. */
export function laneOf(id: ContactId): number {
  return Number((BigInt.asUintN(64, BigInt(id) * 11400714819323198485n) >> 58n) & 63n);
}
