import { changeKey } from '../conditions/node.ts';
import { type PastTag } from '../contacts/subject.ts';
import { type RecordedChange } from '../contacts/changes.ts';
import { type DealId, type SignalId, type TagId } from '../settings/ids.ts';
import { reasonKey } from '../tags/definition.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { putPin } from './pins.ts';
import { applyChange, writeFact } from './recorded.ts';
import { type HeldTag, type SubjectState } from './state.ts';

/** What a merge took over that the ledger does not record, kept so that the two can be parted again. */
export interface MergeRecord {
  readonly signals: readonly SignalId[];
  readonly deals: readonly DealId[];
  readonly pastTags: readonly { readonly tag: TagId; readonly past: PastTag }[];
  readonly changes: readonly { readonly of: string; readonly change: RecordedChange }[];
  readonly marks: readonly string[];
}

/**
 * Takes over from another contact everything that is known of it. Of what there is one of, what this contact has stays; consent is the
 * latest by time, the stage the further one, firings the greater count. Nothing is set off by it.
 */
export function applyMerge(context: PassContext, other: SubjectState): MergeRecord {
  const { state } = context;
  const merged = context.record({
    kind: 'contact',
    verb: 'merged',
    definitionId: undefined,
    parent: undefined,
    after: { contact: other.id },
  });
  const by: EffectOrigin = { parent: merged };
  const signals = takeSignals(context, other);
  takeFacts(context, other, by);
  takeTags(context, other, by);
  takeStanding(context, other, by);
  takePins(context, other, by);
  takeRules(context, other, by);
  const latched = [...other.latchedLines].filter(([key]) => !state.latchedLines.has(key));
  for (const [key, since] of latched) state.put('latchedLines', key, since);
  const deals = [...other.deals.values()];
  for (const deal of deals) {
    state.putDeal(deal, context.compiled.catalogue);
    context.touch('deals', merged);
  }
  const pastTags = [...other.pastTags].flatMap(([tag, list]) => list.map((past) => ({ tag, past })));
  for (const { tag, past } of pastTags) {
    state.keepPast(tag, past);
    context.touch(`tag:${tag}`, merged);
  }
  const changes = [...other.changes].flatMap(([of, list]) => list.map((change) => ({ of, change })));
  for (const { of, change } of changes) {
    state.keepChange(of, change);
    context.touch(`change:${of}`, merged);
  }
  for (const [of] of other.changes) state.changes.get(of)?.sort((a, b) => a.at - b.at);
  return { signals, deals: deals.map((deal) => deal.id), pastTags, changes, marks: latched.map(([key]) => key) };
}

function takeSignals(context: PassContext, other: SubjectState): readonly SignalId[] {
  const taken: SignalId[] = [];
  for (const [type, list] of other.signals) {
    for (const signal of list) if (context.state.addSignal(signal)) taken.push(signal.id);
    context.touch(`signal:${type}`, undefined);
  }
  return taken;
}

function takeFacts(context: PassContext, other: SubjectState, by: EffectOrigin): void {
  const { state } = context;
  for (const [field, fact] of other.facts) {
    if (state.facts.has(field)) continue;
    const shown = other.shown.get(field);
    const { effect, from, to } = writeFact(context, field, shown === undefined ? { fact } : { fact, shown }, 'set', by);
    context.changed(changeKey('field', field), from, to, effect);
  }
  for (const [channel, consent] of other.consent) {
    const before = state.consent.get(channel);
    if (before && before.at >= consent.at) continue;
    state.put('consent', channel, consent);
    const effect = context.record({
      kind: 'consent',
      verb: 'set',
      definitionId: undefined,
      channel,
      before: before ?? null,
      after: consent.state,
      ...by,
    });
    context.touch(`consent:${channel}`, effect);
  }
}

function takeTags(context: PassContext, other: SubjectState, by: EffectOrigin): void {
  const { state } = context;
  const { catalogue } = context.compiled;
  for (const [tag, theirs] of other.tags) {
    const family = catalogue.body('tag', tag)?.family;
    const single = family !== undefined && catalogue.body('family', family)?.many === false;
    // Of tags that come one at a time this contact keeps its own.
    if (single && !state.tags.has(tag) && [...state.tags.keys()].some((each) => catalogue.body('tag', each)?.family === family)) continue;
    takeOverTag(context, tag, theirs, by);
  }
}

