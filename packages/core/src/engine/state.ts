import { type Pin } from '../audiences/pin.ts';
import { type Dependency } from '../conditions/dependencies.ts';
import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { type RecordedChange } from '../contacts/changes.ts';
import { detailsOfDeal, type Deal } from '../contacts/deals.ts';
import { type Fact } from '../contacts/facts.ts';
import { type GivenPoints, type PastTag, type Subject } from '../contacts/subject.ts';
import { type Details } from '../intake/details.ts';
import { compareSignals, type Signal } from '../intake/signal.ts';
import { type Cause, type Effect } from '../ledger/effect.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import {
  type AudienceId,
  type ContactId,
  type DealId,
  type FieldId,
  type RuleId,
  type ScorecardId,
  type SignalId,
  type SignalTypeId,
  type StageId,
  type TagId,
} from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';

export interface HeldTag {
  readonly since: Instant;
  readonly reasons: readonly TagReason[];
  /** valued tags: millionths, or a day */
  readonly value?: number | undefined;
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
export interface Membership {
  readonly since: Instant;
}

/** What is known of one subject before its state is worked with. */
export interface SubjectRecord {
  readonly id: ContactId;
  readonly kind?: SubjectKind;
  readonly isNew: boolean;
  /** the *now* of its last pass; it never goes back */
  readonly lastNow: Instant;
  readonly dueAt: Instant | undefined;
  /** the epoch up to which its derived state has been brought */
  readonly epoch?: number;
}

/** The effect that touched a dependency (undefined: the arrival itself), and its cause. */
export interface Touch {
  readonly effect: Effect['parent'];
  readonly cause: Cause;
}

/** The keyed parts of the state. The server declares for each how it is stored. */
export type StatePart =
  | 'facts'
  | 'tags'
  | 'consent'
  | 'scores'
  | 'memberships'
  | 'pins'
  | 'firings'
  | 'latchedLines'
  | 'suspendedRules'
  | 'points'
  | 'deals'
  | 'dealScores';
export type PartKey<Part extends StatePart> = SubjectState[Part] extends Map<infer Key, unknown> ? Key : never;
export type PartValue<Part extends StatePart> = SubjectState[Part] extends Map<infer _Key, infer Value> ? Value : never;
/** What a contact has one of. */
export type StateLink = 'stage' | 'owner' | 'company';

/**
 * Everything that a pass reads and writes of one subject. Changes go through its methods, which remember what changed,
 * so that only that is written down.
 */
export class SubjectState implements Subject {
  readonly id: ContactId;
  readonly kind: SubjectKind;
  isNew: boolean;
  lastNow: Instant;
  dueAt: Instant | undefined;
  epoch: number;
  readonly facts = new Map<FieldId, Fact>();
  /** how text was written, beside its folded fact */
  readonly shown = new Map<FieldId, string>();
  readonly tags = new Map<TagId, HeldTag>();
  readonly pastTags = new Map<TagId, PastTag[]>();
  readonly consent = new Map<ConsentChannel, { readonly state: ConsentState; readonly at: Instant }>();
  readonly signals = new Map<SignalTypeId, Signal[]>();
  readonly scores = new Map<ScorecardId, KeptScore>();
  /** audiences, and the hidden truths of rules, by definition id */
  readonly memberships = new Map<number, Membership>();
  readonly pins = new Map<AudienceId, Pin>();
  readonly leavings = new Map<AudienceId, Instant>();
  readonly firings = new Map<RuleId, Firing>();
  /** `scorecard:line` of fact lines that held once and stand for it */
  readonly latchedLines = new Map<string, Instant>();
  /** rules that circled for this contact and are held back */
  readonly suspendedRules = new Map<RuleId, Instant>();
  /** points given by rules, by what gave them */
  readonly points = new Map<string, GivenPoints>();
  readonly deals = new Map<DealId, Deal>();
  readonly dealDetails = new Map<DealId, Details>();
  /** scores of deals, by `deal:scorecard` */
  readonly dealScores = new Map<string, KeptScore>();
  readonly changes = new Map<string, RecordedChange[]>();
  stage: { readonly id: StageId; readonly since: Instant } | undefined;
  owner: string | undefined;
  /** the subject id of its company */
  company: number | undefined;
  companyFacts: ReadonlyMap<FieldId, Fact> | undefined;
  contacts: readonly Subject[] = [];

