import { changeKey } from '../conditions/node.ts';
import { sameFact } from '../contacts/facts.ts';
import { nameOf } from '../ledger/effects.ts';
import { type Effect, type EffectName } from '../ledger/effect.ts';
import { type FieldId, type RuleId, type TagId } from '../settings/ids.ts';
import { reasonKey } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { pinOf, putPin, samePin } from './pins.ts';
import { keptTag, recordOwner, writeFact } from './recorded.ts';
import { type Stays } from './take-back.ts';
import { written } from './take-back-values.ts';
import { SINCE_OTHERWISE, type Row, type TakenEntry, type TakenOf } from './taken.ts';

/** An effect that was taken back, and is to be done again. */
export interface GoneEntry {
  readonly taken: TakenEntry;
  /** the effect that led to it, by its id in the ledger */
  readonly parent: number | undefined;
  readonly rule: { readonly id: RuleId; readonly version: number } | undefined;
  /** what took it back */
  readonly back: TakenEntry;
}

/**
 * Does again what was taken back of one subject, the first effect first, wherever the value is still what it was before the effect. Histories
 * are as if it had never been taken back. Derived state follows when it is next brought up.
 *
 * @returns the effects that are done again, and what stays as it is, and why
 */
export function doAgain(
  context: PassContext,
  entries: readonly GoneEntry[],
): { readonly done: readonly Effect[]; readonly stays: readonly Stays[] } {
  const stays: Stays[] = [];
  const done = new Map<number, Effect>();
  const goes = new Set(
    entries.flatMap(({ taken: { kind, verb, definitionId } }) => (kind === 'tag' && verb === 'removed' ? [definitionId ?? -1] : [])),
  );
  for (const { taken, parent, rule, back } of [...entries].sort((a, b) => a.taken.id - b.taken.id)) {
    if (done.has(taken.id)) continue;
    const again = AGAIN[nameOf(taken)] as Again<EffectName> | undefined;
    const first = context.effects.length;
    const by = { parent: done.get(parent ?? -1) ?? back.id, ...(rule ? { rule } : {}) };
    const why = again ? again(context, { ...taken, back, goes } as GoneOf<EffectName>, by) : BY_HAND;
    const effect = context.effects[first];
    if (why !== undefined) stays.push({ entry: taken.id, why });
    else if (effect) done.set(taken.id, effect);
  }
  return { done: [...done.values()], stays };
}

const BY_HAND = 'it has to be done by hand';

/** An effect with what took it back, and the tags that go by what is done again with it. */
type GoneOf<Name extends EffectName> = TakenOf<Name> & { readonly back: TakenEntry; readonly goes: ReadonlySet<TagId> };
type Again<Name extends EffectName> = (context: PassContext, entry: GoneOf<Name>, by: EffectOrigin) => string | undefined;

const AGAIN: { readonly [Name in EffectName]?: Again<Name> } = {
  'tag added': tagAgain,
  'tag reason added': tagAgain,
  'tag reason removed': tagOffAgain,
  'tag removed': tagOffAgain,
  'tag valued': valueAgain,
  'field set': fieldAgain,
  'field cleared': fieldAgain,
  'field increased': increaseAgain,
  'stage set': stageAgain,
  'stage cleared': stageAgain,
  'owner set': ownerAgain,
  'owner cleared': ownerAgain,
  'points given': pointsAgain,
  'membership joined': listAgain,
  'membership left': listAgain,
  'firing fired': firingAgain,
  'task made': (context, { id }, by) => {
    context.record({ kind: 'task', verb: 'made', definitionId: undefined, workAgain: id, ...by });
    return undefined;
  },
  'notice made': (context, { id }, by) => {
    context.record({ kind: 'notice', verb: 'made', definitionId: undefined, workAgain: id, ...by });
    return undefined;
  },
  'pin set': pinAgain,
  'pin cleared': pinAgain,
};

/** Keeps that something went from one value to another back then, or now where it has changed since. */
function changedThen(context: PassContext, of: string, then: Instant, from: string | null, to: string | null, effect: Effect): void {
  const last = context.state.changes.get(of)?.at(-1);
  context.state.keepChange(of, { at: last && last.at > then ? context.now : then, from, to });
  context.touch(`change:${of}`, effect);
}

