import { type Dependency } from '../conditions/dependencies.ts';
import { type Instant } from '../time/zone.ts';

/** Who or what set a pass off. */
export type Cause =
  | { readonly kind: 'signal'; readonly signalId: number }
  | { readonly kind: 'person'; readonly ref: string }
  | { readonly kind: 'import'; readonly ref: string }
  | { readonly kind: 'api'; readonly ref: string }
  | { readonly kind: 'clock' }
  | { readonly kind: 'definition'; readonly ref: string };

/**
 * One thing that a pass did, as the ledger records it. `parent` is the effect that brought it about; without one the pass's own cause did.
 * `before` and `after` of a field are personal, and are kept apart from the rest.
 */
export interface Effect {
  readonly kind: 'contact' | 'tag' | 'field' | 'consent' | 'band' | 'membership' | 'firing';
  readonly verb:
    'added' | 'reason added' | 'removed' | 'set' | 'cleared' | 'joined' | 'left' | 'crossed' | 'fired' | 'refused' | 'circling';
  /** the definition it is about; consent: none */
  readonly thing: number | undefined;
  readonly channel?: string;
  readonly at: Instant;
  readonly cause: Cause;
  readonly parent: Effect | undefined;
  /** what it read that turned: "the score" between a tag and a membership */
  readonly via?: Dependency;
  readonly rule?: { readonly id: number; readonly version: number };
  readonly before?: unknown;
  readonly after?: unknown;
  readonly personal?: { readonly before: unknown; readonly after: unknown };
}
