import { type Dependency } from '../conditions/dependencies.ts';
import { type Signal } from '../intake/signal.ts';
import { type Change } from '../ledger/change.ts';
import { type Cause, type Effect } from '../ledger/effect.ts';
import { type GoneEntry } from './again.ts';
import { type MergeRecord } from './merge.ts';
import { type SignalId } from '../settings/ids.ts';
import { type SubjectState } from './state.ts';
import { type TakenEntry } from './take-back.ts';

/** What is taken back beside effects. */
export interface TakenWith {
  /** a merge that is undone */
  readonly parted?: MergeRecord;
  /** signals that are to be as if they had never come */
  readonly signals?: ReadonlySet<SignalId>;
}

/** What a pass works on. */
export type Arrival =
  | {
      readonly kind: 'signal';
      readonly signal: Signal;
      readonly data: unknown;
      /** the first facts of a contact that this signal created: its address and when it was added */
      readonly made?: readonly Change[];
    }
  | {
      readonly kind: 'edit';
      readonly changes: readonly Change[];
      /** only of a contact that has one of these parts in the purchase */
      readonly parts?: readonly string[];
      readonly cause: Cause;
      /** the effect on another subject that asked for it (its ledger id), and the number of subjects it passed through */
      readonly parent?: Effect['parent'];
      readonly hop?: number;
    }
  /** the clock reached an instant at which something changes by itself; `lateMs`: how late it is worked, in milliseconds */
  | { readonly kind: 'due'; readonly lateMs?: number }
  /** something that this subject reads changed elsewhere: in its company, or in one of its contacts */
  | {
      readonly kind: 'touch';
      readonly on: readonly Dependency[];
      readonly cause: Cause;
      readonly parent?: Effect['parent'];
      /** through how many hands it came */
      readonly hop?: number;
    }
  /** effects and signals are taken back: no rule fires, and derived state follows silently */
  | ({ readonly kind: 'take back'; readonly entries: readonly TakenEntry[]; readonly cause: Cause } & TakenWith)
  /** what was taken back is done again: no rule fires, and derived state follows silently */
  | { readonly kind: 'again'; readonly entries: readonly GoneEntry[]; readonly cause: Cause }
  /** signals are older than they are kept; no rule fires, and derived state follows silently */
  | { readonly kind: 'forget'; readonly signals: ReadonlySet<SignalId>; readonly cause: Cause }
  /** another contact, the same person, is merged into this one; no rule fires */
  | { readonly kind: 'merge'; readonly other: SubjectState; readonly cause: Cause }
  /** a rule is run once for this subject, whether it is on or off, if the subject matches; or a signal map is applied to the signals there are */
  | { readonly kind: 'sweep'; readonly of: number; readonly cause: Cause }
  /** only definitions changed: each pass first refreshes what is older than its epoch */
  | { readonly kind: 'build'; readonly cause: Cause };

/** The cause of what a pass does by itself. */
export const causeOf = (arrival: Arrival): Cause => {
  if (arrival.kind === 'signal') return { kind: 'signal', signalId: arrival.signal.id };
  return arrival.kind === 'due' ? { kind: 'clock' } : arrival.cause;
};

/** The number of subjects that an arrival has passed through. */
export const hopOf = (arrival: Arrival): number => ('hop' in arrival ? (arrival.hop ?? 0) : 0);