/** Gives a tag for all the reasons for which another is held, and as old as that one is where it is older. */
export function takeOverTag(context: PassContext, tag: TagId, theirs: HeldTag, by: EffectOrigin): void {
  const { state } = context;
  for (const reason of theirs.reasons) {
    const held = state.tags.get(tag);
    if (held?.reasons.some((each) => reasonKey(each) === reasonKey(reason))) continue;
    const since = Math.min(held?.since ?? theirs.since, theirs.since);
    const value = held?.value ?? theirs.value;
    state.put('tags', tag, { since, reasons: [...(held?.reasons ?? []), reason], value });
    const given = { kind: 'tag', definitionId: tag, after: { reason, ...(value === undefined ? {} : { value }) }, ...by } as const;
    const effect = context.record(
      held ? { ...given, verb: 'reason added', before: { value: held.value ?? null, since: held.since } } : { ...given, verb: 'added' },
    );
    context.touch(`tag:${tag}`, effect);
  }
}

/** Stage, owner, company, fixed lists. */
function takeStanding(context: PassContext, other: SubjectState, by: EffectOrigin): void {
  const { state } = context;
  const ladder = context.compiled.catalogue.ladder().map((stage) => stage.id);
  const place = (id: number | undefined): number => (id === undefined ? -1 : ladder.indexOf(id));
  if (other.stage && place(other.stage.id) > place(state.stage?.id)) {
    const before = state.stage ?? null;
    state.stage = other.stage;
    state.changedLinks.add('stage');
    const effect = context.record({
      kind: 'stage',
      verb: 'set',
      definitionId: other.stage.id,
      before: before ? { stage: before.id, since: before.since } : null,
      after: { stage: other.stage.id },
      ...by,
    });
    context.touch('stage', effect);
    context.changed('stage', before ? String(before.id) : null, String(other.stage.id), effect);
  }
  if (other.owner !== undefined) applyChange(context, { kind: 'owner', owner: state.owner ?? other.owner, replace: false }, by);
  if (state.company === undefined && other.company !== undefined)
    applyChange(context, { kind: 'company', company: other.company, facts: other.companyFacts }, by);
  for (const [list, membership] of other.memberships) {
    if (context.compiled.catalogue.body('audience', list)?.kind !== 'fixed' || state.memberships.has(list)) continue;
    state.join(list, membership.since);
    const effect = context.record({ kind: 'membership', verb: 'joined', definitionId: list, after: { since: membership.since }, ...by });
    context.touch(`audience:${list}`, effect);
  }
}

/** Pins of either contact apply to both; if they disagree, the pin of the surviving contact wins. */
function takePins(context: PassContext, other: SubjectState, by: EffectOrigin): void {
  for (const [audience, pin] of other.pins) if (!context.state.pins.has(audience)) putPin(context, audience, pin, by);
}

/** How often rules ran, and the points that they gave. */
function takeRules(context: PassContext, other: SubjectState, by: EffectOrigin): void {
  const { state } = context;
  for (const [rule, theirs] of other.firings) {
    const before = state.firings.get(rule);
    if (before && before.times >= theirs.times && before.lastAt >= theirs.lastAt) continue;
    const after = { times: Math.max(before?.times ?? 0, theirs.times), lastAt: Math.max(before?.lastAt ?? 0, theirs.lastAt) };
    state.put('firings', rule, after);
    context.record({ kind: 'firing', verb: 'merged', definitionId: rule, before: before ?? null, after, ...by });
  }
  for (const [rule, since] of other.suspendedRules) if (!state.suspendedRules.has(rule)) state.put('suspendedRules', rule, since);
  for (const [ref, given] of other.points) {
    const key = `${other.id}/${ref}`;
    state.put('points', key, given);
    const effect = context.record({
      kind: 'points',
      verb: 'given',
      definitionId: given.scorecard,
      after: { points: given.points / 1_000, ref: key, at: new Date(given.at).toISOString() },
      ...by,
    });
    context.touch(`points:${given.scorecard}`, effect);
  }
}

/** Removes again what the merge took over without effects. Its effects are taken back separately. */
export function undoMerge(context: PassContext, taken: MergeRecord): void {
  const { state } = context;
  for (const { typeId } of state.removeSignals(new Set(taken.signals))) context.touch(`signal:${typeId}`, undefined);
  for (const id of taken.deals) {
    if (!state.deals.has(id)) continue;
    state.dropDeal(id);
    context.touch('deals', undefined);
  }
  for (const { tag, past } of taken.pastTags) {
    state.forgetPast(tag, past.until, past.since);
    context.touch(`tag:${tag}`, undefined);
  }
  for (const { of, change } of taken.changes) {
    const list = state.changes.get(of) ?? [];
    const index = list.findIndex((each) => each.at === change.at && each.from === change.from && each.to === change.to);
    if (index >= 0) list.splice(index, 1);
    state.forgotten.changes.push({ of, change });
    context.touch(`change:${of}`, undefined);
  }
  for (const key of taken.marks) state.drop('latchedLines', key);
}
