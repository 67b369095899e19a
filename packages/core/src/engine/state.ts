import { type ConsentChannel, type ConsentState } from '../conditions/schema.ts';
import { type Fact } from '../contacts/facts.ts';
import { type Subject } from '../contacts/subject.ts';
import { compareSignals, type Signal } from '../intake/signal.ts';
import { type ContactId, type FieldId, type RuleId, type ScorecardId, type SignalTypeId, type TagId } from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';

export interface HeldTag {
  readonly since: Instant;
  readonly reasons: readonly TagReason[];
}
export interface KeptScore {
  readonly points: number;
  readonly band: string;
  readonly bandSince: Instant;
  readonly exactUntil: Instant;
}
export interface Firing {
  readonly times: number;
  readonly lastAt: Instant;
}

/** What is known of one contact before its state is worked with. */
export interface ContactRecord {
  readonly id: ContactId;
  readonly isNew: boolean;
  /** the *now* of its last pass; it never goes back */
  readonly lastNow: Instant;
  readonly dueAt: Instant | undefined;
  /** the epoch up to which its derived state has been brought */
  readonly epoch?: number;
}

/** The names of the parts of the state; the server has a table for each. */
export type StatePart = 'facts' | 'tags' | 'consent' | 'scores' | 'memberships' | 'firings' | 'marks' | 'held';

/**
 * Everything that a pass reads and writes of one contact. Changes go through its methods, which remember what changed,
 * so that only that is written down.
 */
export class ContactState implements Subject {
  readonly id: ContactId;
  isNew: boolean;
  lastNow: Instant;
  dueAt: Instant | undefined;
  epoch: number;
  readonly facts = new Map<FieldId, Fact>();
  /** how text was written, beside its folded fact */
  readonly shown = new Map<FieldId, string>();
  readonly tags = new Map<TagId, HeldTag>();
  readonly consent = new Map<ConsentChannel, { readonly state: ConsentState; readonly at: Instant }>();
  readonly signals = new Map<SignalTypeId, Signal[]>();
  readonly scores = new Map<ScorecardId, KeptScore>();
  /** audiences, and the hidden truths of rules, by definition id */
  readonly memberships = new Map<number, { readonly since: Instant }>();
  readonly firings = new Map<RuleId, Firing>();
  /** `scorecard:line` of fact lines that held once and stand for it */
  readonly marks = new Map<string, Instant>();
  /** rules that circled for this contact and are held back */
  readonly held = new Map<RuleId, Instant>();
  readonly changed: Record<StatePart, Set<number | string>> = {
    facts: new Set(),
    tags: new Set(),
    consent: new Set(),
    scores: new Set(),
    memberships: new Set(),
    firings: new Set(),
    marks: new Set(),
    held: new Set(),
  };

  constructor(record: ContactRecord) {
    this.id = record.id;
    this.isNew = record.isNew;
    this.lastNow = record.lastNow;
    this.dueAt = record.dueAt;
    this.epoch = record.epoch ?? 0;
  }

  /** Puts a signal where it belongs in time. False where it is known already. */
  addSignal(signal: Signal): boolean {
    const ofType = this.signals.get(signal.typeId);
    if (!ofType) {
      this.signals.set(signal.typeId, [signal]);
      return true;
    }
    let index = ofType.length;
    while (index > 0 && compareSignals(ofType[index - 1] as Signal, signal) > 0) index -= 1;
    if (ofType.some((each) => each.id === signal.id)) return false;
    ofType.splice(index, 0, signal);
    return true;
  }

  put<P extends StatePart>(part: P, key: number | string, value: unknown): void {
    (this[part] as Map<unknown, unknown>).set(key, value);
    this.changed[part].add(key);
  }

  drop(part: StatePart, key: number | string): void {
    if ((this[part] as Map<unknown, unknown>).delete(key)) this.changed[part].add(key);
  }
}
