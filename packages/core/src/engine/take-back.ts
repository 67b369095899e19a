import { holds } from '../conditions/evaluate/holds.ts';
import { changeKey } from '../conditions/node.ts';
import { readFact, sameFact, type WrittenFact } from '../contacts/facts.ts';
import { type Effect } from '../ledger/effect.ts';
import { reasonKey, type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type ConsentChannel, type ConsentState } from '../conditions/schema.ts';
import { markKey } from './derive.ts';
import { type By, type Passing } from './passing.ts';
import { pinOf, putPin, samePin } from './pins.ts';
import { applyChange, writeFact } from './recorded.ts';
import { dealView, type HeldTag } from './state.ts';

/** A row of the ledger that is to be taken back; of a field, `before` and `after` are its values. */
export interface TakenEntry {
  readonly id: number;
  readonly kind: string;
  readonly verb: string;
  readonly thing: number | undefined;
  readonly channel?: string | undefined;
  readonly at: Instant;
  readonly before: unknown;
  readonly after: unknown;
}

/** What stays although it was to be taken back, and why. */
export interface Stays {
  readonly entry: number;
  readonly why: string;
}

const SINCE_OTHERWISE = 'it has been changed since';
const part = (value: unknown, name: string): unknown =>
  typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[name] : undefined;

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
  const by: By & { reverses: number } = { parent: undefined, reverses: entry.id };
  switch (`${entry.kind} ${entry.verb}`) {
    case 'firing fired':
      return firingBack(passing, entry, by);
    case 'firing circling':
      passing.state.drop('held', entry.thing ?? -1);
      return undefined;
    case 'tag added':
    case 'tag reason added':
      return reasonBack(passing, entry, by);
    case 'tag removed':
    case 'tag reason removed':
      return reasonsAgain(passing, entry, by);
    case 'tag valued':
      return tagValueBack(passing, entry, by);
    case 'field set':
    case 'field cleared':
      return fieldBack(passing, entry, by);
    case 'field increased':
      return increaseBack(passing, entry, by);
    case 'stage set':
    case 'stage cleared':
      return stageBack(passing, entry, by);
    case 'owner set':
    case 'owner cleared':
      return ownerBack(passing, entry, by);
    case 'membership joined':
    case 'membership left':
      return listBack(passing, entry, by);
    case 'pin set':
    case 'pin cleared':
      return pinBack(passing, entry, by);
    case 'points given':
      return pointsBack(passing, entry, by);
    case 'task made':
    case 'notice made':
      passing.record({ kind: entry.kind as 'task', verb: 'taken back', thing: undefined, ...by });
      return undefined;
    // Of others their own ledgers tell; what is worked out follows by itself.
    case 'asked sent':
    case 'band crossed':
      return undefined;
    case 'firing merged':
      return firingsBack(passing, entry, by);
    case 'company set':
      return companyBack(passing, entry, by);
    case 'contact merged':
      return undefined;
    case 'consent set':
      if (isTakenOver(entry.before)) return consentBack(passing, entry, by);
      return 'consent is only given and withdrawn by the person themselves';
    case 'contact added':
    case 'company added':
      return 'who was added stays';
    default:
      return ['refused', 'missed', 'as it is', 'taken back'].includes(entry.verb) ? undefined : 'it cannot be taken back';
  }
}

type Reversing = By & { readonly reverses: number };

/** The firing no longer counts for how often its rule may run. */
function firingBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const rule = entry.thing ?? -1;
  const firing = passing.state.firings.get(rule);
  if (firing && firing.times > 1) {
    const earlier = part(entry.before, 'lastAt');
    const lastAt = firing.lastAt === entry.at && typeof earlier === 'number' ? earlier : firing.lastAt;
    passing.state.put('firings', rule, { times: firing.times - 1, lastAt });
  } else passing.state.drop('firings', rule);
  passing.record({ kind: 'firing', verb: 'taken back', thing: entry.thing, ...by });
  return undefined;
}

/** A merge took over how often a rule had run. */
function firingsBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const rule = entry.thing ?? -1;
  const [times, lastAt] = [part(entry.before, 'times'), part(entry.before, 'lastAt')];
  if (typeof times === 'number' && typeof lastAt === 'number') passing.state.put('firings', rule, { times, lastAt });
  else passing.state.drop('firings', rule);
  passing.record({ kind: 'firing', verb: 'taken back', thing: entry.thing, ...by });
  return undefined;
}

