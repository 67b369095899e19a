import { namedIn } from '../conditions/references.ts';
import { type Condition } from '../conditions/schema.ts';
import { type RuleAction } from '../rules/definition.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition, type DefinitionKind } from '../settings/definitions.ts';
import { formsAskedFor } from './answer-uses.ts';
import { Swapping } from './swapping.ts';
import { usesOfTag } from './tag-uses.ts';

/** What flows into a definition and out of it, by id. */
export interface Flow {
  /** what decides what it does: forms, tags, fields, scores, audiences … */
  readonly from: ReadonlySet<number>;
  /** what it moves, or what asks for it */
  readonly to: ReadonlySet<number>;
}

/** The kinds that the flow goes through, from where things come in to where they go out. */
export const FLOW_KINDS = [
  'signalType',
  'form',
  'map',
  'rule',
  'bundle',
  'tag',
  'field',
  'stage',
  'routing',
  'scorecard',
  'audience',
  'message',
] as const satisfies readonly DefinitionKind[];

/** Whether what is named at a place of a definition is moved by it; otherwise it decides what the definition does. */
const MOVES: Partial<Record<DefinitionKind, (path: readonly (string | number)[]) => boolean>> = {
  rule: ([part]) => part === 'then',
  bundle: () => true,
  form: () => true,
  map: ([part]) => part === 'rows',
  message: ([part]) => part === 'links',
};

/** How everything that is in use hangs together: each definition with what flows into it and out of it. */
export function flowsIn(catalogue: Catalogue): ReadonlyMap<number, Flow> {
  const definitions = FLOW_KINDS.flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[]);
  const known = new Set<number>(definitions.map(({ id }) => id));
  const flows = new Map(definitions.map(({ id }) => [id as number, { from: new Set<number>(), to: new Set<number>() }]));
  const join = (from: number, to: number): void => {
    if (!known.has(from) || !known.has(to) || from === to) return;
    flows.get(from)?.to.add(to);
    flows.get(to)?.from.add(from);
  };
  for (const definition of definitions) {
    const { id, kind, body } = definition;
    new Swapping(
      (_kind, named, path) => {
        if (MOVES[kind]?.(path)) join(id, named as number);
        else join(named as number, id);
        return named;
      },
      (condition) => {
        for (const named of namedIn(condition as Condition)) join(named, id);
        return condition;
      },
    ).body(kind, body);
    for (const key of kind === 'form' ? [] : formsAskedFor(body)) join(catalogue.find('form', key)?.id ?? -1, id);
  }
  return flows;
}

/** Everything that flows into a definition, through others too, or out of it; the nearest first. */
export function along(
  flows: ReadonlyMap<number, Flow>,
  id: number,
  way: keyof Flow,
): readonly { readonly id: number; readonly steps: number }[] {
  const steps = new Map([[id, 0]]);
  const waiting = [id];
  for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
    for (const other of flows.get(next)?.[way] ?? []) {
      if (steps.has(other)) continue;
      steps.set(other, (steps.get(next) ?? 0) + 1);
      waiting.push(other);
    }
  }
  steps.delete(id);
  return [...steps].map(([each, n]) => ({ id: each, steps: n }));
}

/** Something about rules that is worth a look before anything runs. */
export interface RuleFinding {
  /** `order`: what comes of two rules depends on which comes first, or one looks before the other acts */
  readonly kind: 'opposite' | 'order' | 'rests on what is off';
  readonly rules: readonly number[];
  readonly words: string;
}

/** Rules that do the opposite on the same occasion, or get in each other's way, and rules that wait for what nothing gives any more. */
export function ruleFindings(catalogue: Catalogue): readonly RuleFinding[] {
  const on = catalogue.all('rule').filter(({ body }) => body.on);
  return [
    ...on.flatMap((rule, index) => on.slice(index + 1).flatMap((other) => opposite(rule, other, catalogue))),
    ...on.flatMap((rule) => on.flatMap((other) => looksTooEarly(rule, other, catalogue))),
    ...on.flatMap((rule) => restsOnOff(rule, catalogue)),
  ];
}

