import { type Instant } from '../time/zone.ts';
import { type Fact } from './facts.ts';

/** One change as the history keeps it; null is empty. Values are written so that equal values are equal strings. */
export interface RecordedChange {
  readonly at: Instant;
  readonly from: string | null;
  readonly to: string | null;
}

/** A fact as the history keeps it. */
export const recordedValue = (fact: Fact): string => (typeof fact === 'object' ? fact.join('\u001f') : String(fact));
