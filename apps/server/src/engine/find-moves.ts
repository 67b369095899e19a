import { type FreshScores } from '@eager-sieve/core';

/** What bringing some definitions up changes, as it is asked of everyone at once. */
export interface MovesQuestion {
  /** of which definitions */
  readonly ids: readonly number[];
  /** of which contacts, or of those in which lanes; they stand still meanwhile */
  readonly among: { readonly lanes: readonly number[] } | { readonly contacts: readonly number[] };
  readonly instant: number;
}
export interface FoundMove {
  readonly joins: readonly number[];
  readonly leaves: readonly number[];
  /** what everyone has by it, where it is a scorecard */
  readonly scores?: FreshScores;
}
export interface FoundMoves {
  /** for each definition, in the order asked */
  readonly moves: readonly FoundMove[];
  /** to whom the clock has to come, and when at the latest */
  readonly due: { readonly ids: readonly number[]; readonly at: readonly number[] };
  /** how many contacts it was asked of */
  readonly contacts: number;
}
/** Undefined where it cannot be told, or only later. */
export type FindMoves = (question: MovesQuestion) => Promise<FoundMoves | 'later' | undefined>;
