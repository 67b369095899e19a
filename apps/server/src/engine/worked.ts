import { type Effect, type SubjectState } from '@eager-sieve/core';
import { type SignalKey } from './queries/feed-after';

/** A contact or company after its passes, with what they did to it. */
export interface WorkedSubject {
  readonly state: SubjectState;
  readonly lane: number;
  readonly effects: readonly Effect[];
  /** the signals that came in, where nothing but passes and these changed it; left out where more may have been done to it */
  readonly arrived?: readonly SignalKey[];
  /** through how many hands came what was worked, at most */
  readonly hop?: number;
}