  readonly changed: { readonly [Part in StatePart]: Set<PartKey<Part>> } = {
    facts: new Set(),
    tags: new Set(),
    consent: new Set(),
    scores: new Set(),
    memberships: new Set(),
    pins: new Set(),
    firings: new Set(),
    latchedLines: new Set(),
    suspendedRules: new Set(),
    points: new Set(),
    deals: new Set(),
    dealScores: new Set(),
  };
  readonly changedLinks = new Set<StateLink>();
  /** signals of it were taken back, or forgotten */
  hasLostSignals = false;
  /** what came to an end, or changed, since it was last written down */
  readonly fresh = {
    pastTags: [] as { readonly tag: TagId; readonly past: PastTag }[],
    stays: [] as { readonly definition: number; readonly since: Instant; readonly until: Instant }[],
    changes: [] as { readonly of: string; readonly change: RecordedChange }[],
  };
  /** histories that were taken back since it was last written down: of a tag and a stay what ended then, of a change what came to be then */
  readonly forgotten = {
    pastTags: [] as { readonly tag: TagId; readonly until: Instant }[],
    stays: [] as { readonly definition: number; readonly until: Instant }[],
    changes: [] as { readonly of: string; readonly change: RecordedChange }[],
  };
  /** everything that passes touched since it was last written down, and how it last was, so that others who read it can be told */
  readonly touched = new Map<Dependency, Touch>();
  /** companies whose contacts changed by a change of link */
  readonly companiesTouched = new Set<number>();

  constructor(record: SubjectRecord) {
    this.id = record.id;
    this.kind = record.kind ?? 'contact';
    this.isNew = record.isNew;
    this.lastNow = record.lastNow;
    this.dueAt = record.dueAt;
    this.epoch = record.epoch ?? 0;
  }

  /** Whether nothing of it has changed since it was last written down, and nobody has to be told anything. When it is due, and its last instant, are left to the caller. */
  get isUnchanged(): boolean {
    const sets = [...Object.values(this.changed), this.changedLinks, this.companiesTouched] as readonly ReadonlySet<unknown>[];
    const lists = [this.fresh, this.forgotten].flatMap((each) => Object.values(each)) as readonly (readonly unknown[])[];
    return !this.isNew && this.touched.size === 0 && sets.every(({ size }) => size === 0) && lists.every(({ length }) => length === 0);
  }

  /** Takes signals out of what is known. Returns those that were there. */
  removeSignals(gone: ReadonlySet<SignalId>): readonly Signal[] {
    const removed: Signal[] = [];
    for (const [type, list] of this.signals) {
      const left = list.filter((signal) => !gone.has(signal.id));
      if (left.length === list.length) continue;
      removed.push(...list.filter((signal) => gone.has(signal.id)));
      this.hasLostSignals = true;
      if (left.length === 0) this.signals.delete(type);
      else this.signals.set(type, left);
    }
    return removed;
  }

  /** Inserts a signal in order of time. Returns false if it is already known. */
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

  /** One part of the state, to read. Passes change it with `put` and `drop`. */
  part<Part extends StatePart>(part: Part): Map<PartKey<Part>, PartValue<Part>> {
    return this[part] as unknown as Map<PartKey<Part>, PartValue<Part>>;
  }

  put<Part extends StatePart>(part: Part, key: PartKey<Part>, value: PartValue<Part>): void {
    this.part(part).set(key, value);
    (this.changed[part] as Set<PartKey<Part>>).add(key);
  }

  drop<Part extends StatePart>(part: Part, key: PartKey<Part>): void {
    if (this.part(part).delete(key)) (this.changed[part] as Set<PartKey<Part>>).add(key);
  }

  /** Records a past of a tag: it was removed, or its value was replaced. */
  keepPast(tag: TagId, past: PastTag): void {
    append(this.pastTags, tag, past);
    this.fresh.pastTags.push({ tag, past });
  }

