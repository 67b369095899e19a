import { type Dependency } from '../conditions/dependencies.ts';
import { type Change } from '../engine/change.ts';
import { type AudienceId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';

/** Who or what set a pass off. */
export type Cause =
  | { readonly kind: 'signal'; readonly signalId: number }
  | { readonly kind: 'person'; readonly ref: string }
  | { readonly kind: 'import'; readonly ref: string }
  | { readonly kind: 'api'; readonly ref: string }
  | { readonly kind: 'clock' }
  | { readonly kind: 'definition'; readonly ref: string }
  /** an effect on another subject, by its id in the ledger */
  | { readonly kind: 'effect'; readonly ref: string }
  | { readonly kind: 'take back'; readonly ref: string }
  | { readonly kind: 'merge'; readonly ref: string };

/** What a pass asks another subject to do: a pass writes only its own. */
export type Asked =
  | { readonly to: 'company'; readonly id: number; readonly changes: readonly Change[] }
  /** all contacts that the company has, to be put on a fixed list or taken off it */
  | { readonly to: 'contacts'; readonly id: number; readonly audience: AudienceId; readonly on: boolean }
  /** whose turn it is in a row of a routing table; the answer is an owner for the contact that asks */
  | { readonly to: 'routing'; readonly id: number; readonly row: string; readonly replace: boolean };

/** A signal that the product itself sends to the same contact, since what was done is also something that happened. */
export interface SentSignal {
  readonly type: string;
  readonly data: Readonly<Record<string, unknown>>;
}

/** Work for people that a rule made. */
export type Made =
  | { readonly what: 'task'; readonly title: string; readonly due: Instant; readonly for: string | undefined }
  | { readonly what: 'notice'; readonly text: string; readonly to: string | undefined };

/**
 * One thing that a pass did, as the ledger records it. `parent` is the effect that brought it about; without one the pass's own cause did.
 * `before` and `after` of a field are personal, and are kept apart from the rest.
 */
export interface Effect {
  readonly kind:
    | 'contact'
    | 'company'
    | 'tag'
    | 'field'
    | 'consent'
    | 'stage'
    | 'owner'
    | 'deal'
    | 'points'
    | 'band'
    | 'membership'
    | 'firing'
    | 'task'
    | 'notice'
    | 'asked'
    | 'pin'
    | 'kept';
  readonly verb:
    | 'added'
    | 'reason added'
    | 'reason removed'
    | 'valued'
    | 'removed'
    | 'set'
    | 'increased'
    | 'cleared'
    | 'joined'
    | 'left'
    | 'crossed'
    | 'fired'
    | 'refused'
    | 'missed'
    | 'circling'
    | 'let on'
    | 'given'
    | 'made'
    | 'sent'
    | 'taken back'
    | 'merged'
    | 'ended'
    | 'as it is';
  /** the definition it is about; consent: none */
  readonly thing: number | undefined;
  readonly channel?: string;
  readonly at: Instant;
  readonly cause: Cause;
  /** the effect of the same pass that brought it about, or the id in the ledger of one of an earlier pass */
  readonly parent: Effect | number | undefined;
  /** what it read that turned: "the score" between a tag and a membership */
  readonly via?: Dependency;
  readonly rule?: { readonly id: number; readonly version: number };
  readonly before?: unknown;
  readonly after?: unknown;
  readonly personal?: { readonly before: unknown; readonly after: unknown };
  /** the effect in the ledger that this one takes back */
  readonly reverses?: number;
  readonly asks?: Asked & { readonly hop: number };
  readonly makes?: Made;
  readonly sends?: SentSignal;
}
