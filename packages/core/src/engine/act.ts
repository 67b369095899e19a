import { holds } from '../conditions/evaluate/holds.ts';
import { readFact, writtenMoney, type WrittenFact } from '../contacts/facts.ts';
import { type Signal } from '../intake/signal.ts';
import { type ContactsChange, type Effect, type EntryOf, type SubjectRequest } from '../ledger/effect.ts';
import { scaled } from '../numbers/decimal.ts';
import { type ActionOf, type RuleAction } from '../rules/definition.ts';
import { isLimited } from '../rules/routing.ts';
import { type FieldId, type RoutingId } from '../settings/ids.ts';
import { POINT_PLACES } from '../scores/prepare.ts';
import { type TagReason } from '../tags/definition.ts';
import { readTagValue } from '../tags/values.ts';
import { localDay, readDay, readInstant, writeDay, type Day } from '../time/zone.ts';
import { type Change, type WhichReasons } from '../ledger/change.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { applyChange, dueIn } from './recorded.ts';

/** So far an effect may go from one subject to another. */
export const MAX_HOPS = 16;

export interface Acting {
  readonly context: PassContext;
  readonly by: Giver;
  readonly signal: Signal | undefined;
}

/** Whatever says what is done: a rule that fired, or the answer map of a form. */
export interface Giver {
  readonly origin: EffectOrigin;
  /** the rule or the form */
  readonly id: number;
  /** of the tags that it gives */
  readonly reason: TagReason;
  /** all the reasons that it ever gave */
  readonly reasons: WhichReasons;
  /** under which key the points that it gives are kept: another one each time, and for each action */
  readonly points: string;
  /** whether what is known of a company stays as it is */
  readonly fills?: boolean;
}

/** What a rule does by one of its actions. */
export const givenByRule = (given: {
  readonly firing: Effect;
  readonly rule: { readonly id: number; readonly version: number };
  readonly signal: Signal | undefined;
  /** how many times it has fired for this subject, this time included */
  readonly times: number;
  /** where the action stands in the rule */
  readonly index: number;
}): Giver => {
  const { firing, rule, signal, times, index } = given;
  return {
    origin: { parent: firing, rule },
    id: rule.id,
    reason: { kind: 'rule', ref: signal ? `${rule.id}/${signal.id}` : String(rule.id) },
    reasons: { kind: 'rule', begins: String(rule.id) },
    points: `${rule.id}/${times}/${index}`,
  };
};

/** Does one thing that a rule or an answer map says. */
export function act(acting: Acting, action: RuleAction): void {
  const doing = ACTS[action.do] as Act<RuleAction>;
  doing(acting, action, acting.by.origin);
}

type Act<Action extends RuleAction> = (acting: Acting, action: Action, by: EffectOrigin) => void;

/** How each action is done. */
const ACTS: { readonly [Do in RuleAction['do']]: Act<ActionOf<Do>> } = {
  'add tag': (acting, action, by) => {
    const { reason } = acting.by;
    const value = action.value === undefined ? undefined : tagValue(acting, action);
    changeContact(acting, { kind: 'tag', tag: action.tag, add: true, reason, value }, action, by);
  },
  'remove tag': (acting, action, by) =>
    changeContact(acting, { kind: 'tag', tag: action.tag, add: false, reasons: action.only ? acting.by.reasons : 'all' }, action, by),
  'set field': (acting, action, by) => {
    const fact = factFor(acting, action.field, action.value);
    if (fact) changeContact(acting, { kind: 'field', field: action.field, value: fact.value }, action, by);
  },
  'set company field': (acting, { field, value }, by) => {
    const { kind, company } = acting.context.state;
    const fact = factFor(acting, field, value);
    if (!fact) return;
    const change: Change = { kind: 'field', field, value: fact.value, ...(acting.by.fills ? { fills: true } : {}) };
    if (kind === 'company') applyChange(acting.context, change, by);
    else if (company !== undefined) ask(acting, { to: 'company', id: company, changes: [change] });
  },
  'clear field': ({ context }, { field }, by) => applyChange(context, { kind: 'field', field, value: undefined }, by),
  'increase field': (acting, action, by) => {
    const value = increased(acting, action);
    if (value) applyChange(acting.context, { kind: 'field', field: action.field, value, increase: true }, by);
  },
  'put on list': (acting, action, by) => changeList(acting, action, true, by),
  'take off list': (acting, action, by) => changeList(acting, action, false, by),
  'give points': givePoints,
  'set stage': (acting, action, by) => {
    const { context } = acting;
    const { stage, backward = false, ask: title } = action;
    const first = context.effects.length;
    changeContact(acting, { kind: 'stage', stage, backward }, action, by);
    const held = context.effects.slice(first).find((effect) => effect.kind === 'kept' && effect.after === 'needs');
    if (held && title !== undefined) makeTask(context, { title, dueDays: 0 }, { ...by, parent: held });
  },
  'assign owner': assignOwner,
  'make task': ({ context }, task, by) => makeTask(context, task, by),
  notify: ({ context }, { text, to }, by) => {
    context.record({
      kind: 'notice',
      verb: 'made',
      definitionId: undefined,
      workItem: { what: 'notice', text, to: to ?? context.state.owner },
      ...by,
    });
  },
  'run bundle': ({ context }, { bundle }) => {
    const { catalogue } = context.compiled;
    throw new Error(`A bundle is laid out when its rule is compiled: ${catalogue.get('bundle', bundle)?.key ?? bundle}.`);
  },
};

