import { changeKey } from '../conditions/node.ts';
import { readFact, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { originFields } from '../contacts/fields.ts';
import { type Effect, type KeptValue } from '../ledger/effect.ts';
import { type Instant } from '../time/zone.ts';
import { type PassContext } from './pass-context.ts';
import { pinOf, putPin, samePin } from './pins.ts';
import { recordOwner, writeFact } from './recorded.ts';
import { SINCE_OTHERWISE, type Reversing, type Row, type TakenOf } from './taken.ts';

/** A value as the ledger stores it: a fact, or the text as written. */
export function written(context: PassContext, field: number, kept: KeptValue): WrittenFact | undefined {
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
  if (context.state.forgetChange(of, { at, from: to, to: from })) context.touch(`change:${of}`, effect);
  else context.changed(of, from, to, effect);
}

export function fieldBack(context: PassContext, entry: TakenOf<'field set' | 'field cleared'>, by: Reversing): string | undefined {
  const field = entry.definitionId ?? -1;
  const made = written(context, field, entry.after);
  if (!sameFact(context.state.facts.get(field), made?.fact)) return SINCE_OTHERWISE;
  const before = written(context, field, entry.before);
  const key = context.compiled.catalogue.get('field', field)?.key;
  // It stands in more than the fact, and is corrected on its own.
  if (key === 'email') return 'it is what the contact is known by';
  // Who was added stays, and with them when that was, and how they came.
  if (key === 'added' || originFields.some((each) => each.key === key)) return undefined;
  putField(context, field, before, entry, by);
  return undefined;
}

/** An increase is taken back by subtracting it, even if more was added since. */
export function increaseBack(context: PassContext, entry: TakenOf<'field increased'>, by: Reversing): string | undefined {
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

export function stageBack(
  context: PassContext,
  { at, before, after }: TakenOf<'stage set' | 'stage cleared'>,
  by: Reversing,
): string | undefined {
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

export function ownerBack(
  context: PassContext,
  { at, before, after }: TakenOf<'owner set' | 'owner cleared'>,
  by: Reversing,
): string | undefined {
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
export function listBack(context: PassContext, entry: TakenOf<'membership joined' | 'membership left'>, by: Reversing): string | undefined {
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
    // What was done again let them go before.
    state.forgetStay(list, Math.min(at, state.leavings.get(list) ?? at));
  }
  const effect = context.record({ kind: 'membership', verb: entry.verb === 'joined' ? 'left' : 'joined', definitionId: list, ...by });
  context.touch(`audience:${list}`, effect);
  return undefined;
}

export function pinBack(
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

export function pointsBack(
  context: PassContext,
  { definitionId, after: { ref, points } }: TakenOf<'points given'>,
  by: Reversing,
): string | undefined {
  const given = context.state.points.get(ref);
  if (!given) return 'its points have gone since';
  context.state.drop('points', ref);
  const effect = context.record({ kind: 'points', verb: 'taken back', definitionId, before: { points, given }, ...by });
  context.touch(`points:${definitionId ?? -1}`, effect);
  return undefined;
}