type Rule = Definition<'rule'>;

function opposite(a: Rule, b: Rule, catalogue: Catalogue): readonly RuleFinding[] {
  if (!sameOccasion(a, b)) return [];
  const [first, last] = a.body.position < b.body.position || (a.body.position === b.body.position && a.id < b.id) ? [a, b] : [b, a];
  return first.body.then.flatMap((one) =>
    last.body.then.flatMap((other): readonly RuleFinding[] => {
      if (arePartsApart(one, other)) return [];
      const what = undone(one, other, catalogue);
      if (what === undefined) return inTheWay(one, other, first, last, catalogue);
      const words = `On the same occasion one ${what[0]} and the other ${what[1]}. ${last.name} comes later, so what it does stands.`;
      return [{ kind: 'opposite', rules: [first.id, last.id], words }];
    }),
  );
}

/** Whether two actions are for contacts with other parts in the purchase. */
const arePartsApart = (a: RuleAction, b: RuleAction): boolean =>
  'parts' in a && 'parts' in b && a.parts !== undefined && b.parts !== undefined && !a.parts.some((part) => b.parts?.includes(part));

const sameOccasion = ({ body: a }: Rule, { body: b }: Rule): boolean =>
  a.of === b.of && a.when.kind !== 'sweep' && JSON.stringify(a.when) === JSON.stringify(b.when);

const tagName = (catalogue: Catalogue, id: number): string => `the tag ${catalogue.get('tag', id)?.key ?? '…'}`;

/** Two actions of which the first or the last wins, by the order of their rules alone. */
function inTheWay(a: RuleAction, b: RuleAction, first: Rule, last: Rule, catalogue: Catalogue): readonly RuleFinding[] {
  const found = (words: string): readonly RuleFinding[] => [
    { kind: 'order', rules: [first.id, last.id], words: `On the same occasion ${words}` },
  ];
  if (a.do === 'assign owner' && b.do === 'assign owner' && JSON.stringify(a) !== JSON.stringify(b))
    return found(
      `both assign an owner. ${b.replace ? `${last.name} comes later, and replaces` : `${first.name} comes first, and keeps`} theirs.`,
    );
  if (a.do === 'set stage' && b.do === 'set stage' && a.stage !== b.stage && (a.backward || b.backward))
    return found(`both set a stage, also backwards. ${last.name} comes later, so what it does stands.`);
  if (a.do === 'add tag' && b.do === 'add tag' && a.tag === b.tag && JSON.stringify(a.value) !== JSON.stringify(b.value))
    return found(`both give ${tagName(catalogue, a.tag)}, with another value each. ${last.name} comes later, so its value stands.`);
  if (a.do !== 'add tag' || b.do !== 'add tag' || a.tag === b.tag) return [];
  const family = catalogue.body('tag', a.tag)?.family;
  if (family === undefined || family !== catalogue.body('tag', b.tag)?.family || catalogue.body('family', family)?.many !== false)
    return [];
  return found(
    `one gives ${tagName(catalogue, a.tag)} and the other ${tagName(catalogue, b.tag)}, and somebody has one of them at a time. ${last.name} comes later, so its tag stands.`,
  );
}

/**
 * A rule that asks for what another one changes on the same occasion. What rules ask is looked at before any of them acts, so it does not see
 * that, in whatever order the two stand.
 */
function looksTooEarly(acts: Rule, asks: Rule, catalogue: Catalogue): readonly RuleFinding[] {
  if (acts.id === asks.id || asks.body.if === undefined || !sameSignal(acts, asks)) return [];
  const asked = namedIn(asks.body.if);
  const changed = acts.body.then.flatMap((action) => changes(action, catalogue).filter(([id]) => asked.has(id)));
  return changed.slice(0, 1).map(([, does]) => ({
    kind: 'order',
    rules: [acts.id, asks.id],
    words: `${acts.name} ${does}, and on the same occasion ${asks.name} asks for it. What rules ask is looked at before any of them acts, so ${asks.name} does not see that.`,
  }));
}

