import { type ByKind } from '../conditions/by-kind.ts';
import { detailsHold } from '../conditions/evaluate/details.ts';
import { holds } from '../conditions/evaluate/holds.ts';
import { type Signal } from '../intake/signal.ts';
import { type Cause, type Effect } from '../ledger/effect.ts';
import { type CompiledRule, type Step } from '../rules/compile.ts';
import { nextOccurrence, wasDue } from '../rules/dates.ts';
import { DATE_GRACE_MS } from '../rules/definition.ts';
import { type Definition } from '../settings/definitions.ts';
import { type RuleId, type SignalTypeId } from '../settings/ids.ts';
import { Moment } from '../time/moment.ts';
import { addToDay, localDay, startOfDay, DAY_MS, type Instant } from '../time/zone.ts';
import { act, givenByRule, MAX_HOPS } from './act.ts';
import { hasPart } from './parts.ts';
import { doAgain, type GoneEntry } from './again.ts';
import { stepsFor } from './answers.ts';
import { causeOf, hopOf, type Arrival, type TakenWith } from './arrival.ts';
import { signalChanges } from './arrivals.ts';
import { type Compiled } from './compiled.ts';
import { refresh } from './derive.ts';
import { mapChangesOfPast } from './maps.ts';
import { undoMerge, applyMerge, type MergeRecord } from './merge.ts';
import { PassContext, type Trigger } from './pass-context.ts';
import { endTags } from './expiry.ts';
import { setNextDue } from './next-due.ts';
import { endPins } from './pins.ts';
import { applyChange } from './recorded.ts';
import { type SubjectState } from './state.ts';
import { replaceTag } from './replace-tag.ts';
import { bringCompanyFactsUp, bringValuesUp } from './standing-values.ts';
import { takeBack, type Stays, type TakenEntry } from './take-back.ts';
import { forgetMomentaryStays, inTurn } from './triggers.ts';

const MAX_WAVES = 16;
const MAX_FIRINGS = 3;

/**
 * One pass: works one arrival for one subject until nothing changes any more, and says what it did.
 *
 * The state is changed in place. A pass depends on nothing but its arguments, so batches, workers and restarts cannot change its outcome.
 *
 * @param now when it arrived, in ms; never before the subject's last *now*
 */
export function pass(compiled: Compiled, state: SubjectState, arrival: Arrival, now: Instant): readonly Effect[] {
  return new Pass(compiled, state, arrival, Math.max(now, state.lastNow)).run();
}

/** A pass that takes effects back, and signals or a merge with them. It also says which effects stay, and why. */
export function passBack(
  compiled: Compiled,
  state: SubjectState,
  entries: readonly TakenEntry[],
  cause: Cause,
  now: Instant,
  also: TakenWith = {},
): { readonly effects: readonly Effect[]; readonly stays: readonly Stays[] } {
  const taking = new Pass(compiled, state, { kind: 'take back', entries, cause, ...also }, Math.max(now, state.lastNow));
  return { effects: taking.run(), stays: taking.stays };
}

/** A pass that does again what was taken back. It also says which of its effects are that, and what stays as it is. */
export function passAgain(
  compiled: Compiled,
  state: SubjectState,
  entries: readonly GoneEntry[],
  cause: Cause,
  now: Instant,
): { readonly effects: readonly Effect[]; readonly done: readonly Effect[]; readonly stays: readonly Stays[] } {
  const doing = new Pass(compiled, state, { kind: 'again', entries, cause }, Math.max(now, state.lastNow));
  const effects = doing.run();
  return { effects, done: doing.done, stays: doing.stays };
}

/** A pass that merges another contact into this one. It also says what was taken over. */
export function passMerge(
  compiled: Compiled,
  state: SubjectState,
  other: SubjectState,
  cause: Cause,
  now: Instant,
): { readonly effects: readonly Effect[]; readonly taken: MergeRecord } {
  const merging = new Pass(compiled, state, { kind: 'merge', other, cause }, Math.max(now, state.lastNow, other.lastNow));
  const effects = merging.run();
  return { effects, taken: merging.taken as MergeRecord };
}

const SILENT: ReadonlySet<Arrival['kind']> = new Set(['take back', 'again', 'forget', 'merge']);

class Pass {
  readonly #compiled: Compiled;
  readonly #state: SubjectState;
  readonly #arrival: Arrival;
  readonly #context: PassContext;
  readonly #lastNow: Instant;
  readonly #firedInPass = new Map<RuleId, number>();
  stays: readonly Stays[] = [];
  done: readonly Effect[] = [];
  taken: MergeRecord | undefined;