function tagAgain(
  context: PassContext,
  { definitionId: tag = -1, at, before, after, back, goes }: GoneOf<'tag added' | 'tag reason added'>,
  by: EffectOrigin,
): string | undefined {
  const { state } = context;
  const { reason } = after;
  const held = state.tags.get(tag);
  if (held?.reasons.some((each) => reasonKey(each) === reasonKey(reason))) return 'the tag stands for that reason already';
  const told = { kind: 'tag', definitionId: tag, after, ...by } as const;
  if (!held) {
    if (hasOtherOfFamily(context, tag, goes)) return 'another tag of its family has been given since';
    const gone = back.kind === 'tag' && back.verb === 'removed' ? back.before : undefined;
    state.put('tags', tag, { since: gone?.since ?? at, reasons: [reason], value: gone ? gone.value : after.value });
    context.touch(`tag:${tag}`, context.record({ ...told, verb: 'added' }));
    return undefined;
  }
  const valued = before ? (held.value ?? null) === before.value : false;
  if (valued && held.value !== undefined) state.keepPast(tag, { since: held.since, until: at, value: held.value, went: false });
  state.put('tags', tag, { since: held.since, reasons: [...held.reasons, reason], value: valued ? after.value : held.value });
  const effect = context.record({ ...told, verb: 'reason added', ...(valued ? { before: { value: held.value ?? null } } : {}) });
  if (valued) context.touch(`tag:${tag}`, effect);
  return undefined;
}

/** Whether another tag stands where somebody has one at a time, and stays there. */
function hasOtherOfFamily({ state, compiled: { catalogue } }: PassContext, tag: TagId, goes: ReadonlySet<TagId>): boolean {
  const family = catalogue.body('tag', tag)?.family;
  if (family === undefined || catalogue.body('family', family)?.many !== false) return false;
  return [...state.tags.keys()].some((other) => other !== tag && !goes.has(other) && catalogue.body('tag', other)?.family === family);
}

function tagOffAgain(
  context: PassContext,
  { definitionId: tag = -1, at, before }: GoneOf<'tag removed' | 'tag reason removed'>,
  by: EffectOrigin,
): string | undefined {
  const { state } = context;
  const held = state.tags.get(tag);
  if (!held) return 'the tag has gone since';
  const gone = new Set(before.reasons.map(reasonKey));
  const left = held.reasons.filter((reason) => !gone.has(reasonKey(reason)));
  if (left.length === held.reasons.length) return 'the tag no longer stands for that reason';
  if (left.length > 0) {
    const reasons = held.reasons.filter((reason) => gone.has(reasonKey(reason)));
    state.put('tags', tag, { ...held, reasons: left });
    context.record({ kind: 'tag', verb: 'reason removed', definitionId: tag, before: { reasons }, ...by });
    return undefined;
  }
  state.drop('tags', tag);
  state.keepPast(tag, { since: held.since, until: Math.max(at, held.since), value: held.value, went: true });
  context.touch(`tag:${tag}`, context.record({ kind: 'tag', verb: 'removed', definitionId: tag, before: keptTag(held), ...by }));
  return undefined;
}

function valueAgain(
  context: PassContext,
  { definitionId: tag = -1, at, before, after }: GoneOf<'tag valued'>,
  by: EffectOrigin,
): string | undefined {
  const { state } = context;
  const held = state.tags.get(tag);
  if (!held || (held.value ?? null) !== before.value) return SINCE_OTHERWISE;
  if (held.value !== undefined) state.keepPast(tag, { since: held.since, until: at, value: held.value, went: false });
  state.put('tags', tag, { ...held, value: after.value ?? undefined });
  context.touch(`tag:${tag}`, context.record({ kind: 'tag', verb: 'valued', definitionId: tag, before, after, ...by }));
  return undefined;
}

function fieldAgain(context: PassContext, entry: GoneOf<'field set' | 'field cleared'>, by: EffectOrigin): string | undefined {
  const field = entry.definitionId ?? -1;
  if (!sameFact(context.state.facts.get(field), written(context, field, entry.before)?.fact)) return SINCE_OTHERWISE;
  putFact(context, field, written(context, field, entry.after), 'set', entry, by);
  return undefined;
}

/** An increase is added again, whatever was added since. */
function increaseAgain(context: PassContext, entry: GoneOf<'field increased'>, by: EffectOrigin): string | undefined {
  const field = entry.definitionId ?? -1;
  const now = context.state.facts.get(field);
  const [made, before] = [written(context, field, entry.after)?.fact, written(context, field, entry.before)?.fact];
  if ((typeof now !== 'number' && now !== undefined) || typeof made !== 'number') return SINCE_OTHERWISE;
  const added = made - (typeof before === 'number' ? before : 0);
  putFact(context, field, { fact: (now ?? 0) + added }, 'increased', entry, by);
  return undefined;
}