  keepChange(of: string, change: RecordedChange): void {
    append(this.changes, of, change);
    this.fresh.changes.push({ of, change });
  }

  /**
   * Removes the end of a tag that was recorded at that instant. What was done again ended it before.
   *
   * @param since when the tag that ended had been given
   */
  forgetPast(tag: TagId, at: Instant, since: Instant): void {
    const past = this.pastTags.get(tag) ?? [];
    const exact = past.findLastIndex((each) => each.until === at);
    const index = exact >= 0 ? exact : past.findLastIndex((each) => each.until < at && each.since === since);
    const [gone] = index >= 0 ? past.splice(index, 1) : [];
    this.forgotten.pastTags.push({ tag, until: gone?.until ?? at });
  }

  /**
   * Removes the latest change from a history, if it was made by that instant with this value: what was done again changed it before. Of several at
   * one instant, as after a merge, it is the one that came from the same value.
   */
  forgetChange(of: string, { at, from, to }: RecordedChange): boolean {
    const list = this.changes.get(of) ?? [];
    const last = list.at(-1);
    if (!last || last.at > at || last.to !== to) return false;
    const exact = list.findLastIndex((each) => each.at === last.at && each.from === from && each.to === to);
    const [gone = last] = list.splice(exact >= 0 ? exact : list.length - 1, 1);
    this.forgotten.changes.push({ of, change: gone });
    return true;
  }

  forgetStay(definition: number, until: Instant): void {
    if (this.leavings.get(definition) === until) this.leavings.delete(definition);
    this.forgotten.stays.push({ definition, until });
  }

  join(definition: number, since: Instant): void {
    this.put('memberships', definition, { since });
  }

  leave(definition: number, until: Instant): void {
    const since = this.memberships.get(definition)?.since ?? until;
    this.drop('memberships', definition);
    this.leavings.set(definition, until);
    this.fresh.stays.push({ definition, since, until });
  }

  /** Forgets how it joined and left: it stands as it did before. @param firstStay how many ended stays there were then */
  restoreStay(
    definition: number,
    before: { readonly since: Instant | undefined; readonly left: Instant | undefined },
    firstStay: number,
  ): void {
    if (before.since !== undefined) this.join(definition, before.since);
    if (before.left === undefined) this.leavings.delete(definition);
    else this.leavings.set(definition, before.left);
    this.fresh.stays.push(...this.fresh.stays.splice(firstStay).filter((stay) => stay.definition !== definition));
  }

  putDeal(deal: Deal, catalogue: Catalogue): void {
    this.put('deals', deal.id, deal);
    this.dealDetails.set(deal.id, detailsOfDeal(deal, catalogue));
  }

  dropDeal(id: DealId): void {
    this.drop('deals', id);
    this.dealDetails.delete(id);
    for (const key of [...this.dealScores.keys()]) if (key.startsWith(`${id}:`)) this.drop('dealScores', key);
  }
}

function append<Key, Value>(map: Map<Key, Value[]>, key: Key, value: Value): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

const NO_POINTS: Subject['points'] = new Map<never, never>();

/** A deal as conditions and scorecards see it: its own facts, and everything else from its contact. */
export function dealView(holder: SubjectState, id: DealId): Subject {
  const details = holder.dealDetails.get(id);
  const scores = new Map<number, KeptScore>(holder.scores);
  for (const [key, score] of holder.dealScores) {
    const [deal, card] = key.split(':');
    if (Number(deal) === id) scores.set(Number(card), score);
  }
  return {
    kind: 'deal',
    facts: holder.kind === 'company' ? new Map() : holder.facts,
    tags: holder.tags,
    pastTags: holder.pastTags,
    consent: holder.consent,
    signals: holder.signals,
    scores,
    memberships: holder.kind === 'company' ? new Map() : holder.memberships,
    leavings: holder.leavings,
    stage: holder.stage,
    owner: holder.owner,
    companyFacts: holder.kind === 'company' ? holder.facts : holder.companyFacts,
    dealDetails: new Map(details ? [[id, details]] : []),
    changes: holder.changes,
    contacts: [],
    latchedLines: holder.latchedLines,
    points: NO_POINTS,
    pins: holder.pins,
  };
}
