import { holds } from '../conditions/evaluate/holds.ts';
import { changesAt, nextLineChange } from '../conditions/evaluate/changes-at.ts';
import { type ConditionNode } from '../conditions/node.ts';
import { dependenciesOf } from '../conditions/dependencies.ts';
import { type LookThrough, type Subject } from '../contacts/subject.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { scoreOf, type Score } from '../scores/score.ts';
import { type AudienceId, type ScorecardId } from '../settings/ids.ts';
import { Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { latchKey, recordedFor } from './derive.ts';

const NEVER = Number.POSITIVE_INFINITY;

type KeptScore = ReturnType<Subject['scores']['get']>;
type Membership = ReturnType<Subject['memberships']['get']>;

/**
 * A subject at another clock: its scores, bands and live audiences are worked out from what is under them; facts, tags, histories, pins
 * and fixed lists stand as they are recorded.
 */
export const atClock = (compiled: Compiled, subject: Subject, moment: Moment): Subject =>
  new ThroughSubject(compiled, subject, moment, true);

/** A subject as it is recorded now, which can say when its scores and audiences change by themselves. */
export const withClock = (compiled: Compiled, subject: Subject, moment: Moment): Subject =>
  new ThroughSubject(compiled, subject, moment, false);

/** Whether a condition rests on anything that another clock makes different although nothing was recorded: scores, bands, live audiences. */
export function restsOnDerived(compiled: Compiled, node: ConditionNode): boolean {
  const { on, ofContacts } = dependenciesOf(node);
  return [...on, ...ofContacts].some(
    (each) =>
      each.startsWith('score:') ||
      (each.startsWith('audience:') && compiled.audienceNode(Number(each.slice('audience:'.length))) !== undefined),
  );
}

/** So many changes that turn nothing are gone past. */
const MOST_PASSED = 20;

/**
 * The instant at which the clock alone turns a condition, as everything is recorded now: where it holds it ceases to, where it does not it
 * begins to. Undefined where that is not before `until`, or is hidden behind very many changes of single lines.
 */
export function turnsAt(compiled: Compiled, subject: Subject, node: ConditionNode, moment: Moment, until: Instant): Instant | undefined {
  const first = atClock(compiled, subject, moment);
  const truth = holds(node, first, moment);
  let next = changesAt(node, first, moment);
  for (let passed = 0; passed < MOST_PASSED && next < until; passed += 1) {
    const then = new Moment(next, moment.zone);
    const there = atClock(compiled, subject, then);
    if (holds(node, there, then) !== truth) return next;
    next = changesAt(node, there, then);
  }
  return undefined;
}

class ThroughSubject implements Subject, LookThrough {
  readonly kind: Subject['kind'];
  readonly facts: Subject['facts'];
  readonly tags: Subject['tags'];
  readonly pastTags: Subject['pastTags'];
  readonly consent: Subject['consent'];
  readonly signals: Subject['signals'];
  readonly newest: Subject['newest'];
  readonly leavings: Subject['leavings'];
  readonly stage: Subject['stage'];
  readonly owner: Subject['owner'];
  readonly companyFacts: Subject['companyFacts'];
  readonly dealDetails: Subject['dealDetails'];
  readonly changes: Subject['changes'];
  readonly latchedLines: Subject['latchedLines'];
  readonly points: Subject['points'];
  readonly pins: Subject['pins'];
  readonly scores: Subject['scores'];
  readonly memberships: Subject['memberships'];
  readonly #compiled: Compiled;
  readonly #recorded: Subject;
  readonly #moment: Moment;
  readonly #elsewhere: boolean;
  readonly #keptScores = new Map<ScorecardId, KeptScore>();
  readonly #keptMemberships = new Map<AudienceId, Membership>();
  #contacts: readonly Subject[] | undefined;

  /** @param elsewhere at another clock: what is derived is worked out, and not taken as it is recorded */
  constructor(compiled: Compiled, recorded: Subject, moment: Moment, elsewhere: boolean) {
    this.#compiled = compiled;
    this.#recorded = recorded;
    this.#moment = moment;
    this.#elsewhere = elsewhere;
    this.kind = recorded.kind;
    this.facts = recorded.facts;
    this.tags = recorded.tags;
    this.pastTags = recorded.pastTags;
    this.consent = recorded.consent;
    this.signals = recorded.signals;
    this.newest = recorded.newest;
    this.leavings = recorded.leavings;
    this.stage = recorded.stage;
    this.owner = recorded.owner;
    this.companyFacts = recorded.companyFacts;
    this.dealDetails = recorded.dealDetails;
    this.changes = recorded.changes;
    this.latchedLines = recorded.latchedLines;
    this.points = recorded.points;
    this.pins = recorded.pins;
    this.scores = elsewhere ? { get: (card) => remembered(this.#keptScores, card, () => this.#score(card)) } : recorded.scores;
    this.memberships = elsewhere
      ? { get: (id) => remembered(this.#keptMemberships, id, () => this.#membership(id)) }
      : recorded.memberships;
  }

  get lookThrough(): LookThrough {
    return this;
  }

  get contacts(): readonly Subject[] {
    this.#contacts ??= this.#recorded.contacts.map((each) => new ThroughSubject(this.#compiled, each, this.#moment, this.#elsewhere));
    return this.#contacts;
  }

  at(moment: Moment): Subject {
    return new ThroughSubject(this.#compiled, this.#recorded, moment, true);
  }

  nextOfScore(id: ScorecardId): Instant {
    const card = this.#card(id);
    if (!card) return NEVER;
    const now = this.#moment.instant;
    let next = this.#counted(card, nextLineChange).changesAt;
    const seenLater = (instant: Instant | undefined): void => {
      if (instant !== undefined && instant > now) next = Math.min(next, instant);
    };
    for (const line of card.lines) if (line.kind === 'fact' && line.onceHeld) seenLater(this.latchedLines.get(latchKey(id, line.key)));
    seenLater(this.#recorded.scores.get(id)?.bandSince);
    return next;
  }

  nextOfAudience(id: AudienceId): Instant {
    const node = this.#compiled.audienceNode(id);
    const now = this.#moment.instant;
    const since = this.#recorded.memberships.get(id)?.since ?? NEVER;
    const seenLater = since > now ? since : NEVER;
    if (!node) return seenLater;
    const until = this.pins.get(id)?.until;
    return Math.min(seenLater, until !== undefined && until > now ? until : NEVER, nextLineChange(node, this, this.#moment));
  }

  #card(id: ScorecardId): PreparedCard | undefined {
    const card = this.#compiled.card(id);
    return card?.of === this.kind ? card : undefined;
  }

  #counted(card: PreparedCard, next: (node: ConditionNode, subject: Subject, moment: Moment) => Instant): Score {
    return scoreOf(card, this, recordedFor(this, card.id, undefined, this.#moment.instant), this.#moment, next);
  }

  #score(id: ScorecardId): KeptScore {
    const recorded = this.#recorded.scores.get(id);
    const card = this.#card(id);
    if (!card) return recorded;
    const { points, band } = this.#counted(card, () => NEVER);
    return { points, band, bandSince: recorded?.band === band ? this.#seen(recorded.bandSince) : undefined };
  }

  #membership(id: AudienceId): Membership {
    const recorded = this.#recorded.memberships.get(id);
    const node = this.#compiled.audienceNode(id);
    if (!node) return recorded;
    const pin = this.pins.get(id);
    const pinned = pin && (pin.until === undefined || pin.until > this.#moment.instant) ? pin.in : undefined;
    return (pinned ?? holds(node, this, this.#moment)) ? { since: this.#seen(recorded?.since) } : undefined;
  }

  /** Moments after the clock are not seen yet. */
  #seen(instant: Instant | undefined): Instant | undefined {
    return instant !== undefined && instant <= this.#moment.instant ? instant : undefined;
  }
}

function remembered<Key, Value>(known: Map<Key, Value>, key: Key, work: () => Value): Value {
  if (!known.has(key)) known.set(key, work());
  return known.get(key) as Value;
}