  constructor(compiled: Compiled, state: SubjectState, arrival: Arrival, now: Instant) {
    this.#compiled = compiled;
    this.#state = state;
    this.#arrival = arrival;
    this.#lastNow = state.lastNow;
    this.#context = new PassContext(compiled, state, new Moment(now, compiled.catalogue.zone), causeOf(arrival), hopOf(arrival));
  }

  run(): readonly Effect[] {
    const state = this.#state;
    const context = this.#context;
    const { isNew } = state;
    const dates = this.#dateTriggers();
    state.lastNow = context.now;
    if (this.#compiled.replacedFields.size > 0) bringCompanyFactsUp(context);
    if (isNew)
      context.record({ kind: state.kind === 'company' ? 'company' : 'contact', verb: 'added', definitionId: undefined, parent: undefined });
    else {
      // What was to go before the last pass is to go by a change of definitions, and in silence like all that follows from one.
      endTags(context, this.#lastNow);
      if (state.epoch < this.#compiled.epoch) this.#bringToEpoch();
    }
    state.isNew = false;
    state.epoch = this.#compiled.epoch;
    endPins(context);
    this.#applyArrival();
    endTags(context, context.now);
    const silent = this.#isSilent();
    const becoming = refresh(context, isNew || silent ? 'all' : this.#arrival.kind === 'due' ? 'clock' : 'none', silent);
    const followed = this.#followAnswers() || this.#runBundle();
    const following = followed ? refresh(context, 'none') : [];
    this.#runWaves([...this.#signalTriggers(), ...dates, ...becoming, ...following]);
    this.#sweep();
    forgetMomentaryStays(context);
    setNextDue(context, this.#arrival.kind === 'due');
    return context.effects;
  }

  /**
   * Brings up what changed since the contact was last worked, before anything happens to it: in silence, since nothing became true now.
   * Only a rule that was turned on for everyone fires, for what was before. Since each pass does this, a contact meets it once,
   * whether a build comes to it first or a signal does.
   */
  #bringToEpoch(): void {
    const context = this.#context;
    const since = this.#state.epoch;
    const { cause } = context;
    bringValuesUp(context);
    refresh(context, { newSince: since }, true);
    for (const rule of this.#compiled.begunSince(since, this.#state.kind)) {
      context.cause = { kind: 'definition', ref: `${rule.definition.id}/${rule.definition.version}` };
      this.#runWaves(this.#pastTriggers(rule), true);
    }
    this.#firedInPass.clear();
    context.cause = cause;
  }

  /** Fires the triggered rules, and those they trigger in turn, until none is left or a circle is found. */
  #runWaves(first: readonly Trigger[], past = false): void {
    let triggers = first;
    for (let wave = 1; triggers.length > 0; wave += 1) {
      if (wave > MAX_WAVES) {
        for (const trigger of triggers) this.#circling(trigger);
        return;
      }
      this.#fire(triggers, past && wave === 1);
      triggers = refresh(this.#context, 'none');
    }
  }

  /** What is taken back, done again, forgotten, merged or replaced sets nothing off. */
  #isSilent(): boolean {
    const { kind } = this.#arrival;
    return SILENT.has(kind) || (kind === 'sweep' && this.#replaced() !== undefined);
  }

  /** The tag that a run replaces by another. */
  #replaced(): Definition<'tag'> | undefined {
    const tag = this.#arrival.kind === 'sweep' ? this.#compiled.catalogue.get('tag', this.#arrival.of) : undefined;
    return tag?.body.replacedBy === undefined ? undefined : tag;
  }

  /** Runs one rule for what is now and what was before, as turning it on for everyone would. */
  #sweep(): void {
    const arrival = this.#arrival;
    const rule = arrival.kind === 'sweep' ? this.#compiled.rules.get(arrival.of) : undefined;
    if (rule?.of === this.#state.kind) this.#runWaves(this.#pastTriggers(rule), true);
  }

  #applyArrival(): void {
    (this.#applied[this.#arrival.kind] as (arrival: Arrival) => void)(this.#arrival);
  }

  /** What each kind of arrival changes before anything is brought up. */
  readonly #applied: ByKind<Arrival, [], void> = {
    edit: ({ changes, parts, parent }) => {
      if (parts && !hasPart(this.#state, parts, this.#compiled.catalogue)) return;
      for (const change of changes) applyChange(this.#context, change, { parent });
    },
    'take back': ({ parted, signals, entries }) => {
      if (parted) undoMerge(this.#context, parted);
      for (const { typeId, time, source } of this.#state.removeSignals(signals ?? new Set())) {
        this.#context.record({ kind: 'signal', verb: 'taken back', definitionId: typeId, parent: undefined, before: { time, source } });
        this.#context.touch(`signal:${typeId}`, undefined);
      }
      this.stays = takeBack(this.#context, entries);
    },
    again: ({ entries }) => {
      ({ done: this.done, stays: this.stays } = doAgain(this.#context, entries));
    },
    forget: ({ signals }) => {
      const counts = new Map<SignalTypeId, number>();
      for (const { typeId } of this.#state.removeSignals(signals)) counts.set(typeId, (counts.get(typeId) ?? 0) + 1);
      for (const [typeId, n] of counts) {
        const effect = this.#context.record({ kind: 'signal', verb: 'forgotten', definitionId: typeId, parent: undefined, before: { n } });
        this.#context.touch(`signal:${typeId}`, effect);
      }
    },
    merge: ({ other }) => {
      this.taken = applyMerge(this.#context, other);
    },
    touch: ({ on, parent }) => {
      // A company does not pass on what its contacts did: sent back to them, it would loop for ever.
      for (const dependency of on) this.#context.touch(dependency, parent, this.#state.kind === 'contact');
    },
    signal: ({ made, signal, data }) => {
      for (const change of made ?? []) applyChange(this.#context, change, { parent: undefined });
      this.#state.addSignal(signal);
      this.#context.touch(`signal:${signal.typeId}`, undefined);
      for (const change of signalChanges(this.#compiled, this.#state, signal, data))
        applyChange(this.#context, change, { parent: undefined });
    },
    // Due and redefined state is refreshed; nothing recorded changes.
    due: () => undefined,
    sweep: ({ of }) => {
      const map = this.#compiled.maps.get(of);
      const tag = this.#replaced();
      if (tag) replaceTag(this.#context, tag);
      for (const change of map ? mapChangesOfPast(map, this.#state, this.#context.now) : [])
        applyChange(this.#context, change, { parent: undefined });
    },
    build: () => undefined,
  };

  /** Does what an answer map says beside giving tags, when all the answers have been applied. Says whether there was anything. */
  #followAnswers(): boolean {
    const arrival = this.#arrival;
    if (arrival.kind !== 'signal' || arrival.signal.historic) return false;
    const { signal, data } = arrival;
    const state = this.#state;
    const context = this.#context;
    const asked = stepsFor(this.#compiled, state, signal, data, (step) => holds(step.if, state, context.moment));
    if (!asked) return false;
    const { form, steps, fills } = asked;
    steps.forEach(({ action, reason }, index) => {
      const { id } = form;
      const reasons = { kind: 'form' as const, begins: `${id}/` };
      const points = `${id}/${signal.id}/${index}`;
      act({ context, by: { origin: { parent: undefined }, id, reason, reasons, points, fills }, signal: this.#withData(signal) }, action);
    });
    return steps.length > 0;
  }

  /** Does what a bundle that is run by hand says, each of its actions where its condition holds now. Says whether there was anything. */
  #runBundle(): boolean {
    const arrival = this.#arrival;
    const state = this.#state;
    const steps = arrival.kind === 'sweep' && state.kind === 'contact' ? this.#compiled.bundles.get(arrival.of) : undefined;
    if (arrival.kind !== 'sweep' || !steps) return false;
    const { of: id, cause } = arrival;
    const context = this.#context;
    const reason = { kind: 'bundle', ref: String(id) } as const;
    const run = 'ref' in cause ? cause.ref : '';
    const ready = steps.filter((step) => holds(step.if, state, context.moment));
    ready.forEach(({ action }, index) => {
      const by = { origin: { parent: undefined }, id, reason, reasons: reason, points: `${id}/run ${run}/${index}` };
      act({ context, by, signal: undefined }, action);
    });
    return ready.length > 0;
  }

  /** The rules that the arrival itself sets off. */
  #signalTriggers(): readonly Trigger[] {
    const arrival = this.#arrival;
    if (arrival.kind !== 'signal' || arrival.signal.historic) return [];
    const { signal } = arrival;
    return this.#compiled
      .rulesOnSignal(signal.typeId)
      .filter((rule) => this.#context.now - signal.time <= rule.definition.body.maxAgeDays * DAY_MS && this.#asksFor(rule, signal))
      .map((rule) => ({ rule, signal, parent: undefined }));
  }

  /** Date rules whose instant was reached since the last pass. A rule turned on after that pass has not reached any yet. */
  #dateTriggers(): readonly Trigger[] {
    const arrival = this.#arrival;
    if (arrival.kind !== 'due') return [];
    const { zone } = this.#context.moment;
    const due = this.#compiled.dateRules[this.#state.kind].filter((rule) => {
      if (rule.when.kind !== 'date' || (rule.definition.onEpoch ?? 0) > this.#state.epoch) return false;
      const at = nextOccurrence(rule.when.date, this.#state, this.#compiled.catalogue, this.#lastNow, zone);
      return at !== undefined && at <= this.#context.now;
    });
    if ((arrival.lateMs ?? 0) <= DATE_GRACE_MS) return due.map((rule) => ({ rule, signal: undefined, parent: undefined }));
    for (const { definition } of due)
      this.#context.record({ kind: 'firing', verb: 'missed', definitionId: definition.id, parent: undefined, rule: definition });
    return [];
  }

  #asksFor(rule: CompiledRule, signal: Signal): boolean {
    return rule.when.kind === 'signal' && detailsHold(rule.when.where, signal.details, this.#context.moment);
  }

  /** What a rule that begins with everyone would have been set off by. */
  #pastTriggers(rule: CompiledRule): readonly Trigger[] {
    const { when } = rule;
    const { moment } = this.#context;
    const once: readonly Trigger[] = [{ rule, signal: undefined, parent: undefined }];
    if (when.kind === 'sweep') return once;
    if (when.kind === 'becomes') return holds(when.node, this.#state, moment) ? once : [];
    if (when.kind === 'date') return wasDue(when.date, this.#state, this.#compiled.catalogue, moment) ? once : [];
    return (this.#state.signals.get(when.type) ?? [])
      .filter((signal) => signal.time <= moment.instant && this.#asksFor(rule, signal))
      .map((signal) => ({ rule, signal, parent: undefined }));
  }

  /** Evaluates every "if" on the same snapshot, then fires the rules that pass, ordered by position and id. */
  #fire(triggers: readonly Trigger[], past: boolean): void {
    const state = this.#state;
    const { moment } = this.#context;
    const ready = triggers
      .filter((trigger) => !state.suspendedRules.has(trigger.rule.definition.id) && holds(trigger.rule.if, state, moment))
      .map((trigger) => ({ trigger, steps: trigger.rule.steps.filter((step) => holds(step.if, state, moment)) }))
      .sort((a, b) => inTurn(a.trigger, b.trigger));
    for (const { trigger, steps } of ready) {
      const fired = (this.#firedInPass.get(trigger.rule.definition.id) ?? 0) + 1;
      if ((fired > MAX_FIRINGS && !past) || this.#context.hop > MAX_HOPS) this.#circling(trigger);
      else this.#fireOne(trigger, steps, fired);
    }
  }

  #fireOne(trigger: Trigger, steps: readonly Step[], fired: number): void {
    const state = this.#state;
    const { definition } = trigger.rule;
    const rule = { id: definition.id, version: definition.version };
    const by = { parent: trigger.parent, rule, ...(trigger.via ? { via: trigger.via } : {}) };
    const refusal = this.#refusal(trigger.rule);
    if (refusal) {
      this.#context.record({ kind: 'firing', verb: 'refused', definitionId: definition.id, after: refusal, ...by });
      return;
    }
    this.#firedInPass.set(definition.id, fired);
    const before = state.firings.get(definition.id);
    const times = (before?.times ?? 0) + 1;
    state.put('firings', definition.id, { times, lastAt: this.#context.now });
    const firing = this.#context.record({
      kind: 'firing',
      verb: 'fired',
      definitionId: definition.id,
      ...(before && before.times > 0 ? { before: { lastAt: before.lastAt } } : {}),
      ...(trigger.signal ? { after: { signal: trigger.signal.id } } : {}),
      ...by,
    });
    const signal = trigger.signal && this.#withData(trigger.signal);
    steps.forEach(({ action }, index) =>
      act({ context: this.#context, by: givenByRule({ firing, rule, signal, times, index }), signal }, action),
    );
  }

  /** The signal that has just arrived, with what was sent. */
  #withData(signal: Signal): Signal {
    return this.#arrival.kind === 'signal' && this.#arrival.signal === signal ? { ...signal, data: this.#arrival.data } : signal;
  }

  /** Why a rule may not fire again yet, if it may not. */
  #refusal(rule: CompiledRule): 'limit' | 'pause' | undefined {
    const { limit, pauseDays } = rule.definition.body.howOften;
    const firing = this.#state.firings.get(rule.definition.id);
    if (!firing || firing.times === 0) return undefined;
    if (limit !== undefined && firing.times >= limit) return 'limit';
    if (pauseDays === undefined) return undefined;
    const { zone } = this.#context.moment;
    return this.#context.now < startOfDay(addToDay(localDay(firing.lastAt, zone), pauseDays, 'days'), zone) ? 'pause' : undefined;
  }

  #circling(trigger: Trigger): void {
    const { definition } = trigger.rule;
    if (this.#state.suspendedRules.has(definition.id)) return;
    this.#state.put('suspendedRules', definition.id, this.#context.now);
    this.#context.record({
      kind: 'firing',
      verb: 'circling',
      definitionId: definition.id,
      parent: trigger.parent,
      rule: { id: definition.id, version: definition.version },
    });
  }
}