/** Consent that was taken over in a merge says in full what was there before; what a person gave is a word of its own. */
const isTakenOver = (before: unknown): boolean => before === null || typeof before === 'object';

function consentBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const channel = entry.channel as ConsentChannel;
  const now = passing.state.consent.get(channel);
  if (!now || now.state !== entry.after) return SINCE_OTHERWISE;
  const [earlier, at] = [part(entry.before, 'state'), part(entry.before, 'at')];
  if (typeof earlier === 'string' && typeof at === 'number') passing.state.put('consent', channel, { state: earlier as ConsentState, at });
  else passing.state.drop('consent', channel);
  const after = typeof earlier === 'string' ? earlier : 'unknown';
  const effect = passing.record({ kind: 'consent', verb: 'set', thing: undefined, channel, before: now.state, after, ...by });
  passing.touch(`consent:${channel}`, effect);
  return undefined;
}

/** Only where there was no company before: what is known of another one is not at hand. */
function companyBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  if (passing.state.company !== entry.after) return SINCE_OTHERWISE;
  if (entry.before !== null && entry.before !== undefined) return 'it cannot be taken back';
  applyChange(passing, { kind: 'company', company: undefined, facts: undefined }, by);
  return undefined;
}

function reasonBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  const tag = entry.thing ?? -1;
  const reason = part(entry.after, 'reason') as TagReason | undefined;
  const held = state.tags.get(tag);
  const there = reason && held?.reasons.some((each) => reasonKey(each) === reasonKey(reason));
  if (!held || !reason || !there) return 'the tag no longer stands for that reason';
  const reasons = held.reasons.filter((each) => reasonKey(each) !== reasonKey(reason));
  if (reasons.length > 0) {
    const valued = entry.before !== null && entry.before !== undefined && held.value === part(entry.after, 'value');
    const before = part(entry.before, 'value');
    const value = valued ? (typeof before === 'number' ? before : undefined) : held.value;
    const since = part(entry.before, 'since');
    state.put('tags', tag, { since: typeof since === 'number' ? since : held.since, reasons, value });
    if (valued) state.forgetPast(tag, entry.at);
    const effect = passing.record({ kind: 'tag', verb: 'reason removed', thing: tag, before: { reasons: [reason] }, ...by });
    if (valued) passing.touch(`tag:${tag}`, effect);
    return undefined;
  }
  state.drop('tags', tag);
  const effect = passing.record({ kind: 'tag', verb: 'removed', thing: tag, before: { ...held }, ...by });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

/** Puts reasons back that were taken away; where the tag went with them, it stands again as if it had never gone. */
function reasonsAgain(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  const tag = entry.thing ?? -1;
  const reasons = part(entry.before, 'reasons') as readonly TagReason[] | undefined;
  const since = part(entry.before, 'since');
  const value = part(entry.before, 'value') as number | undefined;
  const held = state.tags.get(tag);
  if (!reasons || (entry.verb === 'reason removed' && !held)) return 'the tag has gone since';
  if (entry.verb === 'removed' && held && held.since >= entry.at) return 'the tag has been given again since';
  const known = new Set((held?.reasons ?? []).map(reasonKey));
  const again: HeldTag = {
    since: held?.since ?? (typeof since === 'number' ? since : passing.now),
    reasons: [...(held?.reasons ?? []), ...reasons.filter((reason) => !known.has(reasonKey(reason)))],
    value: held?.value ?? value,
  };
  state.put('tags', tag, again);
  if (held) {
    for (const reason of reasons) passing.record({ kind: 'tag', verb: 'reason added', thing: tag, after: { reason }, ...by });
    return undefined;
  }
  state.forgetPast(tag, entry.at);
  const effect = passing.record({ kind: 'tag', verb: 'added', thing: tag, after: { reason: reasons[0], value: again.value }, ...by });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

function tagValueBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  const tag = entry.thing ?? -1;
  const held = state.tags.get(tag);
  if (!held || held.value !== part(entry.after, 'value')) return SINCE_OTHERWISE;
  const before = part(entry.before, 'value');
  const value = typeof before === 'number' ? before : undefined;
  state.put('tags', tag, { ...held, value });
  state.forgetPast(tag, entry.at);
  const effect = passing.record({
    kind: 'tag',
    verb: 'valued',
    thing: tag,
    before: { value: held.value },
    after: { value: value ?? null },
    ...by,
  });
  passing.touch(`tag:${tag}`, effect);
  return undefined;
}

