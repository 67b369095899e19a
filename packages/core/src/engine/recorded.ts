import { changeKey } from '../conditions/node.ts';
import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { recordedValue } from '../contacts/changes.ts';
import { patched, type Deal, type DealPatch } from '../contacts/deals.ts';
import { sameFact, type WrittenFact } from '../contacts/facts.ts';
import { type Effect, type SentSignal } from '../ledger/effect.ts';
import { moneyText } from '../numbers/money.ts';
import { type AudienceId, type DealId, type FieldId, type StageId, type TagId } from '../settings/ids.ts';
import { reasonKey, type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type Change, type WhichReasons } from '../ledger/change.ts';
import { type By, type Passing } from './pass-context.ts';
import { setPin } from './pins.ts';
import { type HeldTag } from './state.ts';

/** Makes one change of recorded state, if it is one: what is so already is not written again. */
export function applyChange(passing: Passing, change: Change, by: By): void {
  const apply = APPLY[change.kind] as Apply<Change>;
  apply(passing, change, by);
}

type Apply<Kind extends Change> = (passing: Passing, change: Kind, by: By) => void;

/** How each kind of change is made. */
const APPLY: { readonly [Kind in Change['kind']]: Apply<Extract<Change, { readonly kind: Kind }>> } = {
  field: (passing, { field, value, increase = false }, by) => setField(passing, field, value, increase, by),
  tag: (passing, change, by) =>
    change.add ? addTag(passing, change.tag, change.reason, change.value, by) : removeTag(passing, change.tag, change.reasons, by),
  consent: (passing, { channel, state, at }, by) => setConsent(passing, channel, state, at, by),
  stage: (passing, { stage, backward }, by) => setStage(passing, stage, backward, by),
  owner: (passing, { owner, replace }, by) => setOwner(passing, owner, replace, by),
  list: (passing, { audience, on }, by) => setOnList(passing, audience, on, by),
  pin: (passing, { audience, pin }, by) => setPin(passing, audience, pin, by),
  'let on': (passing, { rule }, by) => {
    if (!passing.state.held.has(rule)) return;
    passing.state.drop('held', rule);
    passing.record({ kind: 'firing', verb: 'let on', thing: rule, ...by });
  },
  company: setCompany,
  deal: (passing, { deal }, by) => putDeal(passing, deal, by),
  'deal gone': (passing, { deal }, by) => dropDeal(passing, deal, by),
  task: (passing, { title, due, for: whom }, by) => {
    const assigned = whom === undefined ? passing.state.owner : (whom ?? undefined);
    passing.record({ kind: 'task', verb: 'made', thing: undefined, makes: { what: 'task', title, due, for: assigned }, ...by });
  },
};

function setField(passing: Passing, field: FieldId, value: WrittenFact | undefined, increase: boolean, by: By): void {
  const { state } = passing;
  const before = state.facts.get(field);
  if (sameFact(before, value?.fact) && state.shown.get(field) === value?.shown) return;
  const { effect, from, to } = writeFact(passing, field, value, increase ? 'increased' : 'set', by);
  // Written otherwise, but meaning the same: nothing that is asked of it has changed.
  if (!sameFact(before, value?.fact)) passing.changed(changeKey('field', field), from, to, effect);
}

/** Puts a fact in the place of what was there, or takes it away, and records that; what it means to histories is the caller's. */
export function writeFact(
  passing: Passing,
  field: FieldId,
  value: WrittenFact | undefined,
  verb: 'set' | 'increased',
  by: By,
): { readonly effect: Effect; readonly from: string | null; readonly to: string | null } {
  const { state } = passing;
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
  const told = { kind: 'field', thing: field, ...values, ...by } as const;
  const effect =
    value === undefined
      ? passing.record({ ...told, verb: 'cleared' })
      : verb === 'set'
        ? passing.record({ ...told, verb: 'set' })
        : passing.record({ ...told, verb: 'increased' });
  passing.touch(`field:${field}`, effect);
  const text = (fact: WrittenFact['fact'] | undefined): string | null => (fact === undefined ? null : recordedValue(fact));
  return { effect, from: text(before), to: text(value?.fact) };
}

