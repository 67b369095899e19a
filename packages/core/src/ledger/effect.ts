import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { type Dependency } from '../conditions/dependencies.ts';
import { type Change } from './change.ts';
import { type WrittenFact } from '../contacts/facts.ts';
import { type GivenPoints } from '../contacts/subject.ts';
import { type StageId } from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';

/** Who or what set a pass off. */
export type Cause =
  | { readonly kind: 'signal'; readonly signalId: number }
  | { readonly kind: 'person'; readonly ref: string }
  | { readonly kind: 'import'; readonly ref: string }
  | { readonly kind: 'api'; readonly ref: string }
  | { readonly kind: 'clock' }
  /** a rule that was run once over whoever matched, by the number of the run */
  | { readonly kind: 'sweep'; readonly ref: string }
  | { readonly kind: 'definition'; readonly ref: string }
  /** an effect on another subject, by its id in the ledger */
  | { readonly kind: 'effect'; readonly ref: string }
  | { readonly kind: 'take back'; readonly ref: string }
  /** what had been taken back was done again */
  | { readonly kind: 'again'; readonly ref: string }
  | { readonly kind: 'merge'; readonly ref: string };

/** What a rule for companies does to contacts. */
export type ContactsChange = Extract<Change, { readonly kind: 'tag' | 'field' | 'stage' | 'owner' | 'list' }>;

/** What a pass asks another subject to do: a pass writes only its own. */
export type SubjectRequest =
  | { readonly to: 'company'; readonly id: number; readonly changes: readonly Change[] }
  /** the contacts of the company; where parts in the purchase are named, those that have one of them */
  | { readonly to: 'contacts'; readonly id: number; readonly change: ContactsChange; readonly parts?: readonly string[] | undefined }
  /** whose turn it is in the first of these rows of a routing table in which somebody is free; the answer is an owner for the contact that asks */
  | { readonly to: 'routing'; readonly id: number; readonly rows: readonly string[]; readonly replace: boolean };

/** A signal that the product sends to the same contact because of an effect. */
export interface SentSignal {
  readonly type: string;
  readonly data: Readonly<Record<string, unknown>>;
}

/** Work for people that a rule made. */
export type WorkItem =
  | { readonly what: 'task'; readonly title: string; readonly due: Instant; readonly for: string | undefined }
  | { readonly what: 'notice'; readonly text: string; readonly to: string | undefined };

/** A value of a field as the ledger keeps it: text as it was written. */
export type KeptValue = WrittenFact['fact'] | null;
interface KeptStage {
  readonly stage: StageId | null;
  readonly since?: Instant;
}
interface GivenTag {
  readonly reason: TagReason;
  readonly value?: number;
}
interface KeptDeal {
  readonly stage: string;
  readonly amount: number | null;
}

/** The values before and after each effect, by its kind and verb. Null stands for no value. */
export interface EffectValues {
  'contact added': object;
  'contact merged': { readonly after: { readonly contact: number } };
  'company added': object;
  'company set': { readonly before: number | null; readonly after: number };
  'company cleared': { readonly before: number | null; readonly after: null };
  /** a reason is added with its value; `since` where it made the tag older */
  'tag added': { readonly after: GivenTag };
  'tag reason added': { readonly before?: { readonly value: number | null; readonly since?: Instant }; readonly after: GivenTag };
  'tag reason removed': { readonly before: { readonly reasons: readonly TagReason[] } };
  'tag valued': { readonly before: { readonly value: number | null }; readonly after: { readonly value: number | null } };
  'tag removed': { readonly before: { readonly reasons: readonly TagReason[]; readonly since: Instant; readonly value?: number } };
  /** a tag that they had before another one took its place counts as that one */
  'past taken over': { readonly after: { readonly since: Instant; readonly until: Instant } };
  'past taken back': object;
  'field set': { readonly before: KeptValue; readonly after: KeptValue };
  'field increased': { readonly before: KeptValue; readonly after: KeptValue };
  'field cleared': { readonly before: KeptValue; readonly after: KeptValue };
  /** in a merge, what was there before stands in full */
  'consent set': {
    readonly channel: ConsentChannel;
    readonly before: ConsentState | { readonly state: ConsentState; readonly at: Instant } | null;
    readonly after: ConsentState;
  };
  'stage set': { readonly before: KeptStage | null; readonly after: KeptStage & { readonly skipped?: readonly StageId[] } };
  'stage cleared': { readonly before: KeptStage | null; readonly after: KeptStage };
  'owner set': { readonly before: string | null; readonly after: string };
  'owner cleared': { readonly before: string | null; readonly after: null };
  /** the channel of a deal is its outside id; of one that went, its id */
  'deal added': { readonly channel: string; readonly after: KeptDeal };
  'deal set': { readonly channel: string; readonly before: KeptDeal; readonly after: KeptDeal };
  'deal removed': { readonly channel: string };
  /** `ref` names the points among those that were given */
  'points given': { readonly after: { readonly points: number | string; readonly ref: string; readonly at: string } };
  /** `given`: as they counted until then */
  'points taken back': { readonly before: { readonly points: number | string; readonly given?: GivenPoints } };
  /** keys of bands */
  'band crossed': { readonly before: string; readonly after: string };
  'membership joined': { readonly before?: { readonly since: Instant }; readonly after?: { readonly since: Instant } };
  'membership left': { readonly before?: { readonly since: Instant } };
  'firing fired': { readonly before?: { readonly lastAt: Instant }; readonly after?: { readonly signal: number } };
  'firing refused': { readonly after: 'limit' | 'pause' };
  'firing missed': object;
  'firing circling': object;
  'firing let on': object;
  'firing taken back': object;
  'firing merged': { readonly before: KeptFiring | null; readonly after: KeptFiring };
  'task made': object;
  'task taken back': object;
  'notice made': object;
  'notice taken back': object;
  /** of contacts, what is done to which of them: nothing said is a list. `on`: whether they are put on it, or get the tag */
  'asked sent': {
    readonly after: {
      readonly to: SubjectRequest['to'];
      readonly does?: Exclude<ContactsChange['kind'], 'list'>;
      readonly on?: boolean;
      readonly owner?: string;
      readonly parts?: readonly string[];
    };
  };
  'asked circling': object;
  'pin set': { readonly before: KeptPin | null; readonly after: KeptPin };
  'pin cleared': { readonly before: KeptPin | null; readonly after: null };
  'pin ended': { readonly before: KeptPin; readonly after: null };
  /** `stage`: it is not ahead; `order`: it is not the next; `needs`: what it needs is not so; `routing`: nobody of the routing table was free */
  'kept as it is': { readonly after: 'owner' | 'stage' | 'order' | 'needs' | 'routing' };
  /** a signal that is here no more; `time` is when it happened */
  /** how many of a type were older than they are kept */
  'signal forgotten': { readonly before: { readonly n: number } };
  'signal taken back': { readonly before: { readonly time: Instant; readonly source: string } };
}
interface KeptFiring {
  readonly times: number;
  readonly lastAt: Instant;
}
/** A pin as the ledger keeps it. */
export interface KeptPin {
  readonly in: boolean;
  readonly reason: string;
  readonly until: Instant | null;
  readonly since: Instant;
  readonly by: string;
}

