import { dependenciesOf, type Dependency } from '../conditions/dependencies.ts';
import { changeKey } from '../conditions/node.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { type ActionOf, type RuleAction } from '../rules/definition.ts';
import { type RuleId } from '../settings/ids.ts';
import { type Compiled } from './compiled.ts';

type Touches<Action extends RuleAction> = (action: Action, compiled: Compiled) => readonly Dependency[];
const nothing = (): readonly Dependency[] => [];
const field = ({ field: id }: { readonly field: number }): readonly Dependency[] => [`field:${id}`, `change:${changeKey('field', id)}`];
const list = ({ audience }: { readonly audience: number }): readonly Dependency[] => [`audience:${audience}`];

/** What each action can move of the contact itself. */
const TOUCHES: { readonly [Do in RuleAction['do']]: Touches<ActionOf<Do>> } = {
  'add tag': ({ tag }, { catalogue }) => {
    const family = catalogue.body('tag', tag)?.family;
    const alone = family !== undefined && catalogue.body('family', family)?.many === false;
    const others = alone ? catalogue.every('tag').filter((other) => other.body.family === family) : [];
    return [`tag:${tag}`, ...others.map((other): Dependency => `tag:${other.id}`)];
  },
  'remove tag': ({ tag }) => [`tag:${tag}`],
  'set field': field,
  'clear field': field,
  'increase field': field,
  'put on list': list,
  'take off list': list,
  'give points': ({ scorecard }) => [`points:${scorecard}`],
  'set stage': () => ['stage', 'change:stage'],
  'assign owner': () => ['owner', 'change:owner'],
  // Of the company, or of people who look after things: another pass.
  'set company field': nothing,
  'make task': nothing,
  notify: nothing,
  // Laid out in place.
  'run bundle': nothing,
};

/** What a rule can move of its contact, through scores and audiences too. */
export function movedBy(rule: CompiledRule, compiled: Compiled): ReadonlySet<Dependency> {
  const moved = new Set(rule.steps.flatMap(({ action }) => (TOUCHES[action.do] as Touches<RuleAction>)(action, compiled)));
  // What is kept up to date stands in the order in which one rests on the other.
  for (const derived of compiled.derivedFor('contact')) {
    if (derived.kind === 'hidden' || ![...derived.reads.on].some((dependency) => moved.has(dependency))) continue;
    moved.add(derived.kind === 'audience' ? `audience:${derived.id}` : `score:${derived.id}`);
    if (derived.kind === 'score') moved.add(`change:${changeKey('band', derived.id)}`);
  }
  return moved;
}

/** For each rule that is on and waits for a condition of contacts to become true: those that it can set off, in the same pass. */
export function setsOff(compiled: Compiled): ReadonlyMap<RuleId, readonly RuleId[]> {
  const rules = [...compiled.rules.values()].filter(
    (rule) => rule.of === 'contact' && rule.definition.body.on && rule.when.kind === 'becomes',
  );
  const reads = new Map(
    rules.map((rule) => [rule.definition.id, rule.when.kind === 'becomes' ? dependenciesOf(rule.when.node).on : new Set<Dependency>()]),
  );
  return new Map(
    rules.map((rule) => {
      const moved = movedBy(rule, compiled);
      const next = rules.filter((other) => [...(reads.get(other.definition.id) ?? [])].some((dependency) => moved.has(dependency)));
      return [rule.definition.id, next.map((other) => other.definition.id)];
    }),
  );
}

/** The groups of rules in which each can set off, through others, every other and itself. */
export function loopsIn(graph: ReadonlyMap<RuleId, readonly RuleId[]>): readonly (readonly RuleId[])[] {
  const reached = new Map([...graph.keys()].map((id) => [id, reachedFrom(id, graph)]));
  const loops: RuleId[][] = [];
  for (const id of graph.keys()) {
    if (!reached.get(id)?.has(id) || loops.some((loop) => loop.includes(id))) continue;
    loops.push([...graph.keys()].filter((other) => reached.get(id)?.has(other) && reached.get(other)?.has(id)));
  }
  return loops;
}

/** All that a rule can set off, through others too. */
export function reachedFrom(id: RuleId, graph: ReadonlyMap<RuleId, readonly RuleId[]>): ReadonlySet<RuleId> {
  const reached = new Set<RuleId>();
  const waiting = [...(graph.get(id) ?? [])];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    if (reached.has(next)) continue;
    reached.add(next);
    waiting.push(...(graph.get(next) ?? []));
  }
  return reached;
}