function addTag(passing: Passing, tag: TagId, reason: TagReason, value: number | undefined, by: By): void {
  const { state, now } = passing;
  const held = state.tags.get(tag);
  const known = held?.reasons.some((each) => reasonKey(each) === reasonKey(reason)) ?? false;
  const newValue = value !== undefined && value !== held?.value;
  if (held && known && !newValue) return;
  state.put('tags', tag, {
    since: held?.since ?? now,
    reasons: known ? (held?.reasons ?? []) : [...(held?.reasons ?? []), reason],
    value: value ?? held?.value,
  });
  // A new value does not restart the tag, but what it was is kept: "had" asks for every value that there ever was.
  if (held && newValue && held.value !== undefined) state.keepPast(tag, { since: held.since, until: now, value: held.value, went: false });
  if (!held || !known) {
    const given = { kind: 'tag', thing: tag, after: { reason, ...(value === undefined ? {} : { value }) }, ...by } as const;
    const changed = held && newValue ? { before: { value: held.value ?? null } } : {};
    const effect = passing.record(held ? { ...given, verb: 'reason added', ...changed } : { ...given, verb: 'added' });
    if (!held || newValue) passing.touch(`tag:${tag}`, effect);
    if (!held) keepOneOfFamily(passing, tag, by);
    return;
  }
  const effect = passing.record({
    kind: 'tag',
    verb: 'valued',
    thing: tag,
    before: { value: held?.value ?? null },
    after: { value: value ?? null },
    ...by,
  });
  passing.touch(`tag:${tag}`, effect);
}

/** Of a family whose tags come one at a time, the new one takes the place of the old. */
function keepOneOfFamily(passing: Passing, tag: TagId, by: By): void {
  const { catalogue } = passing.compiled;
  const family = catalogue.body('tag', tag)?.family;
  if (family === undefined || catalogue.body('family', family)?.many !== false) return;
  for (const other of [...passing.state.tags.keys()]) {
    if (other !== tag && catalogue.body('tag', other)?.family === family) removeTag(passing, other, 'all', by);
  }
}

const goes = (which: WhichReasons, reason: TagReason): boolean =>
  which === 'all' ||
  (which.kind === reason.kind &&
    ('ref' in which ? which.ref === reason.ref : reason.ref === which.begins || reason.ref.startsWith(`${which.begins}/`)));

/** Takes reasons away; with the last of them the tag goes. */
function removeTag(passing: Passing, tag: TagId, which: WhichReasons, by: By): void {
  const { state, now } = passing;
  const held = state.tags.get(tag);
  if (!held) return;
  const left = held.reasons.filter((reason) => !goes(which, reason));
  if (left.length === held.reasons.length && left.length > 0) return;
  if (left.length > 0) {
    state.put('tags', tag, { ...held, reasons: left });
    const gone = held.reasons.filter((reason) => goes(which, reason));
    passing.record({ kind: 'tag', verb: 'reason removed', thing: tag, before: { reasons: gone }, ...by });
    return;
  }
  state.drop('tags', tag);
  state.keepPast(tag, { since: held.since, until: now, value: held.value, went: true });
  const effect = passing.record({ kind: 'tag', verb: 'removed', thing: tag, before: keptTag(held), ...by });
  passing.touch(`tag:${tag}`, effect);
}

/** A tag that goes, as the ledger keeps it. */
export const keptTag = ({ reasons, since, value }: HeldTag) => ({ reasons, since, ...(value === undefined ? {} : { value }) });

function setConsent(passing: Passing, channel: ConsentChannel, wanted: ConsentState, at: Instant, by: By): void {
  const before = passing.state.consent.get(channel);
  // The latest by time holds, whatever the order of arrival.
  if (before && before.at > at) return;
  passing.state.put('consent', channel, { state: wanted, at });
  if (before?.state === wanted) return;
  const effect = passing.record({
    kind: 'consent',
    verb: 'set',
    thing: undefined,
    channel,
    before: before?.state ?? 'unknown',
    after: wanted,
    ...by,
  });
  passing.touch(`consent:${channel}`, effect);
}

/** Stages go forward only, unless said; the steps jumped over are marked as skipped. */
function setStage(passing: Passing, stage: StageId | undefined, backward: boolean, by: By): void {
  const { state, now } = passing;
  const before = state.stage;
  if (before?.id === stage) return;
  const ladder = passing.compiled.catalogue.ladder().map((each) => each.id);
  const [from, to] = [before ? ladder.indexOf(before.id) : -1, stage === undefined ? -1 : ladder.indexOf(stage)];
  if (to < from && !backward) {
    passing.record({ kind: 'kept', verb: 'as it is', thing: stage, after: 'stage', ...by });
    return;
  }
  state.stage = stage === undefined ? undefined : { id: stage, since: now };
  state.changedLinks.add('stage');
  const skipped = ladder.slice(from + 1, Math.max(from + 1, to));
  const effect = passing.record({
    kind: 'stage',
    verb: stage === undefined ? 'cleared' : 'set',
    thing: stage ?? before?.id,
    before: before ? { stage: before.id, since: before.since } : null,
    after: { stage: stage ?? null, ...(skipped.length > 0 ? { skipped } : {}) },
    ...by,
  });
  passing.touch('stage', effect);
  passing.changed('stage', before ? String(before.id) : null, stage === undefined ? null : String(stage), effect);
}

