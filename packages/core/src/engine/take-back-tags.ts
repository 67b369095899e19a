import { reasonKey } from '../tags/definition.ts';
import { type PassContext } from './pass-context.ts';
import { applyChange, keptTag } from './recorded.ts';
import { type HeldTag } from './state.ts';
import { NEVER, SINCE_OTHERWISE, type Reversing, type TakenOf } from './taken.ts';

/** The firing no longer counts for how often its rule may run. */
export function firingBack(
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
export function firingsBack(
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
export function consentBack(context: PassContext, { channel, before, after }: TakenOf<'consent set'>, by: Reversing): string | undefined {
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
export function companyBack(context: PassContext, { before, after }: TakenOf<'company set'>, by: Reversing): string | undefined {
  if (context.state.company !== after) return SINCE_OTHERWISE;
  if (before !== null) return NEVER;
  applyChange(context, { kind: 'company', company: undefined, facts: undefined }, by);
  return undefined;
}

export function reasonBack(context: PassContext, entry: TakenOf<'tag added' | 'tag reason added'>, by: Reversing): string | undefined {
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
    if (valued && before.value !== null) state.forgetPast(tag, entry.at, held.since);
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
export function reasonsAgain(
  context: PassContext,
  entry: TakenOf<'tag removed' | 'tag reason removed'>,
  by: Reversing,
): string | undefined {
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
  state.forgetPast(tag, entry.at, gone.since);
  const [reason] = reasons;
  if (!reason) return undefined;
  const after = { reason, ...(again.value === undefined ? {} : { value: again.value }) };
  const effect = context.record({ kind: 'tag', verb: 'added', definitionId: tag, after, ...by });
  context.touch(`tag:${tag}`, effect);
  return undefined;
}

export function tagValueBack(
  context: PassContext,
  { definitionId: tag = -1, at, before, after }: TakenOf<'tag valued'>,
  by: Reversing,
): string | undefined {
  const { state } = context;
  const held = state.tags.get(tag);
  if (!held || (held.value ?? null) !== after.value) return SINCE_OTHERWISE;
  state.put('tags', tag, { ...held, value: before.value ?? undefined });
  // Only a value that was replaced has left a past.
  if (before.value !== null) state.forgetPast(tag, at, held.since);
  const values = { before: { value: held.value ?? null }, after: { value: before.value } };
  const effect = context.record({ kind: 'tag', verb: 'valued', definitionId: tag, ...values, ...by });
  context.touch(`tag:${tag}`, effect);
  return undefined;
}

export function pastBack(
  context: PassContext,
  { definitionId: tag = -1, after: { since, until } }: TakenOf<'past taken over'>,
  by: Reversing,
): string | undefined {
  context.state.forgetPast(tag, until, since);
  context.touch(`tag:${tag}`, context.record({ kind: 'past', verb: 'taken back', definitionId: tag, ...by }));
  return undefined;
}