function makeTask(
  context: PassContext,
  { title, dueDays, for: whom }: Pick<ActionOf<'make task'>, 'title' | 'dueDays' | 'for'>,
  by: EffectOrigin,
): void {
  const workItem = { what: 'task', title, due: dueIn(context, dueDays), for: whom ?? context.state.owner } as const;
  context.record({ kind: 'task', verb: 'made', definitionId: undefined, workItem, ...by });
}

/** Changes the contact. A rule for companies changes those that the company has when the message is worked. */
function changeContact(
  acting: Acting,
  change: ContactsChange,
  { parts }: { readonly parts?: readonly string[] | undefined },
  by: EffectOrigin,
): void {
  const { state } = acting.context;
  if (state.kind === 'contact') applyChange(acting.context, change, by);
  else ask(acting, { to: 'contacts', id: state.id, change, parts });
}

/** A company itself stands on a list of companies. */
function changeList(acting: Acting, action: ActionOf<'put on list' | 'take off list'>, on: boolean, by: EffectOrigin): void {
  const { compiled } = acting.context;
  const change = { kind: 'list', audience: action.audience, on } as const;
  if (compiled.catalogue.body('audience', action.audience)?.of === 'company') applyChange(acting.context, change, by);
  else changeContact(acting, change, action, by);
}

/** Sends a request to another subject. An effect that has passed through too many subjects is not passed on. */
function ask({ context, by: { origin: by } }: Acting, asked: SubjectRequest): void {
  const hop = context.hop + 1;
  if (hop > MAX_HOPS) context.record({ kind: 'asked', verb: 'circling', definitionId: undefined, ...by });
  else
    context.record({
      kind: 'asked',
      verb: 'sent',
      definitionId: asked.to === 'routing' ? asked.id : asked.to === 'contacts' ? thingOf(asked.change) : undefined,
      after: { to: asked.to, ...(asked.to === 'contacts' ? toldOf(asked) : {}) },
      request: { ...asked, hop },
      ...by,
    });
}

/** What a change of contacts is about. */
function thingOf(change: ContactsChange): number | undefined {
  switch (change.kind) {
    case 'tag':
      return change.tag;
    case 'field':
      return change.field;
    case 'stage':
      return change.stage;
    case 'list':
      return change.audience;
    case 'owner':
      return undefined;
  }
}

function toldOf({ change, parts }: Extract<SubjectRequest, { readonly to: 'contacts' }>): Partial<EntryOf<'asked sent'>['after']> {
  return {
    ...(change.kind === 'list' ? { on: change.on } : { does: change.kind }),
    ...(change.kind === 'tag' ? { on: change.add } : {}),
    ...(change.kind === 'owner' && change.owner !== undefined ? { owner: change.owner } : {}),
    ...(parts ? { parts } : {}),
  };
}

type ActionValue = ActionOf<'set field'>['value'];
const fromSignal = (value: unknown): value is { readonly detail: string } =>
  typeof value === 'object' && value !== null && 'detail' in value;

/** The value at a path of the signal, as it was sent. Money carries the signal's currency. */
function detailOf(signal: Signal | undefined, path: string): unknown {
  let value: unknown = signal?.data;
  const currency = typeof value === 'object' && value !== null ? (value as { currency?: unknown }).currency : undefined;
  for (const segment of path.split('.'))
    value = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[segment] : undefined;
  return path === 'amount' && value !== undefined ? { amount: value, currency } : value;
}