/** An effect by its kind and verb, such as `tag reason added`. */
export type EffectName = keyof EffectValues;
type KindIn<Name extends EffectName> = Name extends `${infer Kind} ${string}` ? Kind : never;
type VerbIn<Name extends EffectName> = Name extends `${string} ${infer Verb}` ? Verb : never;
export type EffectKind = KindIn<EffectName>;

interface NothingKept {
  readonly channel?: undefined;
  readonly before?: undefined;
  readonly after?: undefined;
}
type Kept<Name extends EffectName> = Name extends EffectName ? EffectValues[Name] & Omit<NothingKept, keyof EffectValues[Name]> : never;

interface EffectParts {
  /** the definition that it is about */
  readonly definitionId: number | undefined;
  readonly at: Instant;
  readonly cause: Cause;
  /** the effect that led to this one: of the same pass, or the ledger id of one of an earlier pass */
  readonly parent: Effect | number | undefined;
  /** the dependency that changed and led to it, such as the score between a tag and a membership */
  readonly via?: Dependency;
  readonly rule?: { readonly id: number; readonly version: number };
  /** the effect in the ledger that this one takes back */
  readonly reverses?: number;
  readonly request?: SubjectRequest & { readonly hop: number };
  readonly workItem?: WorkItem;
  /** the effect in the ledger whose work, taken back since, is there again by this one */
  readonly workAgain?: number;
  readonly sends?: SentSignal;
}

/** One thing that a pass did, as the ledger records it. `parent` is the effect that led to it; without one it is the cause of the pass. */
export type EffectOf<Name extends EffectName> = Name extends EffectName
  ? { readonly kind: KindIn<Name>; readonly verb: VerbIn<Name> } & Kept<Name> & EffectParts
  : never;
export type Effect = { [Name in EffectName]: EffectOf<Name> }[EffectName];
/** An effect before the pass adds when it happened and its cause. */
export type NewEffect = { [Name in EffectName]: Omit<EffectOf<Name>, 'at' | 'cause'> }[EffectName];

/** A row of the ledger, as far as it is read again. */
export type EntryOf<Name extends EffectName> = Name extends EffectName
  ? { readonly kind: KindIn<Name>; readonly verb: VerbIn<Name> } & Kept<Name> & {
        readonly definitionId: number | undefined;
        readonly ruleVersion?: number | undefined;
      }
  : never;
export type LedgerEntry = { [Name in EffectName]: EntryOf<Name> }[EffectName];

/** A row of the ledger as stored; null for values it does not have. Rows about the workspace have the kind `setting`. */
export interface StoredEntry {
  readonly kind: string;
  readonly verb: string;
  readonly definitionId: number | null | undefined;
  readonly channel?: string | null | undefined;
  readonly before?: unknown;
  readonly after?: unknown;
  readonly ruleVersion?: number | null | undefined;
}
