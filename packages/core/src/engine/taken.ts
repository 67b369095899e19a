import { type EffectName, type EntryOf, type LedgerEntry } from '../ledger/effect.ts';
import { type Instant } from '../time/zone.ts';
import { type EffectOrigin } from './pass-context.ts';

export interface Row {
  /** in the ledger */
  readonly id: number;
  readonly at: Instant;
}
/** A row of one of these effects. */
export type TakenOf<Name extends EffectName> = EntryOf<Name> & Row;
/** A row of the ledger that is to be taken back. */
export type TakenEntry = LedgerEntry & Row;

/** The origin of an effect that takes another one back. */
export type Reversing = EffectOrigin & { readonly reverses: number };
/** How an effect is taken back (which may fail with a reason), or the reason why it always stays; undefined if it changed no recorded state. */

export const SINCE_OTHERWISE = 'it has been changed since';
export const NEVER = 'it cannot be taken back';
