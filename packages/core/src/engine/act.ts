import { holds } from '../conditions/evaluate/holds.ts';
import { readFact, writtenMoney, type WrittenFact } from '../contacts/facts.ts';
import { type Signal } from '../intake/signal.ts';
import { type Asked, type Effect } from '../ledger/effect.ts';
import { millionths, scaled } from '../numbers/decimal.ts';
import { type ActionOf, type RuleAction } from '../rules/definition.ts';
import { type FieldId } from '../settings/ids.ts';
import { POINT_PLACES } from '../scores/prepare.ts';
import { addToDay, localDay, readDay, readInstant, startOfDay } from '../time/zone.ts';
import { type Change } from '../ledger/change.ts';
import { type By, type Passing } from './pass-context.ts';
import { applyChange } from './recorded.ts';

/** So far an effect may go from one subject to another. */
export const MAX_HOPS = 16;

export interface Acting {
  readonly passing: Passing;
  readonly firing: Effect;
  readonly rule: { readonly id: number; readonly version: number };
  readonly signal: Signal | undefined;
  /** how often the rule has fired for this subject, this time included: it names what each firing gave */
  readonly times: number;
  /** where the action stands in the rule */
  readonly index: number;
}

/** Does one thing that a rule says. */
export function act(acting: Acting, action: RuleAction): void {
  const doing = ACTS[action.do] as Act<RuleAction>;
  doing(acting, action, { parent: acting.firing, rule: acting.rule });
}

type Act<Action extends RuleAction> = (acting: Acting, action: Action, by: By) => void;

/** How each action is done. */
const ACTS: { readonly [Do in RuleAction['do']]: Act<ActionOf<Do>> } = {
  'add tag': (acting, action, by) => {
    const { rule, signal } = acting;
    const reason = { kind: 'rule' as const, ref: signal ? `${rule.id}/${signal.id}` : String(rule.id) };
    const value = action.value === undefined ? undefined : tagValue(acting, action);
    applyChange(acting.passing, { kind: 'tag', tag: action.tag, add: true, reason, value }, by);
  },
  'remove tag': ({ passing, rule }, { tag, only }, by) => {
    const reasons = only ? { kind: 'rule' as const, begins: String(rule.id) } : 'all';
    applyChange(passing, { kind: 'tag', tag, add: false, reasons }, by);
  },
  'set field': (acting, { field, value }, by) => {
    const fact = factFor(acting, field, value);
    if (fact) applyChange(acting.passing, { kind: 'field', field, value: fact.value }, by);
  },
  'set company field': (acting, { field, value }, by) => {
    const { kind, company } = acting.passing.state;
    const fact = factFor(acting, field, value);
    if (!fact) return;
    const change: Change = { kind: 'field', field, value: fact.value };
    if (kind === 'company') applyChange(acting.passing, change, by);
    else if (company !== undefined) ask(acting, { to: 'company', id: company, changes: [change] });
  },
  'clear field': ({ passing }, { field }, by) => applyChange(passing, { kind: 'field', field, value: undefined }, by),
  'increase field': (acting, action, by) => {
    const value = increased(acting, action);
    if (value) applyChange(acting.passing, { kind: 'field', field: action.field, value, increase: true }, by);
  },
  'put on list': (acting, { audience }, by) => putOnList(acting, { audience, on: true }, by),
  'take off list': (acting, { audience }, by) => putOnList(acting, { audience, on: false }, by),
  'give points': givePoints,
  'set stage': ({ passing }, { stage, backward = false }, by) => applyChange(passing, { kind: 'stage', stage, backward }, by),
  'assign owner': assignOwner,
  'make task': ({ passing }, { title, dueDays, for: whom }, by) => {
    const { zone } = passing.moment;
    const due = startOfDay(addToDay(localDay(passing.now, zone), dueDays, 'days') + 1, zone) - 1;
    passing.record({
      kind: 'task',
      verb: 'made',
      thing: undefined,
      makes: { what: 'task', title, due, for: whom ?? passing.state.owner },
      ...by,
    });
  },
  notify: ({ passing }, { text, to }, by) => {
    passing.record({
      kind: 'notice',
      verb: 'made',
      thing: undefined,
      makes: { what: 'notice', text, to: to ?? passing.state.owner },
      ...by,
    });
  },
  'run bundle': ({ passing }, { bundle }) => {
    const { catalogue } = passing.compiled;
    throw new Error(`A bundle is laid out when its rule is compiled: ${catalogue.get('bundle', bundle)?.key ?? bundle}.`);
  },
};

/** Of a company its contacts are meant: those that it has when they are told. */
function putOnList(acting: Acting, list: { readonly audience: number; readonly on: boolean }, by: By): void {
  const { state } = acting.passing;
  if (state.kind === 'company') ask(acting, { to: 'contacts', id: state.id, ...list });
  else applyChange(acting.passing, { kind: 'list', ...list }, by);
}