/** A value as the ledger kept it: a fact, or text as it was written. */
function written(passing: Passing, field: number, kept: unknown): WrittenFact | undefined {
  if (kept === null || kept === undefined) return undefined;
  if (typeof kept === 'number' || Array.isArray(kept)) return { fact: kept as number | string[] };
  const { catalogue } = passing.compiled;
  const body = catalogue.body('field', field);
  const read = body && readFact(body, kept, catalogue.workspace);
  return read?.ok ? read.value : { fact: kept as string };
}

function putField(passing: Passing, field: number, value: WrittenFact | undefined, entry: TakenEntry, by: Reversing): void {
  const before = passing.state.facts.get(field);
  const { effect, from, to } = writeFact(passing, field, value, 'set', by);
  if (!sameFact(before, value?.fact)) unchanged(passing, changeKey('field', field), entry.at, from, to, effect);
}

/** What the effect recorded as a change did not happen; where something changed it since, going back is a change of its own. */
function unchanged(passing: Passing, of: string, at: Instant, from: string | null, to: string | null, effect: Effect): void {
  if (passing.state.forgetChange(of, at, from)) passing.touch(`change:${of}`, effect);
  else passing.changed(of, from, to, effect);
}

function fieldBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
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
function increaseBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
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

function stageBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  const made = part(entry.after, 'stage') ?? null;
  if ((state.stage?.id ?? null) !== made) return SINCE_OTHERWISE;
  const id = part(entry.before, 'stage');
  const since = part(entry.before, 'since');
  const now = state.stage?.id;
  state.stage = typeof id === 'number' ? { id, since: typeof since === 'number' ? since : passing.now } : undefined;
  state.changedLinks.add('stage');
  const effect = passing.record({
    kind: 'stage',
    verb: state.stage ? 'set' : 'cleared',
    thing: state.stage?.id ?? now,
    before: { stage: now ?? null },
    after: { stage: state.stage?.id ?? null },
    ...by,
  });
  passing.touch('stage', effect);
  const text = (stage: number | undefined): string | null => (stage === undefined ? null : String(stage));
  unchanged(passing, 'stage', entry.at, text(now), text(state.stage?.id), effect);
  return undefined;
}

function ownerBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  if ((state.owner ?? null) !== (entry.after ?? null)) return SINCE_OTHERWISE;
  const now = state.owner;
  state.owner = typeof entry.before === 'string' ? entry.before : undefined;
  state.changedLinks.add('owner');
  const effect = passing.record({
    kind: 'owner',
    verb: state.owner ? 'set' : 'cleared',
    thing: undefined,
    before: now ?? null,
    after: state.owner ?? null,
    ...by,
  });
  passing.touch('owner', effect);
  unchanged(passing, 'owner', entry.at, now ?? null, state.owner ?? null, effect);
  return undefined;
}

/** Fixed lists only: a live audience follows by itself. */
function listBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const { state } = passing;
  const list = entry.thing ?? -1;
  if (passing.compiled.catalogue.body('audience', list)?.kind !== 'fixed') return undefined;
  const member = state.memberships.get(list);
  if (entry.verb === 'joined') {
    const joined = part(entry.after, 'since');
    if (member?.since !== (typeof joined === 'number' ? joined : entry.at)) return SINCE_OTHERWISE;
    state.drop('memberships', list);
  } else {
    if (member) return SINCE_OTHERWISE;
    const since = part(entry.before, 'since');
    state.join(list, typeof since === 'number' ? since : passing.now);
    state.forgetStay(list, entry.at);
  }
  const effect = passing.record({ kind: 'membership', verb: entry.verb === 'joined' ? 'left' : 'joined', thing: list, ...by });
  passing.touch(`audience:${list}`, effect);
  return undefined;
}

function pinBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const audience = entry.thing ?? -1;
  if (!samePin(passing.state.pins.get(audience), pinOf(entry.after))) return SINCE_OTHERWISE;
  const before = pinOf(entry.before);
  const over = before?.until !== undefined && before.until <= passing.now;
  putPin(passing, audience, over ? undefined : before, by);
  return undefined;
}

function pointsBack(passing: Passing, entry: TakenEntry, by: Reversing): string | undefined {
  const ref = part(entry.after, 'ref');
  if (typeof ref !== 'string' || !passing.state.points.has(ref)) return 'its points have gone since';
  passing.state.drop('points', ref);
  const before = { points: part(entry.after, 'points') };
  const effect = passing.record({ kind: 'points', verb: 'taken back', thing: entry.thing, before, ...by });
  passing.touch(`points:${entry.thing ?? -1}`, effect);
  return undefined;
}
