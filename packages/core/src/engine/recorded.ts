import { holds } from '../conditions/evaluate/holds.ts';
import { changeKey } from '../conditions/node.ts';
import { type DealPatch } from '../contacts/deals.ts';
import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { recordedValue } from '../contacts/changes.ts';
import { standsAs } from '../contacts/replaced.ts';
import { optionOf, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { type StageBody } from '../rules/ladder.ts';
import { type Effect } from '../ledger/effect.ts';
import { type AudienceId, type FieldId, type RoutingId, type StageId, type TagId } from '../settings/ids.ts';
import { reasonKey, type TagReason } from '../tags/definition.ts';
import { addToDay, localDay, startOfDay, type Instant } from '../time/zone.ts';
import { type Change, type WhichReasons } from '../ledger/change.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { setPin } from './pins.ts';
import { dropDeal, putDeal } from './recorded-deals.ts';
import { type HeldTag } from './state.ts';

/** Makes one change of recorded state. What is already so is not written again. */
export function applyChange(context: PassContext, change: Change, by: EffectOrigin): void {
  const apply = APPLY[change.kind] as Apply<Change>;
  apply(context, change, by);
}

type Apply<Kind extends Change> = (context: PassContext, change: Kind, by: EffectOrigin) => void;

/** How each kind of change is made. */
const APPLY: { readonly [Kind in Change['kind']]: Apply<Extract<Change, { readonly kind: Kind }>> } = {
  field: (context, { field, value, increase = false, fills = false }, by) => {
    const now = value && standsAs(context.compiled.catalogue, field, value);
    const stored = now?.field ?? field;
    if (!fills || !context.state.facts.has(stored)) setField(context, stored, now?.value, increase, by);
  },
  tag: (context, change, by) =>
    change.add ? addTag(context, change.tag, change.reason, change.value, by) : removeTag(context, change.tag, change.reasons, by),
  consent: (context, { channel, state, at }, by) => setConsent(context, channel, state, at, by),
  stage: (context, { stage, backward }, by) => setStage(context, stage, backward, by),
  owner: (context, change, by) => setOwner(context, change, by),
  'nobody free': (context, { routing }, by) => {
    context.record({ kind: 'kept', verb: 'as it is', definitionId: routing, after: 'routing', ...by });
  },
  list: (context, { audience, on }, by) => setOnList(context, audience, on, by),
  pin: (context, { audience, pin }, by) => setPin(context, audience, pin, by),
  'let on': (context, { rule }, by) => {
    if (!context.state.suspendedRules.has(rule)) return;
    context.state.drop('suspendedRules', rule);
    context.record({ kind: 'firing', verb: 'let on', definitionId: rule, ...by });
  },
  company: setCompany,
  deal: (context, { deal }, by) => {
    const moved = putDeal(context, deal, by);
    const isThere = (one: Pick<DealPatch, 'pipeline' | 'stage'>): boolean => one.pipeline === deal.pipeline && one.stage === deal.stage;
    if (moved) keepInStep(context, ({ deals }) => deals?.some(isThere) ?? false, { ...by, parent: moved });
  },
  'deal gone': (context, { deal }, by) => dropDeal(context, deal, by),
  task: (context, { title, due, for: whom }, by) => {
    const assigned = whom === undefined ? context.state.owner : (whom ?? undefined);
    context.record({ kind: 'task', verb: 'made', definitionId: undefined, workItem: { what: 'task', title, due, for: assigned }, ...by });
  },
};

function setField(context: PassContext, field: FieldId, value: WrittenFact | undefined, increase: boolean, by: EffectOrigin): void {
  const { state } = context;
  const before = state.facts.get(field);
  if (sameFact(before, value?.fact) && state.shown.get(field) === value?.shown) return;
  const { effect, from, to } = writeFact(context, field, value, increase ? 'increased' : 'set', by);
  // Written differently but equal in meaning: no condition can tell the difference.
  if (sameFact(before, value?.fact)) return;
  context.changed(changeKey('field', field), from, to, effect);
  const body = context.compiled.stepFields.has(field) ? context.compiled.catalogue.body('field', field) : undefined;
  if (!body) return;
  const isIt = (one: NonNullable<StageBody['facts']>[number]): boolean => one.field === field && optionOf(body, one.value) === value?.fact;
  keepInStep(context, ({ facts }) => facts?.some(isIt) ?? false, { ...by, parent: effect });
}

/** Replaces or removes a fact and records the effect. Histories are up to the caller. */
export function writeFact(
  context: PassContext,
  field: FieldId,
  value: WrittenFact | undefined,
  verb: 'set' | 'increased',
  by: EffectOrigin,
): { readonly effect: Effect; readonly from: string | null; readonly to: string | null } {
  const { state } = context;
  const [before, shownBefore] = [state.facts.get(field), state.shown.get(field)];
  if (value === undefined) {
    state.drop('facts', field);
    state.shown.delete(field);
  } else {
    state.put('facts', field, value.fact);
    if (value.shown === undefined) state.shown.delete(field);
    else state.shown.set(field, value.shown);
  }
  const values = { before: shownBefore ?? before ?? null, after: value?.shown ?? value?.fact ?? null };
  const told = { kind: 'field', definitionId: field, ...values, ...by } as const;
  const effect =
    value === undefined
      ? context.record({ ...told, verb: 'cleared' })
      : verb === 'set'
        ? context.record({ ...told, verb: 'set' })
        : context.record({ ...told, verb: 'increased' });
  context.touch(`field:${field}`, effect);
  const text = (fact: WrittenFact['fact'] | undefined): string | null => (fact === undefined ? null : recordedValue(fact));
  return { effect, from: text(before), to: text(value?.fact) };
}

function addTag(context: PassContext, tag: TagId, reason: TagReason, value: number | undefined, by: EffectOrigin): void {
  const { state, now } = context;
  const held = state.tags.get(tag);
  const known = held?.reasons.some((each) => reasonKey(each) === reasonKey(reason)) ?? false;
  const newValue = value !== undefined && value !== held?.value;
  if (held && known && !newValue) return;
  state.put('tags', tag, {
    since: held?.since ?? now,
    reasons: known ? (held?.reasons ?? []) : [...(held?.reasons ?? []), reason],
    value: value ?? held?.value,
  });
  // A new value does not restart the tag. The old value is kept, because "had" asks for every value the tag ever had.
  if (held && newValue && held.value !== undefined) state.keepPast(tag, { since: held.since, until: now, value: held.value, went: false });
  if (!held || !known) {
    const given = { kind: 'tag', definitionId: tag, after: { reason, ...(value === undefined ? {} : { value }) }, ...by } as const;
    const changed = held && newValue ? { before: { value: held.value ?? null } } : {};
    const effect = context.record(held ? { ...given, verb: 'reason added', ...changed } : { ...given, verb: 'added' });
    if (!held || newValue) context.touch(`tag:${tag}`, effect);
    if (!held) keepOneOfFamily(context, tag, by);
    return;
  }
  const effect = context.record({
    kind: 'tag',
    verb: 'valued',
    definitionId: tag,
    before: { value: held?.value ?? null },
    after: { value: value ?? null },
    ...by,
  });
  context.touch(`tag:${tag}`, effect);
}

/** In a family whose tags come one at a time, a new tag replaces the old one. */
function keepOneOfFamily(context: PassContext, tag: TagId, by: EffectOrigin): void {
  const { catalogue } = context.compiled;
  const family = catalogue.body('tag', tag)?.family;
  if (family === undefined || catalogue.body('family', family)?.many !== false) return;
  for (const other of [...context.state.tags.keys()]) {
    if (other !== tag && catalogue.body('tag', other)?.family === family) removeTag(context, other, 'all', by);
  }
}

const goes = (which: WhichReasons, reason: TagReason): boolean =>
  which === 'all' ||
  (which.kind === reason.kind &&
    ('ref' in which ? which.ref === reason.ref : reason.ref === which.begins || reason.ref.startsWith(`${which.begins}/`)));

/** Takes reasons away; with the last of them the tag goes. */
function removeTag(context: PassContext, tag: TagId, which: WhichReasons, by: EffectOrigin): void {
  const { state, now } = context;
  const held = state.tags.get(tag);
  if (!held) return;
  const left = held.reasons.filter((reason) => !goes(which, reason));
  if (left.length === held.reasons.length && left.length > 0) return;
  if (left.length > 0) {
    state.put('tags', tag, { ...held, reasons: left });
    const gone = held.reasons.filter((reason) => goes(which, reason));
    context.record({ kind: 'tag', verb: 'reason removed', definitionId: tag, before: { reasons: gone }, ...by });
    return;
  }
  state.drop('tags', tag);
  state.keepPast(tag, { since: held.since, until: now, value: held.value, went: true });
  const effect = context.record({ kind: 'tag', verb: 'removed', definitionId: tag, before: keptTag(held), ...by });
  context.touch(`tag:${tag}`, effect);
}

/** A tag that goes, as the ledger keeps it. */
export const keptTag = ({ reasons, since, value }: HeldTag) => ({ reasons, since, ...(value === undefined ? {} : { value }) });

function setConsent(context: PassContext, channel: ConsentChannel, wanted: ConsentState, at: Instant, by: EffectOrigin): void {
  const before = context.state.consent.get(channel);
  // The latest by time holds, whatever the order of arrival.
  if (before && before.at > at) return;
  context.state.put('consent', channel, { state: wanted, at });
  if (before?.state === wanted) return;
  const effect = context.record({
    kind: 'consent',
    verb: 'set',
    definitionId: undefined,
    channel,
    before: before?.state ?? 'unknown',
    after: wanted,
    ...by,
  });
  context.touch(`consent:${channel}`, effect);
}

/** Why a contact does not come to a stage that is ahead. What a file says of them is taken as it is. */
function heldBack(
  { compiled, state, moment, cause }: PassContext,
  stage: StageId | undefined,
  from: number,
  to: number,
): 'order' | 'needs' | undefined {
  if (stage === undefined || cause.kind === 'import') return undefined;
  if (compiled.catalogue.body('stage', stage)?.inOrder && to !== from + 1) return 'order';
  const needs = compiled.gates.get(stage);
  return needs && !holds(needs, state, moment) ? 'needs' : undefined;
}

/** Brings a contact to the last stage of the ladder that goes with what happened, if that is ahead. */
function keepInStep(context: PassContext, goesWith: (stage: StageBody) => boolean, by: EffectOrigin): void {
  const { state, compiled } = context;
  const ladder = compiled.catalogue.ladder();
  const wanted = ladder.findLastIndex(({ body }) => goesWith(body));
  const standing = ladder.findIndex(({ id }) => id === state.stage?.id);
  if (state.kind === 'contact' && wanted > standing) setStage(context, ladder[wanted]?.id, false, by);
}

/** Stages only go forward unless the change says otherwise. Stages jumped over are marked as skipped. */
function setStage(context: PassContext, stage: StageId | undefined, backward: boolean, by: EffectOrigin): void {
  const { state, now } = context;
  const before = state.stage;
  if (before?.id === stage) return;
  const ladder = context.compiled.catalogue.ladder().map((each) => each.id);
  const [from, to] = [before ? ladder.indexOf(before.id) : -1, stage === undefined ? -1 : ladder.indexOf(stage)];
  const held = to < from ? (backward ? undefined : 'stage') : heldBack(context, stage, from, to);
  if (held) {
    context.record({ kind: 'kept', verb: 'as it is', definitionId: stage, after: held, ...by });
    return;
  }
  state.stage = stage === undefined ? undefined : { id: stage, since: now };
  state.changedLinks.add('stage');
  const skipped = ladder.slice(from + 1, Math.max(from + 1, to));
  const effect = context.record({
    kind: 'stage',
    verb: stage === undefined ? 'cleared' : 'set',
    definitionId: stage ?? before?.id,
    before: before ? { stage: before.id, since: before.since } : null,
    after: { stage: stage ?? null, ...(skipped.length > 0 ? { skipped } : {}) },
    ...by,
  });
  context.touch('stage', effect);
  context.changed('stage', before ? String(before.id) : null, stage === undefined ? null : String(stage), effect);
}

function setOwner(context: PassContext, { owner, replace, routing }: Extract<Change, { kind: 'owner' }>, by: EffectOrigin): void {
  const { state } = context;
  const before = state.owner;
  if (before === owner) return;
  if (before !== undefined && !replace) {
    context.record({ kind: 'kept', verb: 'as it is', definitionId: undefined, after: 'owner', ...by });
    return;
  }
  state.owner = owner;
  state.changedLinks.add('owner');
  const effect = recordOwner(context, before, by);
  context.changed('owner', before ?? null, owner ?? null, effect);
  if (routing !== undefined) tellOwner(context, routing, effect, by);
}

/** Makes the task and sends the notice that a routing table has for whoever gets a contact. */
function tellOwner(context: PassContext, routing: RoutingId, parent: Effect, by: EffectOrigin): void {
  const { task, notice } = context.compiled.routing.get(routing)?.body ?? {};
  const { owner } = context.state;
  const told = { definitionId: undefined, verb: 'made', ...by, parent } as const;
  if (task)
    context.record({ kind: 'task', workItem: { what: 'task', title: task.title, due: dueIn(context, task.dueDays), for: owner }, ...told });
  if (notice !== undefined) context.record({ kind: 'notice', workItem: { what: 'notice', text: notice, to: owner }, ...told });
}

/** The last instant of the day on which something is due. */
export function dueIn(context: PassContext, days: number): Instant {
  const { zone } = context.moment;
  return startOfDay(addToDay(localDay(context.now, zone), days, 'days') + 1, zone) - 1;
}

/** Records that the owner is now another one, or none. */
export function recordOwner(context: PassContext, before: string | undefined, by: EffectOrigin): Effect {
  const { owner } = context.state;
  const told = { kind: 'owner', definitionId: undefined, before: before ?? null, ...by } as const;
  const effect = context.record(owner ? { ...told, verb: 'set', after: owner } : { ...told, verb: 'cleared', after: null });
  context.touch('owner', effect);
  return effect;
}

function setOnList(context: PassContext, audience: AudienceId, on: boolean, by: EffectOrigin): void {
  const { state, now } = context;
  // A live audience keeps itself: nothing else puts anyone on it.
  if (context.compiled.catalogue.body('audience', audience)?.kind !== 'fixed' || state.memberships.has(audience) === on) return;
  const since = state.memberships.get(audience)?.since;
  if (on) state.join(audience, now);
  else state.leave(audience, now);
  const effect = context.record({
    kind: 'membership',
    verb: on ? 'joined' : 'left',
    definitionId: audience,
    ...(since === undefined ? {} : { before: { since } }),
    ...by,
  });
  context.touch(`audience:${audience}`, effect);
}

function setCompany(context: PassContext, { company, facts }: Extract<Change, { kind: 'company' }>, by: EffectOrigin): void {
  const { state } = context;
  if (state.company === company) return;
  for (const each of [state.company, company]) if (each !== undefined) state.companiesTouched.add(each);
  const before = state.company;
  state.company = company;
  state.companyFacts = facts;
  state.changedLinks.add('company');
  const told = { kind: 'company', definitionId: undefined, before: before ?? null, ...by } as const;
  const effect = context.record(
    company === undefined ? { ...told, verb: 'cleared', after: null } : { ...told, verb: 'set', after: company },
  );
  context.touch('company', effect);
}
