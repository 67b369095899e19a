import { type Dependency } from '../conditions/dependencies.ts';
import { changesAt, detailsHold, holds } from '../conditions/evaluate.ts';
import { type ConsentChannel, type ConsentState } from '../conditions/schema.ts';
import { readFact, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { type Signal } from '../intake/signal.ts';
import { type Cause, type Effect } from '../ledger/effect.ts';
import { type RuleAction } from '../rules/definition.ts';
import { scoreOf } from '../scores/score.ts';
import { type FieldId, type RuleId, type TagId } from '../settings/ids.ts';
import { reasonKey, type TagReason } from '../tags/definition.ts';
import { Moment } from '../time/moment.ts';
import { addToDay, localDay, startOfDay, DAY_MS, type Instant } from '../time/zone.ts';
import { signalChanges } from './arrivals.ts';
import { type Change } from './change.ts';
import { type Compiled, type CompiledRule, type Derived } from './compiled.ts';
import { type ContactState } from './state.ts';

/** What a pass works on. */
export type Arrival =
  | { readonly kind: 'signal'; readonly signal: Signal; readonly data: unknown }
  | { readonly kind: 'edit'; readonly changes: readonly Change[]; readonly cause: Cause }
  /** the clock reached an instant at which something changes by itself */
  | { readonly kind: 'due' }
  /** definitions changed, and nothing else happened: every pass first brings up what is older than its epoch */
  | { readonly kind: 'build'; readonly cause: Cause }
  /** a rehearsal: a rule that is not on fires for what was before */
  | { readonly kind: 'begin'; readonly rule: CompiledRule; readonly cause: Cause };

const MAX_WAVES = 16;
const MAX_FIRINGS = 3;
const NEVER = Number.POSITIVE_INFINITY;

interface Trigger {
  readonly rule: CompiledRule;
  readonly signal: Signal | undefined;
  readonly parent: Effect | undefined;
  readonly via?: Dependency;
}

/**
 * One pass: works one arrival for one contact until nothing changes any more, and says what it did.
 *
 * The state is changed in place. A pass depends on nothing but its arguments, so batches, workers and restarts cannot change its outcome.
 *
 * @param now when it arrived, in ms; never before the contact's last *now*
 */
export function pass(compiled: Compiled, state: ContactState, arrival: Arrival, now: Instant): readonly Effect[] {
  return new Pass(compiled, state, arrival, Math.max(now, state.lastNow)).run();
}

class Pass {
  readonly #compiled: Compiled;
  readonly #state: ContactState;
  readonly #arrival: Arrival;
  readonly #moment: Moment;
  #cause: Cause;
  readonly #effects: Effect[] = [];
  /** what was touched since derived state was last brought up, and by which effect (undefined: by the arrival itself) */
  #touched = new Map<Dependency, Effect | undefined>();
  readonly #firedInPass = new Map<RuleId, number>();
  #next = NEVER;

  constructor(compiled: Compiled, state: ContactState, arrival: Arrival, now: Instant) {
    this.#compiled = compiled;
    this.#state = state;
    this.#arrival = arrival;
    this.#moment = new Moment(now, compiled.catalogue.zone);
    this.#cause =
      arrival.kind === 'signal'
        ? { kind: 'signal', signalId: arrival.signal.id }
        : arrival.kind === 'due'
          ? { kind: 'clock' }
          : arrival.cause;
  }

  run(): readonly Effect[] {
    const state = this.#state;
    state.lastNow = this.#moment.instant;
    const isNew = state.isNew;
    if (isNew) this.#record({ kind: 'contact', verb: 'added', thing: undefined, parent: undefined });
    else if (state.epoch < this.#compiled.epoch) this.#bringToEpoch();
    state.isNew = false;
    state.epoch = this.#compiled.epoch;
    this.#applyArrival();
    const becoming = this.#refresh((derived) => isNew || (this.#arrival.kind === 'due' && derived.reads.clock));
    this.#runWaves([...this.#signalTriggers(), ...becoming]);
    const standing = state.dueAt !== undefined && state.dueAt > this.#moment.instant && this.#arrival.kind !== 'due' ? state.dueAt : NEVER;
    const due = Math.min(standing, this.#next);
    state.dueAt = due === NEVER ? undefined : due;
    return this.#effects;
  }

  /**
   * Brings up what changed since the contact was last worked, before anything happens to it: in silence, since nothing became true now.
   * Only a rule that was turned on for everyone fires, for what was before. Since each pass does this, a contact meets it once,
   * whether a build comes to it first or a signal does.
   */
  #bringToEpoch(): void {
    const since = this.#state.epoch;
    const cause = this.#cause;
    this.#cause = { kind: 'definition', ref: `epoch ${this.#compiled.epoch}` };
    this.#refresh((derived) => derived.epoch > since, true);
    for (const rule of this.#compiled.begunSince(since)) {
      this.#cause = { kind: 'definition', ref: `${rule.definition.id}/${rule.definition.version}` };
      this.#runWaves(this.#pastTriggers(rule), true);
    }
    this.#firedInPass.clear();
    this.#cause = cause;
  }

  /** Fires what was triggered and whatever that sets off in turn, until nothing is left or it goes in a circle. */
  #runWaves(first: readonly Trigger[], past = false): void {
    let triggers = first;
    for (let wave = 1; triggers.length > 0; wave += 1) {
      if (wave > MAX_WAVES) {
        for (const trigger of triggers) this.#circling(trigger);
        return;
      }
      this.#fire(triggers, past && wave === 1);
      triggers = this.#refresh(() => false);
    }
  }

  #record(effect: Omit<Effect, 'at' | 'cause'>): Effect {
    const recorded: Effect = { ...effect, at: this.#moment.instant, cause: this.#cause };
    this.#effects.push(recorded);
    return recorded;
  }

  #touch(dependency: Dependency, effect: Effect | undefined): void {
    this.#touched.set(dependency, effect);
  }

  #applyArrival(): void {
    const arrival = this.#arrival;
    if (arrival.kind === 'edit') for (const change of arrival.changes) this.#change(change, undefined);
    if (arrival.kind !== 'signal') return;
    this.#state.addSignal(arrival.signal);
    this.#touch(`signal:${arrival.signal.typeId}`, undefined);
    for (const change of signalChanges(this.#compiled.catalogue, arrival.signal, arrival.data)) this.#change(change, undefined);
  }

  #change(change: Change, parent: Effect | undefined, rule?: Effect['rule']): void {
    const by = { parent, ...(rule ? { rule } : {}) };
    switch (change.kind) {
      case 'field':
        return this.#setField(change.field, change.value, by);
      case 'tag':
        return change.add ? this.#addTag(change.tag, change.reason, by) : this.#removeTag(change.tag, by);
      case 'consent':
        return this.#setConsent(change.channel, change.state, change.at, by);
    }
  }

  #setField(field: FieldId, value: WrittenFact | undefined, by: Pick<Effect, 'parent' | 'rule'>): void {
    const state = this.#state;
    const before = state.facts.get(field);
    const shownBefore = state.shown.get(field);
    if (sameFact(before, value?.fact) && shownBefore === value?.shown) return;
    if (value === undefined) {
      state.drop('facts', field);
      state.shown.delete(field);
    } else {
      state.put('facts', field, value.fact);
      if (value.shown === undefined) state.shown.delete(field);
      else state.shown.set(field, value.shown);
    }
    const effect = this.#record({
      kind: 'field',
      verb: value === undefined ? 'cleared' : 'set',
      thing: field,
      personal: { before: shownBefore ?? before ?? null, after: value?.shown ?? value?.fact ?? null },
      ...by,
    });
    this.#touch(`field:${field}`, effect);
  }

  #addTag(tag: TagId, reason: TagReason, by: Pick<Effect, 'parent' | 'rule'>): void {
    const held = this.#state.tags.get(tag);
    if (held?.reasons.some((each) => reasonKey(each) === reasonKey(reason))) return;
    this.#state.put('tags', tag, { since: held?.since ?? this.#moment.instant, reasons: [...(held?.reasons ?? []), reason] });
    const effect = this.#record({ kind: 'tag', verb: held ? 'reason added' : 'added', thing: tag, after: reason, ...by });
    if (!held) this.#touch(`tag:${tag}`, effect);
    if (!held) this.#keepOneOfFamily(tag, by);
  }

  /** Of a family whose tags come one at a time, the new one takes the place of the old. */
  #keepOneOfFamily(tag: TagId, by: Pick<Effect, 'parent' | 'rule'>): void {
    const { catalogue } = this.#compiled;
    const family = catalogue.body('tag', tag)?.family;
    if (family === undefined || catalogue.body('family', family)?.many !== false) return;
    for (const other of [...this.#state.tags.keys()]) {
      if (other !== tag && catalogue.body('tag', other)?.family === family) this.#removeTag(other, by);
    }
  }

  #removeTag(tag: TagId, by: Pick<Effect, 'parent' | 'rule'>): void {
    const held = this.#state.tags.get(tag);
    if (!held) return;
    this.#state.drop('tags', tag);
    const effect = this.#record({ kind: 'tag', verb: 'removed', thing: tag, before: held.reasons, ...by });
    this.#touch(`tag:${tag}`, effect);
  }

  #setConsent(channel: ConsentChannel, wanted: ConsentState, at: Instant, by: Pick<Effect, 'parent' | 'rule'>): void {
    const before = this.#state.consent.get(channel);
    // The latest by time holds, whatever the order of arrival.
    if (before && before.at > at) return;
    this.#state.put('consent', channel, { state: wanted, at });
    if (before?.state === wanted) return;
    const effect = this.#record({
      kind: 'consent',
      verb: 'set',
      thing: undefined,
      channel,
      before: before?.state ?? 'unknown',
      after: wanted,
      ...by,
    });
    this.#touch(`consent:${channel}`, effect);
  }

  /**
   * Brings up the derived state that rests on what was touched, in order, and collects the rules whose condition became true.
   *
   * @param also what is brought up whether it was touched or not
   * @param silent nothing is set off: what is brought up was so before
   */
  #refresh(also: (derived: Derived) => boolean, silent = false): readonly Trigger[] {
    const triggers: Trigger[] = [];
    for (const derived of this.#compiled.derived) {
      const via = [...derived.reads.on].filter((dependency) => this.#touched.has(dependency)).at(-1);
      if (via === undefined && !also(derived)) continue;
      const trigger = this.#bringUp(derived, via === undefined ? undefined : this.#touched.get(via), via, silent);
      if (trigger) triggers.push(trigger);
    }
    this.#touched = new Map();
    return triggers;
  }

  #bringUp(derived: Derived, parent: Effect | undefined, via: Dependency | undefined, silent: boolean): Trigger | undefined {
    const by = { parent, ...(via ? { via } : {}) };
    if (derived.kind === 'score') {
      this.#bringUpScore(derived, by);
      return undefined;
    }
    const state = this.#state;
    const member = holds(derived.node, state, this.#moment);
    this.#next = Math.min(this.#next, changesAt(derived.node, state, this.#moment));
    if (member === state.memberships.has(derived.id)) return undefined;
    if (member) state.put('memberships', derived.id, { since: this.#moment.instant });
    else state.drop('memberships', derived.id);
    if (derived.kind === 'hidden') {
      const rule = this.#compiled.rules.get(derived.id);
      return member && rule && !silent ? { rule, signal: undefined, ...by } : undefined;
    }
    const effect = this.#record({ kind: 'membership', verb: member ? 'joined' : 'left', thing: derived.id, ...by });
    this.#touch(`audience:${derived.id}`, effect);
    return undefined;
  }

  #bringUpScore(derived: Extract<Derived, { kind: 'score' }>, by: Pick<Effect, 'parent' | 'via'>): void {
    const { card } = derived;
    const state = this.#state;
    const mark = (line: string): string => `${card.id}:${line}`;
    for (const line of card.lines) {
      if (line.kind === 'fact' && line.onceHeld && !state.marks.has(mark(line.key)) && holds(line.node, state, this.#moment)) {
        state.put('marks', mark(line.key), this.#moment.instant);
      }
    }
    const score = scoreOf(card, state, (line) => state.marks.has(mark(line)), this.#moment);
    this.#next = Math.min(this.#next, score.changesAt);
    const before = state.scores.get(card.id);
    const sameBand = before?.band === score.band;
    if (!before || before.points !== score.points || !sameBand || before.exactUntil !== score.changesAt) {
      state.put('scores', card.id, {
        points: score.points,
        band: score.band,
        bandSince: before && sameBand ? before.bandSince : this.#moment.instant,
        exactUntil: score.changesAt,
      });
    }
    if (before && before.points === score.points && sameBand) return;
    if (before && !sameBand) {
      const effect = this.#record({ kind: 'band', verb: 'crossed', thing: card.id, before: before.band, after: score.band, ...by });
      this.#touch(`score:${card.id}`, effect);
    } else this.#touch(`score:${card.id}`, by.parent);
  }

  /** The rules that the arrival itself sets off. */
  #signalTriggers(): readonly Trigger[] {
    const arrival = this.#arrival;
    if (arrival.kind === 'begin') return this.#pastTriggers(arrival.rule);
    if (arrival.kind !== 'signal' || arrival.signal.historic) return [];
    const { signal } = arrival;
    return this.#compiled
      .rulesOnSignal(signal.typeId)
      .filter((rule) => this.#moment.instant - signal.time <= rule.definition.body.maxAgeDays * DAY_MS && this.#asksFor(rule, signal))
      .map((rule) => ({ rule, signal, parent: undefined }));
  }

  #asksFor(rule: CompiledRule, signal: Signal): boolean {
    return rule.when.kind === 'signal' && detailsHold(rule.when.where, signal.details, this.#moment);
  }

  /** What a rule that begins with everyone would have been set off by. */
  #pastTriggers(rule: CompiledRule): readonly Trigger[] {
    const { when } = rule;
    if (when.kind === 'becomes') return holds(when.node, this.#state, this.#moment) ? [{ rule, signal: undefined, parent: undefined }] : [];
    return (this.#state.signals.get(when.type) ?? [])
      .filter((signal) => signal.time <= this.#moment.instant && this.#asksFor(rule, signal))
      .map((signal) => ({ rule, signal, parent: undefined }));
  }

  /** Judges every "if" on the same snapshot, then applies what holds in the order of position and id. */
  #fire(triggers: readonly Trigger[], past: boolean): void {
    const ready = triggers
      .filter((trigger) => !this.#state.held.has(trigger.rule.definition.id) && holds(trigger.rule.if, this.#state, this.#moment))
      .sort(
        (a, b) =>
          a.rule.definition.body.position - b.rule.definition.body.position ||
          a.rule.definition.id - b.rule.definition.id ||
          (a.signal?.time ?? 0) - (b.signal?.time ?? 0),
      );
    for (const trigger of ready) {
      const { definition } = trigger.rule;
      const fired = (this.#firedInPass.get(definition.id) ?? 0) + 1;
      if (fired > MAX_FIRINGS && !past && this.#arrival.kind !== 'begin') {
        this.#circling(trigger);
        continue;
      }
      const rule = { id: definition.id, version: definition.version };
      const by = { parent: trigger.parent, rule, ...(trigger.via ? { via: trigger.via } : {}) };
      const refusal = this.#refusal(trigger.rule);
      if (refusal) {
        this.#record({ kind: 'firing', verb: 'refused', thing: definition.id, after: refusal, ...by });
        continue;
      }
      this.#firedInPass.set(definition.id, fired);
      const before = this.#state.firings.get(definition.id);
      this.#state.put('firings', definition.id, { times: (before?.times ?? 0) + 1, lastAt: this.#moment.instant });
      const firing = this.#record({
        kind: 'firing',
        verb: 'fired',
        thing: definition.id,
        ...(trigger.signal ? { after: { signal: trigger.signal.id } } : {}),
        ...by,
      });
      for (const action of definition.body.then) this.#act(action, firing, rule, trigger.signal);
    }
  }

  /** Why a rule may not fire again yet, if it may not. */
  #refusal(rule: CompiledRule): 'limit' | 'pause' | undefined {
    const { limit, pauseDays } = rule.definition.body.howOften;
    const firing = this.#state.firings.get(rule.definition.id);
    if (!firing || firing.times === 0) return undefined;
    if (limit !== undefined && firing.times >= limit) return 'limit';
    if (pauseDays === undefined) return undefined;
    const { zone } = this.#moment;
    return this.#moment.instant < startOfDay(addToDay(localDay(firing.lastAt, zone), pauseDays, 'days'), zone) ? 'pause' : undefined;
  }

  #act(action: RuleAction, firing: Effect, rule: { id: number; version: number }, signal: Signal | undefined): void {
    const reason: TagReason = { kind: 'rule', ref: signal ? `${rule.id}/${signal.id}` : String(rule.id) };
    switch (action.do) {
      case 'add tag':
        return this.#change({ kind: 'tag', tag: action.tag, add: true, reason }, firing, rule);
      case 'remove tag':
        return this.#change({ kind: 'tag', tag: action.tag, add: false, reason }, firing, rule);
      case 'set field': {
        const body = this.#compiled.catalogue.body('field', action.field);
        const value = body && readFact(body, action.value, this.#moment.zone);
        if (value?.ok) this.#change({ kind: 'field', field: action.field, value: value.value }, firing, rule);
        return;
      }
      case 'clear field':
        return this.#change({ kind: 'field', field: action.field, value: undefined }, firing, rule);
    }
  }

  #circling(trigger: Trigger): void {
    const { definition } = trigger.rule;
    if (this.#state.held.has(definition.id)) return;
    this.#state.put('held', definition.id, this.#moment.instant);
    this.#record({
      kind: 'firing',
      verb: 'circling',
      thing: definition.id,
      parent: trigger.parent,
      rule: { id: definition.id, version: definition.version },
    });
  }
}
