import { holds } from '../conditions/evaluate/holds.ts';
import { changeKey } from '../conditions/node.ts';
import { readFact, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { nameOf } from '../ledger/effects.ts';
import { type Effect, type EffectName, type EntryOf, type KeptValue, type LedgerEntry } from '../ledger/effect.ts';
import { reasonKey } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { latchKey } from './derive.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { pinOf, putPin, samePin } from './pins.ts';
import { applyChange, keptTag, recordOwner, writeFact } from './recorded.ts';
import { dealView, type HeldTag } from './state.ts';

interface Row {
  /** in the ledger */
  readonly id: number;
  readonly at: Instant;
}
type TakenOf<Name extends EffectName> = EntryOf<Name> & Row;
/** A row of the ledger that is to be taken back. */
export type TakenEntry = LedgerEntry & Row;

/** What stays although it was to be taken back, and why. */
export interface Stays {
  readonly entry: number;
  readonly why: string;
}

const SINCE_OTHERWISE = 'it has been changed since';

/**
 * Takes back what effects did to one subject, newest first, wherever the value is still what the effect made it. Derived state is not
 * touched here: it follows when it is next brought up.
 *
 * @returns what stays, and why
 */
export function takeBack(context: PassContext, entries: readonly TakenEntry[]): readonly Stays[] {
  const stays: Stays[] = [];
  for (const entry of [...entries].sort((a, b) => b.id - a.id)) {
    const why = takeOneBack(context, entry);
    if (why !== undefined) stays.push({ entry: entry.id, why });
  }
  forgetMarks(context, new Set(entries.map((entry) => entry.at)));
  return stays;
}

/** A latched line that held only because of what is taken back is released, unless it holds now. */
function forgetMarks(context: PassContext, instants: ReadonlySet<Instant>): void {
  const { state, compiled, moment } = context;
  for (const derived of compiled.derivedFor(state.kind)) {
    if (derived.kind !== 'score') continue;
    const deals = derived.of === 'deal' ? [...state.deals.keys()] : [undefined];
    for (const line of derived.card.lines) {
      if (line.kind !== 'fact' || !line.onceHeld) continue;
      for (const deal of deals) {
        const key = latchKey(derived.id, line.key, deal);
        const since = state.latchedLines.get(key);
        const subject = deal === undefined ? state : dealView(state, deal);
        if (since === undefined || !instants.has(since) || holds(line.node, subject, moment)) continue;
        state.drop('latchedLines', key);
        for (const dependency of derived.reads.on) context.touch(dependency, undefined);
      }
    }
  }
}

/** Why an effect stays; undefined if it was taken back or changed no recorded state. */
function takeOneBack(context: PassContext, entry: TakenEntry): string | undefined {
  const back = TAKE_BACK[nameOf(entry)] as TakeBack<EffectName>;
  return typeof back === 'string' ? back : back?.(context, entry as TakenOf<EffectName>, { parent: undefined, reverses: entry.id });
}

type Reversing = EffectOrigin & { readonly reverses: number };
/** How an effect is taken back (which may fail with a reason), or the reason why it always stays; undefined if it changed no recorded state. */
type TakeBack<Name extends EffectName> =
  ((context: PassContext, entry: TakenOf<Name>, by: Reversing) => string | undefined) | string | undefined;

const ADDED_STAYS = 'who was added stays';
const NEVER = 'it cannot be taken back';
/** Requests to others are recorded in their own ledgers, and derived state follows by itself: neither is taken back here. */
const FOLLOWS = undefined;

const TAKE_BACK: { readonly [Name in EffectName]: TakeBack<Name> } = {
  'contact added': ADDED_STAYS,
  'contact merged': FOLLOWS,
  'company added': ADDED_STAYS,
  'company set': companyBack,
  'company cleared': NEVER,
  'tag added': reasonBack,
  'tag reason added': reasonBack,
  'tag reason removed': (context, entry, by) =>
    context.state.tags.has(entry.definitionId ?? -1) ? reasonsAgain(context, entry, by) : 'the tag has gone since',
  'tag valued': tagValueBack,
  'tag removed': (context, entry, by) => {
    const held = context.state.tags.get(entry.definitionId ?? -1);
    return held && held.since >= entry.at ? 'the tag has been given again since' : reasonsAgain(context, entry, by);
  },
  'field set': fieldBack,
  'field increased': increaseBack,
  'field cleared': fieldBack,
  'consent set': consentBack,
  'stage set': stageBack,
  'stage cleared': stageBack,
  'owner set': ownerBack,
  'owner cleared': ownerBack,
  'deal added': NEVER,
  'deal set': NEVER,
  'deal removed': NEVER,
  'points given': pointsBack,
  'points taken back': FOLLOWS,
  'band crossed': FOLLOWS,
  'membership joined': listBack,
  'membership left': listBack,
  'firing fired': firingBack,
  'firing refused': FOLLOWS,
  'firing missed': FOLLOWS,
  'firing circling': (context, { definitionId = -1 }) => {
    context.state.drop('suspendedRules', definitionId);
    return undefined;
  },
  'firing let on': NEVER,
  'firing taken back': FOLLOWS,
  'firing merged': firingsBack,
  'task made': (context, _entry, by) => {
    context.record({ kind: 'task', verb: 'taken back', definitionId: undefined, ...by });
    return undefined;
  },
  'task taken back': FOLLOWS,
  'notice made': (context, _entry, by) => {
    context.record({ kind: 'notice', verb: 'taken back', definitionId: undefined, ...by });
    return undefined;
  },
  'notice taken back': FOLLOWS,
  'asked sent': FOLLOWS,
  'asked circling': FOLLOWS,
  'pin set': pinBack,
  'pin cleared': pinBack,
  'pin ended': NEVER,
  'kept as it is': FOLLOWS,
};

/** The firing no longer counts for how often its rule may run. */
function firingBack(
  context: PassContext,
  { definitionId: rule = -1, at, before }: TakenOf<'firing fired'>,
  by: Reversing,
): string | undefined {
  const firing = context.state.firings.get(rule);
  if (firing && firing.times > 1) {
    const lastAt = firing.lastAt === at && before ? before.lastAt : firing.lastAt;
    context.state.put('firings', rule, { times: firing.times - 1, lastAt });
  } else context.state.drop('firings', rule);
  context.record({ kind: 'firing', verb: 'taken back', definitionId: rule, ...by });
  return undefined;
}

/** A merge took over how often a rule had run. */
function firingsBack(
  context: PassContext,
  { definitionId: rule = -1, before }: TakenOf<'firing merged'>,
  by: Reversing,
): string | undefined {
  if (before) context.state.put('firings', rule, { times: before.times, lastAt: before.lastAt });
  else context.state.drop('firings', rule);
  context.record({ kind: 'firing', verb: 'taken back', definitionId: rule, ...by });
  return undefined;
}

/** Restores the consent that a merge replaced. Consent that a person gave stays. */
function consentBack(context: PassContext, { channel, before, after }: TakenOf<'consent set'>, by: Reversing): string | undefined {
  if (typeof before === 'string') return 'consent is only given and withdrawn by the person themselves';
  const now = context.state.consent.get(channel);
  if (!now || now.state !== after) return SINCE_OTHERWISE;
  if (before) context.state.put('consent', channel, { state: before.state, at: before.at });
  else context.state.drop('consent', channel);
  const effect = context.record({
    kind: 'consent',
    verb: 'set',
    definitionId: undefined,
    channel,
    before: now.state,
    after: before?.state ?? 'unknown',
    ...by,
  });
  context.touch(`consent:${channel}`, effect);
  return undefined;
}

/** Only if there was no company before: the facts of another company are not loaded. */
function companyBack(context: PassContext, { before, after }: TakenOf<'company set'>, by: Reversing): string | undefined {
  if (context.state.company !== after) return SINCE_OTHERWISE;
  if (before !== null) return NEVER;
  applyChange(context, { kind: 'company', company: undefined, facts: undefined }, by);
  return undefined;
}

function reasonBack(context: PassContext, entry: TakenOf<'tag added' | 'tag reason added'>, by: Reversing): string | undefined {
  const { state } = context;
  const { definitionId: tag = -1, after, before } = entry;
  const { reason } = after;
  const held = state.tags.get(tag);
  if (!held?.reasons.some((each) => reasonKey(each) === reasonKey(reason))) return 'the tag no longer stands for that reason';
  const reasons = held.reasons.filter((each) => reasonKey(each) !== reasonKey(reason));
  if (reasons.length > 0) {
    const valued = before && held.value === after.value;
    const value = valued ? (before.value ?? undefined) : held.value;
    state.put('tags', tag, { since: before?.since ?? held.since, reasons, value });
    if (valued) state.forgetPast(tag, entry.at);
    const effect = context.record({ kind: 'tag', verb: 'reason removed', definitionId: tag, before: { reasons: [reason] }, ...by });
    if (valued) context.touch(`tag:${tag}`, effect);
    return undefined;
  }
  state.drop('tags', tag);
  const effect = context.record({ kind: 'tag', verb: 'removed', definitionId: tag, before: keptTag(held), ...by });
  context.touch(`tag:${tag}`, effect);
  return undefined;
}

/** Restores reasons that were removed. If the tag was removed with them, it is restored with its original start. */
function reasonsAgain(context: PassContext, entry: TakenOf<'tag removed' | 'tag reason removed'>, by: Reversing): string | undefined {
  const { state } = context;
  const { definitionId: tag = -1, before } = entry;
  const { reasons } = before;
  const held = state.tags.get(tag);
  const gone = 'since' in before ? before : { since: context.now, value: undefined };
  const known = new Set((held?.reasons ?? []).map(reasonKey));
  const again: HeldTag = {
    since: held?.since ?? gone.since,
    reasons: [...(held?.reasons ?? []), ...reasons.filter((reason) => !known.has(reasonKey(reason)))],
    value: held?.value ?? gone.value,
  };
  state.put('tags', tag, again);
  if (held) {
    for (const reason of reasons) context.record({ kind: 'tag', verb: 'reason added', definitionId: tag, after: { reason }, ...by });
    return undefined;
  }
  state.forgetPast(tag, entry.at);
  const [reason] = reasons;
  if (!reason) return undefined;
  const after = { reason, ...(again.value === undefined ? {} : { value: again.value }) };
  const effect = context.record({ kind: 'tag', verb: 'added', definitionId: tag, after, ...by });
  context.touch(`tag:${tag}`, effect);
  return undefined;
}

function tagValueBack(
  context: PassContext,
  { definitionId: tag = -1, at, before, after }: TakenOf<'tag valued'>,
  by: Reversing,
): string | undefined {
  const { state } = context;
  const held = state.tags.get(tag);
  if (!held || (held.value ?? null) !== after.value) return SINCE_OTHERWISE;
  state.put('tags', tag, { ...held, value: before.value ?? undefined });
  state.forgetPast(tag, at);
  const values = { before: { value: held.value ?? null }, after: { value: before.value } };
  const effect = context.record({ kind: 'tag', verb: 'valued', definitionId: tag, ...values, ...by });
  context.touch(`tag:${tag}`, effect);
  return undefined;
}

/** A value as the ledger stores it: a fact, or the text as written. */
function written(context: PassContext, field: number, kept: KeptValue): WrittenFact | undefined {
  if (kept === null) return undefined;
  if (typeof kept !== 'string') return { fact: kept };
  const { catalogue } = context.compiled;
  const body = catalogue.body('field', field);
  const read = body && readFact(body, kept, catalogue.workspace);
  return read?.ok ? read.value : { fact: kept };
}

function putField(context: PassContext, field: number, value: WrittenFact | undefined, entry: Row, by: Reversing): void {
  const before = context.state.facts.get(field);
  const { effect, from, to } = writeFact(context, field, value, 'set', by);
  if (!sameFact(before, value?.fact)) unchanged(context, changeKey('field', field), entry.at, from, to, effect);
}

/** Removes the effect's entry from the history. If the value changed again since, going back is recorded as a change of its own. */
function unchanged(context: PassContext, of: string, at: Instant, from: string | null, to: string | null, effect: Effect): void {
  if (context.state.forgetChange(of, at, from)) context.touch(`change:${of}`, effect);
  else context.changed(of, from, to, effect);
}

function fieldBack(context: PassContext, entry: TakenOf<'field set' | 'field cleared'>, by: Reversing): string | undefined {
  const field = entry.definitionId ?? -1;
  const made = written(context, field, entry.after);
  if (!sameFact(context.state.facts.get(field), made?.fact)) return SINCE_OTHERWISE;
  const before = written(context, field, entry.before);
  const key = context.compiled.catalogue.get('field', field)?.key;
  if (before === undefined && key === 'email') return 'it is what the contact is known by';
  // Who was added stays, and with them when that was.
  if (key === 'added') return undefined;
  putField(context, field, before, entry, by);
  return undefined;
}

/** An increase is taken back by subtracting it, even if more was added since. */
function increaseBack(context: PassContext, entry: TakenOf<'field increased'>, by: Reversing): string | undefined {
  const field = entry.definitionId ?? -1;
  const now = context.state.facts.get(field);
  const made = written(context, field, entry.after)?.fact;
  const before = written(context, field, entry.before)?.fact;
  if (typeof now !== 'number' || typeof made !== 'number') return SINCE_OTHERWISE;
  const left = now - (made - (typeof before === 'number' ? before : 0));
  // Back to nothing, if there was nothing before it.
  putField(context, field, left === 0 && before === undefined ? undefined : { fact: left }, entry, by);
  return undefined;
}

function stageBack(context: PassContext, { at, before, after }: TakenOf<'stage set' | 'stage cleared'>, by: Reversing): string | undefined {
  const { state } = context;
  if ((state.stage?.id ?? null) !== after.stage) return SINCE_OTHERWISE;
  const now = state.stage?.id;
  const earlier = before?.stage ?? undefined;
  state.stage = earlier === undefined ? undefined : { id: earlier, since: before?.since ?? context.now };
  state.changedLinks.add('stage');
  const effect = context.record({
    kind: 'stage',
    verb: earlier === undefined ? 'cleared' : 'set',
    definitionId: earlier ?? now,
    before: { stage: now ?? null },
    after: { stage: earlier ?? null },
    ...by,
  });
  context.touch('stage', effect);
  const text = (stage: number | undefined): string | null => (stage === undefined ? null : String(stage));
  unchanged(context, 'stage', at, text(now), text(earlier), effect);
  return undefined;
}

function ownerBack(context: PassContext, { at, before, after }: TakenOf<'owner set' | 'owner cleared'>, by: Reversing): string | undefined {
  const { state } = context;
  if ((state.owner ?? null) !== after) return SINCE_OTHERWISE;
  const now = state.owner;
  state.owner = before ?? undefined;
  state.changedLinks.add('owner');
  const effect = recordOwner(context, now, by);
  unchanged(context, 'owner', at, now ?? null, state.owner ?? null, effect);
  return undefined;
}

/** Fixed lists only: a live audience follows by itself. */
function listBack(context: PassContext, entry: TakenOf<'membership joined' | 'membership left'>, by: Reversing): string | undefined {
  const { state } = context;
  const { definitionId: list = -1, at, before, after } = entry;
  if (context.compiled.catalogue.body('audience', list)?.kind !== 'fixed') return undefined;
  const member = state.memberships.get(list);
  if (entry.verb === 'joined') {
    if (member?.since !== (after?.since ?? at)) return SINCE_OTHERWISE;
    state.drop('memberships', list);
  } else {
    if (member) return SINCE_OTHERWISE;
    state.join(list, before?.since ?? context.now);
    state.forgetStay(list, at);
  }
  const effect = context.record({ kind: 'membership', verb: entry.verb === 'joined' ? 'left' : 'joined', definitionId: list, ...by });
  context.touch(`audience:${list}`, effect);
  return undefined;
}

function pinBack(
  context: PassContext,
  { definitionId: audience = -1, before, after }: TakenOf<'pin set' | 'pin cleared'>,
  by: Reversing,
): string | undefined {
  if (!samePin(context.state.pins.get(audience), pinOf(after))) return SINCE_OTHERWISE;
  const earlier = pinOf(before);
  const over = earlier?.until !== undefined && earlier.until <= context.now;
  putPin(context, audience, over ? undefined : earlier, by);
  return undefined;
}

function pointsBack(
  context: PassContext,
  { definitionId, after: { ref, points } }: TakenOf<'points given'>,
  by: Reversing,
): string | undefined {
  if (!context.state.points.has(ref)) return 'its points have gone since';
  context.state.drop('points', ref);
  const effect = context.record({ kind: 'points', verb: 'taken back', definitionId, before: { points }, ...by });
  context.touch(`points:${definitionId ?? -1}`, effect);
  return undefined;
}