function setOwner(passing: Passing, owner: string | undefined, replace: boolean, by: By): void {
  const { state } = passing;
  const before = state.owner;
  if (before === owner) return;
  if (before !== undefined && !replace) {
    passing.record({ kind: 'kept', verb: 'as it is', thing: undefined, after: 'owner', ...by });
    return;
  }
  state.owner = owner;
  state.changedLinks.add('owner');
  const effect = recordOwner(passing, before, by);
  passing.changed('owner', before ?? null, owner ?? null, effect);
}

/** Records that the owner is now another one, or none. */
export function recordOwner(passing: Passing, before: string | undefined, by: By): Effect {
  const { owner } = passing.state;
  const told = { kind: 'owner', thing: undefined, before: before ?? null, ...by } as const;
  const effect = passing.record(owner ? { ...told, verb: 'set', after: owner } : { ...told, verb: 'cleared', after: null });
  passing.touch('owner', effect);
  return effect;
}

function setOnList(passing: Passing, audience: AudienceId, on: boolean, by: By): void {
  const { state, now } = passing;
  // A live audience keeps itself: nothing else puts anyone on it.
  if (passing.compiled.catalogue.body('audience', audience)?.kind !== 'fixed' || state.memberships.has(audience) === on) return;
  const since = state.memberships.get(audience)?.since;
  if (on) state.join(audience, now);
  else state.leave(audience, now);
  const effect = passing.record({
    kind: 'membership',
    verb: on ? 'joined' : 'left',
    thing: audience,
    ...(since === undefined ? {} : { before: { since } }),
    ...by,
  });
  passing.touch(`audience:${audience}`, effect);
}

function setCompany(passing: Passing, { company, facts }: Extract<Change, { kind: 'company' }>, by: By): void {
  const { state } = passing;
  if (state.company === company) return;
  for (const each of [state.company, company]) if (each !== undefined) state.companiesTouched.add(each);
  const before = state.company;
  state.company = company;
  state.companyFacts = facts;
  state.changedLinks.add('company');
  const told = { kind: 'company', thing: undefined, before: before ?? null, ...by } as const;
  const effect = passing.record(
    company === undefined ? { ...told, verb: 'cleared', after: null } : { ...told, verb: 'set', after: company },
  );
  passing.touch('company', effect);
}

function putDeal(passing: Passing, patch: DealPatch, by: By): void {
  const { state, now } = passing;
  const before = state.deals.get(patch.id);
  const deal = patched(before, patch, now);
  if (before && sameDeal(before, deal)) return;
  for (const company of [before?.company, deal.company]) if (company !== undefined) state.companiesTouched.add(company);
  state.putDeal(deal, passing.compiled.catalogue);
  const summary = ({ stage, amount }: Deal) => ({ stage, amount: amount ?? null });
  const sends = dealSignal(passing, before, deal);
  const told = {
    kind: 'deal',
    thing: deal.pipeline,
    channel: deal.outsideId,
    after: summary(deal),
    ...(sends ? { sends } : {}),
    ...by,
  } as const;
  const effect = passing.record(before ? { ...told, verb: 'set', before: summary(before) } : { ...told, verb: 'added' });
  passing.touch('deals', effect);
}

function dropDeal(passing: Passing, id: DealId, by: By): void {
  const gone = passing.state.deals.get(id);
  if (!gone) return;
  if (gone.company !== undefined) passing.state.companiesTouched.add(gone.company);
  passing.state.dropDeal(id);
  const effect = passing.record({ kind: 'deal', verb: 'removed', thing: undefined, channel: String(id), ...by });
  passing.touch('deals', effect);
}

const sameDeal = (a: Deal, b: Deal): boolean =>
  a.name === b.name &&
  a.pipeline === b.pipeline &&
  a.stage === b.stage &&
  a.amount === b.amount &&
  a.company === b.company &&
  a.facts.size === b.facts.size &&
  [...a.facts].every(([field, fact]) => sameFact(fact, b.facts.get(field)));

/** That a deal was opened, went on, was won or lost is also something that happened to its contact. */
function dealSignal({ compiled, state }: Passing, before: Deal | undefined, deal: Deal): SentSignal | undefined {
  if (state.kind !== 'contact' || (before?.stage === deal.stage && before.pipeline === deal.pipeline)) return undefined;
  const { catalogue } = compiled;
  const outcome = catalogue.body('pipeline', deal.pipeline)?.stages.find((stage) => stage.key === deal.stage)?.outcome;
  const type = outcome === undefined ? (before ? 'deal.moved' : 'deal.opened') : outcome === 'won' ? 'deal.won' : 'deal.lost';
  const { currency } = catalogue.workspace;
  const data = {
    deal: deal.outsideId,
    ...(before ? { from: before.stage } : {}),
    stage: deal.stage,
    ...(deal.amount === undefined ? {} : { amount: moneyText(deal.amount, currency), currency }),
  };
  return { type, data };
}
