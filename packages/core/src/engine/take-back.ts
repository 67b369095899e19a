import { holds } from '../conditions/evaluate/holds.ts';
import { changeKey } from '../conditions/node.ts';
import { readFact, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { nameOf } from '../ledger/effects.ts';
import { type Effect, type EffectName, type EntryOf, type KeptValue, type LedgerEntry } from '../ledger/effect.ts';
import { reasonKey } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { markKey } from './derive.ts';
import { type By, type Passing } from './pass-context.ts';
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
export function takeBack(passing: Passing, entries: readonly TakenEntry[]): readonly Stays[] {
  const stays: Stays[] = [];
  for (const entry of [...entries].sort((a, b) => b.id - a.id)) {
    const why = takeOneBack(passing, entry);
    if (why !== undefined) stays.push({ entry: entry.id, why });
  }
  forgetMarks(passing, new Set(entries.map((entry) => entry.at)));
  return stays;
}

/** A line that once held because of what was taken back did not hold: its mark goes, unless the line holds now. */
function forgetMarks(passing: Passing, instants: ReadonlySet<Instant>): void {
  const { state, compiled, moment } = passing;
  for (const derived of compiled.derivedFor(state.kind)) {
    if (derived.kind !== 'score') continue;
    const deals = derived.of === 'deal' ? [...state.deals.keys()] : [undefined];
    for (const line of derived.card.lines) {
      if (line.kind !== 'fact' || !line.onceHeld) continue;
      for (const deal of deals) {
        const key = markKey(derived.id, line.key, deal);
        const since = state.marks.get(key);
        const subject = deal === undefined ? state : dealView(state, deal);
        if (since === undefined || !instants.has(since) || holds(line.node, subject, moment)) continue;
        state.drop('marks', key);
        for (const dependency of derived.reads.on) passing.touch(dependency, undefined);
      }
    }
  }
}

/** Why one effect stays; undefined where it was taken back, or nothing of it is recorded state. */
function takeOneBack(passing: Passing, entry: TakenEntry): string | undefined {
  const back = TAKE_BACK[nameOf(entry)] as TakeBack<EffectName>;
  return typeof back === 'string' ? back : back?.(passing, entry as TakenOf<EffectName>, { parent: undefined, reverses: entry.id });
}

type Reversing = By & { readonly reverses: number };
/** How an effect is taken back, which may find that it stays, and why; or why it always stays; undefined where there is nothing to take back. */
type TakeBack<Name extends EffectName> =
  ((passing: Passing, entry: TakenOf<Name>, by: Reversing) => string | undefined) | string | undefined;

const ADDED_STAYS = 'who was added stays';
const NEVER = 'it cannot be taken back';
/** What others did about it is told by their own ledgers; what is worked out follows by itself. */
const FOLLOWS = undefined;

const TAKE_BACK: { readonly [Name in EffectName]: TakeBack<Name> } = {
  'contact added': ADDED_STAYS,
  'contact merged': FOLLOWS,
  'company added': ADDED_STAYS,
  'company set': companyBack,
  'company cleared': NEVER,
  'tag added': reasonBack,
  'tag reason added': reasonBack,
  'tag reason removed': (passing, entry, by) =>
    passing.state.tags.has(entry.thing ?? -1) ? reasonsAgain(passing, entry, by) : 'the tag has gone since',
  'tag valued': tagValueBack,
  'tag removed': (passing, entry, by) => {
    const held = passing.state.tags.get(entry.thing ?? -1);
    return held && held.since >= entry.at ? 'the tag has been given again since' : reasonsAgain(passing, entry, by);
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
  'firing circling': (passing, { thing = -1 }) => {
    passing.state.drop('held', thing);
    return undefined;
  },
  'firing let on': NEVER,
  'firing taken back': FOLLOWS,
  'firing merged': firingsBack,
  'task made': (passing, _entry, by) => {
    passing.record({ kind: 'task', verb: 'taken back', thing: undefined, ...by });
    return undefined;
  },
  'task taken back': FOLLOWS,
  'notice made': (passing, _entry, by) => {
    passing.record({ kind: 'notice', verb: 'taken back', thing: undefined, ...by });
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
function firingBack(passing: Passing, { thing: rule = -1, at, before }: TakenOf<'firing fired'>, by: Reversing): string | undefined {
  const firing = passing.state.firings.get(rule);
  if (firing && firing.times > 1) {
    const lastAt = firing.lastAt === at && before ? before.lastAt : firing.lastAt;
    passing.state.put('firings', rule, { times: firing.times - 1, lastAt });
  } else passing.state.drop('firings', rule);
  passing.record({ kind: 'firing', verb: 'taken back', thing: rule, ...by });
  return undefined;
}

/** A merge took over how often a rule had run. */
function firingsBack(passing: Passing, { thing: rule = -1, before }: TakenOf<'firing merged'>, by: Reversing): string | undefined {
  if (before) passing.state.put('firings', rule, { times: before.times, lastAt: before.lastAt });
  else passing.state.drop('firings', rule);
  passing.record({ kind: 'firing', verb: 'taken back', thing: rule, ...by });
  return undefined;
}

/** Consent that was taken over in a merge says in full what was there before; what a person gave is a word of its own. */
function consentBack(passing: Passing, { channel, before, after }: TakenOf<'consent set'>, by: Reversing): string | undefined {
  if (typeof before === 'string') return 'consent is only given and withdrawn by the person themselves';
  const now = passing.state.consent.get(channel);
  if (!now || now.state !== after) return SINCE_OTHERWISE;
  if (before) passing.state.put('consent', channel, { state: before.state, at: before.at });
  else passing.state.drop('consent', channel);
  const effect = passing.record({
    kind: 'consent',
    verb: 'set',
    thing: undefined,
    channel,
    before: now.state,
    after: before?.state ?? 'unknown',
    ...by,
  });
  passing.touch(`consent:${channel}`, effect);
  return undefined;
}

/** Only where there was no company before: what is known of another one is not at hand. */
function companyBack(passing: Passing, { before, after }: TakenOf<'company set'>, by: Reversing): string | undefined {
  if (passing.state.company !== after) return SINCE_OTHERWISE;
  if (before !== null) return NEVER;
  applyChange(passing, { kind: 'company', company: undefined, facts: undefined }, by);
  return undefined;
}

function reasonBack(passing: Passing, entry: TakenOf<'tag added' | 'tag reason added'>, by: Reversing): string | undefined {
  const { state } = passing;
  const { thing: tag = -1, after, before } = entry;
  const { reason } = after;
  const held = state.tags.get(tag);
  if (!held?.reasons.some((each) => reasonKey(each) === reasonKey(reason))) return 'the tag no longer stands for that reason';
  const reasons = held.reasons.filter((each) => reasonKey(each) !== reasonKey(reason));
  if (reasons.length > 0) {
    const valued = before && held.value === after.value;
    const value = valued ? (before.value ?? undefined) : held.value;
    state.put('tags', tag, { since: before?.since ?? held.since, reasons, value });
    if (valued) state.forgetPast(tag, entry.at);
    const effect = passing.record({ kind: 'tag', verb: 'reason removed', thing: tag, before: { reasons: [reason] }, ...by });
    if (valued) passing.touch(`tag:${tag}`, effect);
    return undefined;
  }
  state.drop('tags', tag);
  const effect = passing.record({ kind: 'tag', verb: 'removed', thing: tag, before: keptTag(held), ...by });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

/** Puts reasons back that were taken away; where the tag went with them, it stands again as if it had never gone. */
function reasonsAgain(passing: Passing, entry: TakenOf<'tag removed' | 'tag reason removed'>, by: Reversing): string | undefined {
  const { state } = passing;
  const { thing: tag = -1, before } = entry;
  const { reasons } = before;
  const held = state.tags.get(tag);
  const gone = 'since' in before ? before : { since: passing.now, value: undefined };
  const known = new Set((held?.reasons ?? []).map(reasonKey));
  const again: HeldTag = {
    since: held?.since ?? gone.since,
    reasons: [...(held?.reasons ?? []), ...reasons.filter((reason) => !known.has(reasonKey(reason)))],
    value: held?.value ?? gone.value,
  };
  state.put('tags', tag, again);
  if (held) {
    for (const reason of reasons) passing.record({ kind: 'tag', verb: 'reason added', thing: tag, after: { reason }, ...by });
    return undefined;
  }
  state.forgetPast(tag, entry.at);
  const [reason] = reasons;
  if (!reason) return undefined;
  const after = { reason, ...(again.value === undefined ? {} : { value: again.value }) };
  const effect = passing.record({ kind: 'tag', verb: 'added', thing: tag, after, ...by });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

function tagValueBack(passing: Passing, { thing: tag = -1, at, before, after }: TakenOf<'tag valued'>, by: Reversing): string | undefined {
  const { state } = passing;
  const held = state.tags.get(tag);
  if (!held || (held.value ?? null) !== after.value) return SINCE_OTHERWISE;
  state.put('tags', tag, { ...held, value: before.value ?? undefined });
  state.forgetPast(tag, at);
  const values = { before: { value: held.value ?? null }, after: { value: before.value } };
  const effect = passing.record({ kind: 'tag', verb: 'valued', thing: tag, ...values, ...by });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

/** A value as the ledger kept it: a fact, or text as it was written. */
function written(passing: Passing, field: number, kept: KeptValue): WrittenFact | undefined {
  if (kept === null) return undefined;
  if (typeof kept !== 'string') return { fact: kept };
  const { catalogue } = passing.compiled;
  const body = catalogue.body('field', field);
  const read = body && readFact(body, kept, catalogue.workspace);
  return read?.ok ? read.value : { fact: kept };
}

function putField(passing: Passing, field: number, value: WrittenFact | undefined, entry: Row, by: Reversing): void {
  const before = passing.state.facts.get(field);
  const { effect, from, to } = writeFact(passing, field, value, 'set', by);
  if (!sameFact(before, value?.fact)) unchanged(passing, changeKey('field', field), entry.at, from, to, effect);
}

/** What the effect recorded as a change did not happen; where something changed it since, going back is a change of its own. */
function unchanged(passing: Passing, of: string, at: Instant, from: string | null, to: string | null, effect: Effect): void {
  if (passing.state.forgetChange(of, at, from)) passing.touch(`change:${of}`, effect);
  else passing.changed(of, from, to, effect);
}

function fieldBack(passing: Passing, entry: TakenOf<'field set' | 'field cleared'>, by: Reversing): string | undefined {
  const field = entry.thing ?? -1;
  const made = written(passing, field, entry.after);
  if (!sameFact(passing.state.facts.get(field), made?.fact)) return SINCE_OTHERWISE;
  const before = written(passing, field, entry.before);
  const key = passing.compiled.catalogue.get('field', field)?.key;
  if (before === undefined && key === 'email') return 'it is what the contact is known by';
  // Who was added stays, and with them when that was.
  if (key === 'added') return undefined;
  putField(passing, field, before, entry, by);
  return undefined;
}

/** An increase is taken back by subtracting it, whatever else was added since. */
function increaseBack(passing: Passing, entry: TakenOf<'field increased'>, by: Reversing): string | undefined {
  const field = entry.thing ?? -1;
  const now = passing.state.facts.get(field);
  const made = written(passing, field, entry.after)?.fact;
  const before = written(passing, field, entry.before)?.fact;
  if (typeof now !== 'number' || typeof made !== 'number') return SINCE_OTHERWISE;
  const left = now - (made - (typeof before === 'number' ? before : 0));
  // Back to nothing, if there was nothing before it.
  putField(passing, field, left === 0 && before === undefined ? undefined : { fact: left }, entry, by);
  return undefined;
}

function stageBack(passing: Passing, { at, before, after }: TakenOf<'stage set' | 'stage cleared'>, by: Reversing): string | undefined {
  const { state } = passing;
  if ((state.stage?.id ?? null) !== after.stage) return SINCE_OTHERWISE;
  const now = state.stage?.id;
  const earlier = before?.stage ?? undefined;
  state.stage = earlier === undefined ? undefined : { id: earlier, since: before?.since ?? passing.now };
  state.changedLinks.add('stage');
  const effect = passing.record({
    kind: 'stage',
    verb: earlier === undefined ? 'cleared' : 'set',
    thing: earlier ?? now,
    before: { stage: now ?? null },
    after: { stage: earlier ?? null },
    ...by,
  });
  passing.touch('stage', effect);
  const text = (stage: number | undefined): string | null => (stage === undefined ? null : String(stage));
  unchanged(passing, 'stage', at, text(now), text(earlier), effect);
  return undefined;
}

function ownerBack(passing: Passing, { at, before, after }: TakenOf<'owner set' | 'owner cleared'>, by: Reversing): string | undefined {
  const { state } = passing;
  if ((state.owner ?? null) !== after) return SINCE_OTHERWISE;
  const now = state.owner;
  state.owner = before ?? undefined;
  state.changedLinks.add('owner');
  const effect = recordOwner(passing, now, by);
  unchanged(passing, 'owner', at, now ?? null, state.owner ?? null, effect);
  return undefined;
}

/** Fixed lists only: a live audience follows by itself. */
function listBack(passing: Passing, entry: TakenOf<'membership joined' | 'membership left'>, by: Reversing): string | undefined {
  const { state } = passing;
  const { thing: list = -1, at, before, after } = entry;
  if (passing.compiled.catalogue.body('audience', list)?.kind !== 'fixed') return undefined;
  const member = state.memberships.get(list);
  if (entry.verb === 'joined') {
    if (member?.since !== (after?.since ?? at)) return SINCE_OTHERWISE;
    state.drop('memberships', list);
  } else {
    if (member) return SINCE_OTHERWISE;
    state.join(list, before?.since ?? passing.now);
    state.forgetStay(list, at);
  }
  const effect = passing.record({ kind: 'membership', verb: entry.verb === 'joined' ? 'left' : 'joined', thing: list, ...by });
  passing.touch(`audience:${list}`, effect);
  return undefined;
}

function pinBack(
  passing: Passing,
  { thing: audience = -1, before, after }: TakenOf<'pin set' | 'pin cleared'>,
  by: Reversing,
): string | undefined {
  if (!samePin(passing.state.pins.get(audience), pinOf(after))) return SINCE_OTHERWISE;
  const earlier = pinOf(before);
  const over = earlier?.until !== undefined && earlier.until <= passing.now;
  putPin(passing, audience, over ? undefined : earlier, by);
  return undefined;
}

function pointsBack(passing: Passing, { thing, after: { ref, points } }: TakenOf<'points given'>, by: Reversing): string | undefined {
  if (!passing.state.points.has(ref)) return 'its points have gone since';
  passing.state.drop('points', ref);
  const effect = passing.record({ kind: 'points', verb: 'taken back', thing, before: { points }, ...by });
  passing.touch(`points:${thing ?? -1}`, effect);
  return undefined;
}
