import { type ConsentChannel, type ConsentState, type SubjectKind } from '../conditions/schema.ts';
import { type Details } from '../intake/details.ts';
import { type Signal } from '../intake/signal.ts';
import {
  type AudienceId,
  type DealId,
  type FieldId,
  type ScorecardId,
  type SignalTypeId,
  type StageId,
  type TagId,
} from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { type RecordedChange } from './changes.ts';
import { type Fact } from './facts.ts';

/** A tag that was there, or a value that a tag had: `went` says whether the tag itself went then. */
export interface PastTag {
  readonly since: Instant;
  readonly until: Instant;
  readonly value?: number | undefined;
  readonly went: boolean;
}

/** What conditions need of a map: to ask for one thing. */
export interface Lookup<Key, Value> {
  get(key: Key): Value | undefined;
}

/** What a condition can ask about one contact, company or deal. */
export interface Subject {
  readonly kind: SubjectKind;
  /** the facts of its own kind: a deal's own, while those of its contact stand with `contact` */
  readonly facts: Lookup<FieldId, Fact>;
  readonly tags: Lookup<TagId, { readonly since: Instant; readonly value?: number | undefined }>;
  /** by tag, the latest last */
  readonly pastTags: Lookup<TagId, readonly PastTag[]>;
  readonly consent: Lookup<ConsentChannel, { readonly state: ConsentState }>;
  /** the signals of each type in order of time; a company's are those of its contacts */
  readonly signals: Lookup<SignalTypeId, readonly Signal[]>;
  /** when the newest signal of each type was, where that can be told without looking at them; a type that is not there has none */
  readonly newest?: Lookup<SignalTypeId, Instant>;
  readonly scores: Lookup<ScorecardId, { readonly points: number; readonly band: string | undefined; readonly bandSince: Instant }>;
  readonly memberships: Lookup<AudienceId, { readonly since: Instant }>;
  /** when it last left an audience that it was in */
  readonly leavings: Lookup<AudienceId, Instant>;
  readonly stage: { readonly id: StageId; readonly since: Instant } | undefined;
  /** the sign-in email of whoever minds it */
  readonly owner: string | undefined;
  /** the facts of its company, if it has one */
  readonly companyFacts: Lookup<FieldId, Fact> | undefined;
  readonly dealDetails: ReadonlyMap<DealId, Details>;
  /** what changed when, by `changeKey`, in order */
  readonly changes: Lookup<string, readonly RecordedChange[]>;
  /** companies: their contacts */
  readonly contacts: readonly Subject[];
}

/** A contact's name as people read it. */
export function displayName(given: string | undefined, family: string | undefined, email: string | undefined): string {
  const name = [given, family].filter(Boolean).join(' ');
  return name || email || 'someone unnamed';
}