/** Set off by the same signal: the same one, or any of that type. */
function sameSignal(a: Rule, b: Rule): boolean {
  const [one, other] = [a.body.when, b.body.when];
  if (a.body.of !== b.body.of || one.kind !== 'signal' || other.kind !== 'signal' || one.type !== other.type) return sameOccasion(a, b);
  const [asked, wanted] = [JSON.stringify(one.where), JSON.stringify(other.where)];
  return asked === wanted || !one.where?.length || !other.where?.length;
}

/** What an action changes that a condition can ask for, by its id, and in words. */
function changes(action: RuleAction, catalogue: Catalogue): readonly (readonly [number, string])[] {
  const name = (kind: 'field' | 'audience' | 'stage', id: number): string => catalogue.get(kind, id)?.name ?? '…';
  switch (action.do) {
    case 'add tag':
      return [[action.tag, `gives ${tagName(catalogue, action.tag)}`]];
    case 'remove tag':
      return [[action.tag, `takes ${tagName(catalogue, action.tag)} off`]];
    case 'set field':
    case 'set company field':
    case 'clear field':
    case 'increase field':
      return [[action.field, `changes ${name('field', action.field)}`]];
    case 'put on list':
    case 'take off list':
      return [[action.audience, `changes who is on ${name('audience', action.audience)}`]];
    case 'set stage':
      return [[action.stage, `brings them to ${name('stage', action.stage)}`]];
    case 'give points':
    case 'assign owner':
    case 'make task':
    case 'notify':
    case 'run bundle':
      return [];
  }
}

/** What two actions do that cannot both stand. */
function undone(a: RuleAction, b: RuleAction, catalogue: Catalogue): readonly [string, string] | undefined {
  const tag = (id: number): string => tagName(catalogue, id);
  const name = (kind: 'field' | 'stage' | 'audience', id: number): string => catalogue.get(kind, id)?.name ?? '…';
  if (a.do === 'add tag' && b.do === 'remove tag' && a.tag === b.tag) return [`gives ${tag(a.tag)}`, 'takes it off'];
  if (a.do === 'remove tag' && b.do === 'add tag' && a.tag === b.tag) return [`takes ${tag(a.tag)} off`, 'gives it'];
  if ('field' in a && 'field' in b && a.field === b.field) {
    const [one, other] = [toField(a, name('field', a.field)), toField(b, 'it')];
    const alike = a.do === b.do && (a.do === 'increase field' || JSON.stringify(a) === JSON.stringify(b));
    return one === undefined || other === undefined || alike ? undefined : [one, a.do === b.do ? `${other} to something else` : other];
  }
  if (a.do === 'put on list' && b.do === 'take off list' && a.audience === b.audience)
    return [`puts on the list ${name('audience', a.audience)}`, 'takes off it'];
  if (a.do === 'take off list' && b.do === 'put on list' && a.audience === b.audience)
    return [`takes off the list ${name('audience', a.audience)}`, 'puts on it'];
  return undefined;
}

/** What an action does to a fact. */
function toField(action: RuleAction, name: string): string | undefined {
  if (action.do === 'set field' || action.do === 'set company field') return `sets ${name}`;
  if (action.do === 'clear field') return `clears ${name}`;
  return action.do === 'increase field' ? `adds to ${name}` : undefined;
}

/** Tags that a rule asks for, and that are given by nothing but what is off. */
function restsOnOff(rule: Rule, catalogue: Catalogue): readonly RuleFinding[] {
  const { when, if: only } = rule.body;
  const named = [...(when.kind === 'becomes' ? namedIn(when.condition) : []), ...(only ? namedIn(only) : [])];
  return [...new Set(named)].flatMap((id): RuleFinding[] => {
    const tag = catalogue.get('tag', id);
    const givers = tag ? usesOfTag(catalogue, tag.id).givenBy : [];
    if (!tag || givers.length === 0 || givers.some(({ on }) => on)) return [];
    const words = `It asks for the tag ${tag.key}, and what gives that is off: ${givers.map(({ name }) => name).join(', ')}.`;
    return [{ kind: 'rests on what is off', rules: [rule.id], words }];
  });
}
