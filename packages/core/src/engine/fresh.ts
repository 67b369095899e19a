import { holds } from '../conditions/evaluate/holds.ts';
import { type Subject } from '../contacts/subject.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { scoreOf } from '../scores/score.ts';
import { Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { latchKey, recordedFor } from './derive.ts';
import { dealView, SubjectState, type KeptScore, type StatePart } from './state.ts';

/** One difference between the derived state that is stored and the derived state worked out from scratch. */
export interface Difference {
  readonly kind: 'score' | 'band' | 'membership' | 'hidden' | 'mark' | 'overdue';
  readonly definition: number | undefined;
  readonly kept: unknown;
  readonly fresh: unknown;
}

/** Which parts of the state scores and live audiences are worked out of: not what they themselves are, and not what only rules ask. */
const WORKED_FROM: Readonly<Record<StatePart, boolean>> = {
  facts: true,
  tags: true,
  consent: true,
  scores: false,
  memberships: false,
  // Pinned memberships are compared separately: a pin overrides the conditions.
  pins: false,
  firings: false,
  latchedLines: true,
  suspendedRules: false,
  points: true,
  deals: true,
  dealScores: false,
};
const HISTORIES = ['pastTags', 'signals', 'leavings', 'dealDetails', 'changes'] as const;

/** A copy with the recorded state and the signals of a subject, without its derived state. Since when it is a member, or in a band, is recorded and is copied too. */
function withoutDerived(compiled: Compiled, state: SubjectState): SubjectState {
  const fresh = new SubjectState({ id: state.id, kind: state.kind, isNew: false, lastNow: state.lastNow, dueAt: undefined });
  const parts = (Object.keys(WORKED_FROM) as StatePart[]).filter((part) => WORKED_FROM[part]);
  for (const part of [...parts, ...HISTORIES])
    for (const [key, value] of state[part]) (fresh[part] as Map<unknown, unknown>).set(key, value);
  fresh.stage = state.stage;
  fresh.owner = state.owner;
  fresh.company = state.company;
  fresh.companyFacts = state.companyFacts;
  fresh.contacts = state.contacts;
  const derived = new Set<number>(compiled.derivedFor(state.kind).map((each) => each.id));
  for (const [id, membership] of state.memberships) if (!derived.has(id)) fresh.memberships.set(id, membership);
  return fresh;
}

/**
 * Works out all derived state of a subject from scratch, from its signals and recorded state alone, and compares it exactly with what is kept.
 *
 * @param now an instant at which no step of the clock is overdue; where one is, that is the first difference
 */
export function differences(compiled: Compiled, state: SubjectState, now: Instant): readonly Difference[] {
  const found: Difference[] = [];
  if (state.dueAt !== undefined && state.dueAt <= now)
    found.push({ kind: 'overdue', definition: undefined, kept: state.dueAt, fresh: now });
  const moment = new Moment(now, compiled.catalogue.zone);
  const fresh = withoutDerived(compiled, state);
  const score = (card: PreparedCard, subject: Subject, kept: KeptScore | undefined, deal?: number): KeptScore => {
    const counted = scoreOf(card, subject, recordedFor(state, card.id, deal), moment);
    if (kept?.points !== counted.points) found.push({ kind: 'score', definition: card.id, kept: kept?.points, fresh: counted.points });
    if (kept?.band !== counted.band) found.push({ kind: 'band', definition: card.id, kept: kept?.band, fresh: counted.band });
    for (const line of card.lines) {
      const unmarked = line.kind === 'fact' && line.onceHeld && !state.latchedLines.has(latchKey(card.id, line.key, deal));
      if (unmarked && holds(line.node, subject, moment))
        found.push({ kind: 'mark', definition: card.id, kept: undefined, fresh: line.key });
    }
    const bandSince = kept?.band === counted.band ? kept.bandSince : now;
    return { points: counted.points, band: counted.band, bandSince, exactUntil: counted.changesAt };
  };
  for (const derived of compiled.derivedFor(state.kind)) {
    if (derived.kind === 'score' && derived.of === 'deal') {
      for (const deal of state.deals.keys()) {
        const key = `${deal}:${derived.id}`;
        fresh.dealScores.set(key, score(derived.card, dealView(fresh, deal), state.dealScores.get(key), deal));
      }
      continue;
    }
    if (derived.kind === 'score') {
      fresh.scores.set(derived.id, score(derived.card, fresh, state.scores.get(derived.id)));
      continue;
    }
    const pin = derived.kind === 'audience' ? state.pins.get(derived.id) : undefined;
    const member = pin ? pin.in : holds(derived.node, fresh, moment);
    const kept = state.memberships.get(derived.id);
    if (member !== (kept !== undefined))
      found.push({ kind: derived.kind === 'audience' ? 'membership' : 'hidden', definition: derived.id, kept: !member, fresh: member });
    if (member) fresh.memberships.set(derived.id, { since: kept?.since ?? now });
  }
  return found;
}
