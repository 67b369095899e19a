import { type Effect, type SubjectState } from '@eager-sieve/core';

/** A contact or company after its passes, with what they did to it. */
export interface WorkedSubject {
  readonly state: SubjectState;
  readonly lane: number;
  readonly effects: readonly Effect[];
  /** through how many hands came what was worked, at most */
  readonly hop?: number;
}