/** Asks another subject for something; an effect that has gone through too many hands is not handed on. */
function ask({ passing, firing, rule }: Acting, asked: Asked): void {
  const hop = passing.hop + 1;
  const by: By = { parent: firing, rule };
  if (hop > MAX_HOPS) passing.record({ kind: 'asked', verb: 'circling', thing: undefined, ...by });
  else
    passing.record({
      kind: 'asked',
      verb: 'sent',
      thing: asked.to === 'routing' ? asked.id : asked.to === 'contacts' ? asked.audience : undefined,
      after: { to: asked.to, ...(asked.to === 'contacts' ? { on: asked.on } : {}) },
      asks: { ...asked, hop },
      ...by,
    });
}

type Given = ActionOf<'set field'>['value'];
const fromSignal = (value: unknown): value is { readonly detail: string } =>
  typeof value === 'object' && value !== null && 'detail' in value;

/** What the signal itself says at a path, as it was sent; money takes the signal's currency with it. */
function detailOf(signal: Signal | undefined, path: string): unknown {
  let value: unknown = signal?.data;
  const currency = typeof value === 'object' && value !== null ? (value as { currency?: unknown }).currency : undefined;
  for (const segment of path.split('.'))
    value = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[segment] : undefined;
  return path === 'amount' && value !== undefined ? { amount: value, currency } : value;
}

/** The value that an action gives a field; undefined where the signal has none that fits, and then nothing is done. */
function factFor({ passing, signal }: Acting, field: FieldId, given: Given): { readonly value: WrittenFact | undefined } | undefined {
  const { catalogue } = passing.compiled;
  const body = catalogue.body('field', field);
  if (!body) return undefined;
  let written: unknown = given;
  if (fromSignal(given)) {
    written = detailOf(signal, given.detail);
    if (written === undefined || written === null) return undefined;
    if (body.type !== 'money' && typeof written === 'object' && 'amount' in written) written = (written as { amount: unknown }).amount;
    if (body.type === 'date' && typeof written === 'string') written = written.slice(0, 10);
  }
  const read = readFact(body, written, catalogue.workspace);
  return read.ok ? { value: read.value } : undefined;
}

function increased(acting: Acting, action: ActionOf<'increase field'>): WrittenFact | undefined {
  const { catalogue } = acting.passing.compiled;
  const body = catalogue.body('field', action.field);
  const by = factFor(acting, action.field, action.by)?.value?.fact;
  if (!body || typeof by !== 'number') return undefined;
  const before = acting.passing.state.facts.get(action.field);
  const sum = (typeof before === 'number' ? before : 0) + by;
  return body.type === 'money' ? writtenMoney(sum, catalogue.workspace.currency) : { fact: sum };
}

/** The value that a valued tag is given: millionths, or a day. */
function tagValue({ passing, signal }: Acting, action: ActionOf<'add tag'>): number | undefined {
  const kept = passing.compiled.catalogue.body('tag', action.tag)?.value;
  const given = fromSignal(action.value) ? detailOf(signal, action.value.detail) : action.value;
  if (kept === 'date') {
    if (typeof given !== 'string') return undefined;
    const instant = readInstant(given, passing.moment.zone);
    return readDay(given) ?? (instant === undefined ? undefined : localDay(instant, passing.moment.zone));
  }
  const number = millionths(typeof given === 'object' && given !== null && 'amount' in given ? given.amount : given);
  return number.ok ? number.value : undefined;
}

/** Points count from the signal that gave them, and otherwise from now. */
function givePoints({ passing, rule, signal, times, index }: Acting, action: ActionOf<'give points'>, by: By): void {
  const points = scaled(action.points, POINT_PLACES);
  if (!points.ok) return;
  const at = signal?.time ?? passing.now;
  passing.state.put('points', `${rule.id}/${times}/${index}`, {
    scorecard: action.scorecard,
    rule: rule.id,
    points: points.value,
    at,
    keeps: action.keeps,
  });
  const effect = passing.record({
    kind: 'points',
    verb: 'given',
    thing: action.scorecard,
    after: { points: action.points, ref: `${rule.id}/${times}/${index}`, at: new Date(at).toISOString() },
    ...by,
  });
  passing.touch(`points:${action.scorecard}`, effect);
}

/** Directly, or by the first row of a routing table that fits; where that row names several, the table says whose turn it is. */
function assignOwner(acting: Acting, action: ActionOf<'assign owner'>, by: By): void {
  const { passing } = acting;
  const replace = action.replace ?? false;
  if (action.owner !== undefined) return applyChange(passing, { kind: 'owner', owner: action.owner, replace }, by);
  // A turn that nobody takes would be lost to the next one.
  if (passing.state.owner !== undefined && !replace) return applyChange(passing, { kind: 'owner', owner: '', replace }, by);
  const table = passing.compiled.routing.get(action.routing ?? -1);
  const row = table?.rows.find((each) => holds(each.if, passing.state, passing.moment));
  if (!row) return;
  const [only, ...others] = row.owners;
  if (others.length === 0) return applyChange(passing, { kind: 'owner', owner: only, replace }, by);
  ask(acting, { to: 'routing', id: action.routing as number, row: row.key, replace });
}
