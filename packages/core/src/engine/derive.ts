import { changeKey } from '../conditions/node.ts';
import { type Dependency } from '../conditions/dependencies.ts';
import { changesAt } from '../conditions/evaluate/changes-at.ts';
import { holds } from '../conditions/evaluate/holds.ts';
import { type Subject } from '../contacts/subject.ts';
import { scoreOf, type Recorded, type Score } from '../scores/score.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { type Derived } from './compiled.ts';
import { type EffectOrigin, type PassContext, type Trigger } from './pass-context.ts';
import { type Instant } from '../time/zone.ts';
import { dealView, type KeptScore } from './state.ts';

/** What is refreshed even if nothing it reads was touched: nothing, what the clock can change, what was redefined after an epoch, or everything. */
export type AlsoBroughtUp = 'none' | 'clock' | 'all' | { readonly newSince: number };

/**
 * Brings up the derived state that rests on what was touched, in order, and collects the rules whose condition became true. Only what reads
 * something that was touched is looked at.
 *
 * @param silent nothing is set off: what is brought up was so before. What was defined anew moves for that cause; whatever rests on it, for the same one
 */
export function refresh(context: PassContext, also: AlsoBroughtUp, silent = false): readonly Trigger[] {
  const cause = context.cause;
  const triggers: Trigger[] = [];
  const all = context.compiled.derivedFor(context.state.kind);
  const readers = context.compiled.readersFor(context.state.kind);
  const newSince = typeof also === 'object' ? also.newSince : Number.POSITIVE_INFINITY;
  const waiting = new Places();
  let done = -1;
  const again = new Map<number, number>();
  const addReaders = (): void => {
    for (const dependency of context.takeTouches()) {
      for (const place of readers.get(dependency) ?? []) {
        if (place <= done && !mayGoBack(again, place)) continue;
        waiting.add(place);
      }
    }
  };
  addReaders();
  if (also !== 'none') all.forEach((derived, place) => isAlso(derived, also) && waiting.add(place));
  for (let place = waiting.next(); place !== undefined; place = waiting.next()) {
    const derived = all[place] as Derived;
    let via: Dependency | undefined;
    // The most recently touched dependency. Sets keep insertion order, so the result is deterministic.
    for (const dependency of derived.reads.on) if (context.touched.has(dependency)) via = dependency;
    const touched = via === undefined ? undefined : context.touched.get(via);
    const isNew = derived.epoch > newSince;
    const by: EffectOrigin = isNew || via === undefined ? { parent: undefined } : { parent: touched?.effect, via };
    context.cause = isNew ? { kind: 'definition', ref: derived.cause } : (touched?.cause ?? cause);
    const trigger = bringUp(context, derived, by, silent);
    if (trigger) triggers.push(trigger);
    done = place;
    addReaders();
  }
  context.cause = cause;
  context.touched = new Map();
  return triggers;
}

/** A definition that reads a history written later in the same pass is refreshed again when it changes, at most this many times. */
const MOST_RETURNS = 4;
function mayGoBack(again: Map<number, number>, place: number): boolean {
  const times = (again.get(place) ?? 0) + 1;
  again.set(place, times);
  return times <= MOST_RETURNS;
}

const isAlso = (derived: Derived, also: Exclude<AlsoBroughtUp, 'none'>): boolean =>
  also === 'all' || (also === 'clock' ? derived.reads.clock : derived.epoch > also.newSince);

/** A binary heap of places waiting to be worked: lowest first, each at most once. */
class Places {
  readonly #heap: number[] = [];
  readonly #known = new Set<number>();

