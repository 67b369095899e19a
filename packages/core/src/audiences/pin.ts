import { type Instant } from '../time/zone.ts';

/** A manual override of the conditions of a live audience: always in it, or never. */
export interface Pin {
  readonly in: boolean;
  readonly reason: string;
  /** from then on it stands no more */
  readonly until: Instant | undefined;
  readonly since: Instant;
  /** whose word it is */
  readonly by: string;
}
