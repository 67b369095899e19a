import { type ConsentChannel, type ConsentState } from '../conditions/schema.ts';
import { type Signal } from '../intake/signal.ts';
import { type AudienceId, type FieldId, type ScorecardId, type SignalTypeId, type TagId } from '../settings/ids.ts';
import { type Fact } from './facts.ts';

/** What a condition can ask about one contact. */
export interface Subject {
  readonly facts: ReadonlyMap<FieldId, Fact>;
  readonly tags: { has(tag: TagId): boolean };
  readonly consent: ReadonlyMap<ConsentChannel, { readonly state: ConsentState }>;
  /** the signals of each type in order of time */
  readonly signals: ReadonlyMap<SignalTypeId, readonly Signal[]>;
  readonly scores: ReadonlyMap<ScorecardId, { readonly points: number; readonly band: string | undefined }>;
  readonly memberships: { has(audience: AudienceId): boolean };
}

/** A contact's name as people read it. */
export function displayName(given: string | undefined, family: string | undefined, email: string | undefined): string {
  const name = [given, family].filter(Boolean).join(' ');
  return name || email || 'someone unnamed';
}