function putFact(
  context: PassContext,
  field: FieldId,
  value: ReturnType<typeof written>,
  verb: 'set' | 'increased',
  { at }: Row,
  by: EffectOrigin,
): void {
  const before = context.state.facts.get(field);
  const { effect, from, to } = writeFact(context, field, value, verb, by);
  if (!sameFact(before, value?.fact)) changedThen(context, changeKey('field', field), at, from, to, effect);
}

function stageAgain(
  context: PassContext,
  { definitionId, at, before, after }: GoneOf<'stage set' | 'stage cleared'>,
  by: EffectOrigin,
): string | undefined {
  const { state } = context;
  const now = state.stage;
  if ((now?.id ?? null) !== (before?.stage ?? null)) return SINCE_OTHERWISE;
  const to = after.stage;
  state.stage = to === null ? undefined : { id: to, since: after.since ?? at };
  state.changedLinks.add('stage');
  const kept = now ? { stage: now.id, since: now.since } : null;
  const effect = context.record({ kind: 'stage', verb: to === null ? 'cleared' : 'set', definitionId, before: kept, after, ...by });
  context.touch('stage', effect);
  changedThen(context, 'stage', at, now ? String(now.id) : null, to === null ? null : String(to), effect);
  return undefined;
}

function ownerAgain(
  context: PassContext,
  { at, before, after }: GoneOf<'owner set' | 'owner cleared'>,
  by: EffectOrigin,
): string | undefined {
  const { state } = context;
  const now = state.owner;
  if ((now ?? null) !== before) return SINCE_OTHERWISE;
  state.owner = after ?? undefined;
  state.changedLinks.add('owner');
  changedThen(context, 'owner', at, now ?? null, after, recordOwner(context, now, by));
  return undefined;
}

function pointsAgain(context: PassContext, { definitionId, after, back }: GoneOf<'points given'>, by: EffectOrigin): string | undefined {
  const given = back.kind === 'points' && back.verb === 'taken back' ? back.before.given : undefined;
  if (!given) return BY_HAND;
  if (context.state.points.has(after.ref)) return 'its points count already';
  context.state.put('points', after.ref, given);
  const effect = context.record({ kind: 'points', verb: 'given', definitionId, after, ...by });
  context.touch(`points:${definitionId ?? -1}`, effect);
  return undefined;
}

/** Fixed lists only: a live audience follows by itself. */
function listAgain(context: PassContext, entry: GoneOf<'membership joined' | 'membership left'>, by: EffectOrigin): string | undefined {
  const { state } = context;
  const { definitionId: list = -1, at, after } = entry;
  const member = state.memberships.get(list);
  if ((member !== undefined) === (entry.verb === 'joined')) return SINCE_OTHERWISE;
  if (entry.verb === 'joined') state.join(list, after?.since ?? at);
  else state.leave(list, Math.max(at, member?.since ?? at));
  const told = { kind: 'membership', definitionId: list, ...by } as const;
  const effect = member
    ? context.record({ ...told, verb: 'left', before: member })
    : context.record({ ...told, verb: 'joined', after: { since: after?.since ?? at } });
  context.touch(`audience:${list}`, effect);
  return undefined;
}

function firingAgain(
  context: PassContext,
  { definitionId: rule = -1, at, before, after }: GoneOf<'firing fired'>,
  by: EffectOrigin,
): string | undefined {
  const firing = context.state.firings.get(rule);
  context.state.put('firings', rule, { times: (firing?.times ?? 0) + 1, lastAt: Math.max(firing?.lastAt ?? at, at) });
  context.record({ kind: 'firing', verb: 'fired', definitionId: rule, ...(before ? { before } : {}), ...(after ? { after } : {}), ...by });
  return undefined;
}

function pinAgain(
  context: PassContext,
  { definitionId: audience = -1, before, after }: GoneOf<'pin set' | 'pin cleared'>,
  by: EffectOrigin,
): string | undefined {
  if (!samePin(context.state.pins.get(audience), pinOf(before))) return SINCE_OTHERWISE;
  const pin = pinOf(after);
  if (pin?.until !== undefined && pin.until <= context.now) return 'its time is over';
  putPin(context, audience, pin, by);
  return undefined;
}