  add(place: number): void {
    if (this.#known.has(place)) return;
    this.#known.add(place);
    const heap = this.#heap;
    let at = heap.push(place) - 1;
    while (at > 0) {
      const above = (at - 1) >> 1;
      if ((heap[above] as number) <= place) break;
      heap[at] = heap[above] as number;
      at = above;
    }
    heap[at] = place;
  }

  next(): number | undefined {
    const heap = this.#heap;
    const [first] = heap;
    const last = heap.pop();
    if (first !== undefined) this.#known.delete(first);
    if (first === undefined || last === undefined || heap.length === 0) return first;
    let at = 0;
    for (;;) {
      let below = 2 * at + 1;
      if (below >= heap.length) break;
      if (below + 1 < heap.length && (heap[below + 1] as number) < (heap[below] as number)) below += 1;
      if ((heap[below] as number) >= last) break;
      heap[at] = heap[below] as number;
      at = below;
    }
    heap[at] = last;
    return first;
  }
}

function bringUp(context: PassContext, derived: Derived, by: EffectOrigin, silent: boolean): Trigger | undefined {
  if (derived.kind === 'score') {
    if (derived.of === 'deal') bringUpDeals(context, derived.card);
    else bringUpScore(context, derived.card, by);
    return undefined;
  }
  const { state, moment } = context;
  const pin = derived.kind === 'audience' ? state.pins.get(derived.id) : undefined;
  const member = pin ? pin.in : holds(derived.node, state, moment);
  context.atMost(changesAt(derived.node, state, moment));
  if (member === state.memberships.has(derived.id)) return undefined;
  if (derived.kind === 'hidden') {
    // For a hidden condition only whether it holds is kept, not since when.
    if (member) state.join(derived.id, context.now);
    else state.drop('memberships', derived.id);
    const rule = context.compiled.rules.get(derived.id);
    return member && rule && !silent ? { signal: undefined, ...by, rule } : undefined;
  }
  context.move(derived.id, member);
  const effect = context.record({ kind: 'membership', verb: member ? 'joined' : 'left', definitionId: derived.id, ...by });
  context.touch(`audience:${derived.id}`, effect);
  return undefined;
}

/** What was recorded for a card beside what can be worked out. @param until what came after it is not seen */
export const recordedFor = (
  subject: Pick<Subject, 'latchedLines' | 'points'>,
  card: number,
  deal?: number,
  until: Instant = Number.POSITIVE_INFINITY,
): Recorded => ({
  onceHeld: (line) => {
    const since = subject.latchedLines.get(latchKey(card, line, deal));
    return since !== undefined && since <= until;
  },
  given: deal === undefined ? [...subject.points.values()].filter((each) => each.scorecard === card) : [],
});

export const latchKey = (card: number, line: string, deal?: number): string => `${card}:${deal === undefined ? line : `${line}@${deal}`}`;

/** Latches the "once true, always counted" lines that hold now, then counts the score. */
function counted(context: PassContext, card: PreparedCard, subject: Subject, deal?: number): Score {
  const { state, moment } = context;
  for (const line of card.lines) {
    if (line.kind !== 'fact' || !line.onceHeld) continue;
    const key = latchKey(card.id, line.key, deal);
    if (!state.latchedLines.has(key) && holds(line.node, subject, moment)) state.put('latchedLines', key, context.now);
  }
  const score = scoreOf(card, subject, recordedFor(state, card.id, deal), moment);
  context.atMost(score.changesAt);
  return score;
}

function keptOf(score: Score, before: KeptScore | undefined, now: number): KeptScore | undefined {
  const sameBand = before?.band === score.band;
  if (before && before.points === score.points && sameBand && before.exactUntil === score.changesAt) return undefined;
  return { points: score.points, band: score.band, bandSince: before && sameBand ? before.bandSince : now, exactUntil: score.changesAt };
}

function bringUpScore(context: PassContext, card: PreparedCard, by: EffectOrigin): void {
  const { state } = context;
  const score = counted(context, card, state);
  const before = state.scores.get(card.id);
  const kept = keptOf(score, before, context.now);
  if (!kept) return;
  state.put('scores', card.id, kept);
  if (before && before.points === score.points && before.band === score.band) return;
  if (!before || before.band === score.band) return context.touch(`score:${card.id}`, by.parent);
  const effect = context.record({ kind: 'band', verb: 'crossed', definitionId: card.id, before: before.band, after: score.band, ...by });
  context.touch(`score:${card.id}`, effect);
  context.changed(changeKey('band', card.id), before.band, score.band, effect);
}

function bringUpDeals(context: PassContext, card: PreparedCard): void {
  const { state } = context;
  for (const deal of state.deals.keys()) {
    const key = `${deal}:${card.id}`;
    const kept = keptOf(counted(context, card, dealView(state, deal), deal), state.dealScores.get(key), context.now);
    if (kept) state.put('dealScores', key, kept);
  }
}