/** What an action writes into a field; undefined if the signal has no usable value, and then nothing is done. */
function factFor({ context, signal }: Acting, field: FieldId, given: ActionValue): { readonly value: WrittenFact | undefined } | undefined {
  const { catalogue } = context.compiled;
  const body = catalogue.body('field', field);
  if (!body) return undefined;
  let written: unknown = given;
  if (fromSignal(given)) {
    written = detailOf(signal, given.detail);
    if (written === undefined || written === null) return undefined;
    if (body.type !== 'money' && typeof written === 'object' && 'amount' in written) written = (written as { amount: unknown }).amount;
    if (body.type === 'date' && typeof written === 'string') {
      const day = dayIn(written, context.moment.zone);
      if (day !== undefined) written = writeDay(day);
    }
  }
  const read = readFact(body, written, catalogue.workspace);
  return read.ok ? { value: read.value } : undefined;
}

function increased(acting: Acting, action: ActionOf<'increase field'>): WrittenFact | undefined {
  const { catalogue } = acting.context.compiled;
  const body = catalogue.body('field', action.field);
  const by = factFor(acting, action.field, action.by)?.value?.fact;
  if (!body || typeof by !== 'number') return undefined;
  const before = acting.context.state.facts.get(action.field);
  const sum = (typeof before === 'number' ? before : 0) + by;
  return body.type === 'money' ? writtenMoney(sum, catalogue.workspace.currency) : { fact: sum };
}

/** The day of a date, or the local one of a date-time. */
function dayIn(text: string, zone: string): Day | undefined {
  const instant = readInstant(text, zone);
  return instant === undefined ? readDay(text) : localDay(instant, zone);
}

/** The value that a valued tag is given; undefined where there is none that it can carry. */
function tagValue({ context, signal }: Acting, action: ActionOf<'add tag'>): number | undefined {
  const kept = context.compiled.catalogue.body('tag', action.tag)?.value ?? 'number';
  const given = fromSignal(action.value) ? detailOf(signal, action.value.detail) : action.value;
  if (kept === 'date') return typeof given === 'string' ? dayIn(given, context.moment.zone) : undefined;
  const value = readTagValue(kept, typeof given === 'object' && given !== null && 'amount' in given ? given.amount : given);
  return value.ok ? value.value : undefined;
}

/** Points count from the signal that gave them, and otherwise from now. */
function givePoints({ context, signal, by: giver }: Acting, action: ActionOf<'give points'>, by: EffectOrigin): void {
  const points = scaled(action.points, POINT_PLACES);
  if (!points.ok) return;
  const at = signal?.time ?? context.now;
  context.state.put('points', giver.points, {
    scorecard: action.scorecard,
    rule: giver.id,
    points: points.value,
    at,
    keeps: action.keeps,
  });
  const effect = context.record({
    kind: 'points',
    verb: 'given',
    definitionId: action.scorecard,
    after: { points: action.points, ref: giver.points, at: new Date(at).toISOString() },
    ...by,
  });
  context.touch(`points:${action.scorecard}`, effect);
}

/**
 * Assigns an owner directly, or by the first matching row of a routing table. If the row names several, a team, or somebody who does not take all
 * that comes, the table is asked whose turn it is in it, or else in the other rows that match.
 */
function assignOwner(acting: Acting, action: ActionOf<'assign owner'>, by: EffectOrigin): void {
  const { context } = acting;
  const replace = action.replace ?? false;
  if (action.owner !== undefined) return changeContact(acting, { kind: 'owner', owner: action.owner, replace }, action, by);
  // A turn that nobody takes would be lost to the next one.
  if (context.state.owner !== undefined && !replace) return applyChange(context, { kind: 'owner', owner: '', replace }, by);
  const routing = action.routing ?? (-1 as RoutingId);
  const table = context.compiled.routing.get(routing);
  const rows = table?.rows.filter((each) => holds(each.if, context.state, context.moment)) ?? [];
  const [first] = rows;
  if (!table || !first) return;
  const [only = '', ...others] = first.owners;
  if (others.length === 0 && first.team === undefined && !isLimited(table.body, only))
    return applyChange(context, { kind: 'owner', owner: only, replace, routing }, by);
  ask(acting, { to: 'routing', id: routing, rows: rows.map((row) => row.key), replace });
}
