import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { type Details } from '../intake/details.ts';
import { type Signal } from '../intake/signal.ts';
import {
  type AudienceId,
  type DealId,
  type FieldId,
  type RuleId,
  type ScorecardId,
  type SignalTypeId,
  type StageId,
  type TagId,
} from '../settings/ids.ts';
import { type Keeps } from './points.ts';
import { type Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type RecordedChange } from './changes.ts';
import { type Fact } from './facts.ts';

/** A tag that was removed, or a value that was replaced; `went`: whether the tag itself was removed then. */
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

/** Points that a rule gave, dated by the signal that triggered it. */
export interface GivenPoints {
  readonly scorecard: ScorecardId;
  readonly rule: RuleId;
  /** thousandths */
  readonly points: number;
  readonly at: Instant;
  readonly keeps: Keeps;
}

/** Evaluates scores and audiences at another clock, and says when they change by themselves. */
export interface LookThrough {
  /** a lower bound of the next instant at which the score, or its band, changes by itself */
  nextOfScore(scorecard: ScorecardId): Instant;
  /** the same of being in an audience */
  nextOfAudience(audience: AudienceId): Instant;
  /** the same subject at another clock */
  at(moment: Moment): Subject;
}

/** What a condition can ask about one contact, company or deal. */
export interface Subject {
  readonly kind: SubjectKind;
  /** the subject's own facts; for a deal, those of its contact are under `contact` */
  readonly facts: Lookup<FieldId, Fact>;
  readonly tags: Lookup<TagId, { readonly since: Instant; readonly value?: number | undefined }>;
  /** by tag, the latest last */
  readonly pastTags: Lookup<TagId, readonly PastTag[]>;
  readonly consent: Lookup<ConsentChannel, { readonly state: ConsentState }>;
  /** the signals of each type in order of time; a company's are those of its contacts */
  readonly signals: Lookup<SignalTypeId, readonly Signal[]>;
  /** the time of the newest signal of each type, if known without loading them; a missing type has no signals */
  readonly newest?: Lookup<SignalTypeId, Instant>;
  /** `bandSince` and `since` are recorded; at another clock they are undefined */
  readonly scores: Lookup<
    ScorecardId,
    { readonly points: number; readonly band: string | undefined; readonly bandSince: Instant | undefined }
  >;
  readonly memberships: Lookup<AudienceId, { readonly since: Instant | undefined }>;
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
  /** latched fact lines by `scorecard:line`, with the instant since when they count */
  readonly latchedLines: Lookup<string, Instant>;
  /** points that rules gave, of all scorecards */
  readonly points: { values(): Iterable<GivenPoints> };
  /** pins: whether the subject is always or never in an audience, and until when */
  readonly pins: Lookup<AudienceId, { readonly in: boolean; readonly until: Instant | undefined }>;
  /** left out where only what is recorded now is asked */
  readonly lookThrough?: LookThrough;
}

/** A contact's name as people read it. */
export function displayName(given: string | undefined, family: string | undefined, email: string | undefined): string {
  const name = [given, family].filter(Boolean).join(' ');
  return name || email || 'someone unnamed';
}
