import { dependenciesOf, type Dependency } from '../conditions/dependencies.ts';
import { changeKey } from '../conditions/node.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { RULE_SUBJECTS, type ActionOf, type RuleAction, type RuleSubject } from '../rules/definition.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type RuleId } from '../settings/ids.ts';
import { type Compiled } from './compiled.ts';
import { lookedAtAgain } from './messages.ts';

/** What can be moved of contacts and of companies. */
export type Moved = Readonly<Record<RuleSubject, Set<Dependency>>>;

type Touched = readonly (readonly [whose: RuleSubject, what: Dependency])[];
type Touches<Action extends RuleAction> = (action: Action, catalogue: Catalogue) => Touched;

const nothing = (): Touched => [];
const field = ({ field: id }: { readonly field: number }, catalogue: Catalogue): Touched => {
  const whose = catalogue.body('field', id)?.of === 'company' ? 'company' : 'contact';
  return [
    [whose, `field:${id}`],
    [whose, `change:${changeKey('field', id)}`],
  ];
};
const list = ({ audience }: { readonly audience: number }, catalogue: Catalogue): Touched => [
  [catalogue.body('audience', audience)?.of === 'company' ? 'company' : 'contact', `audience:${audience}`],
];

/** What each action can move. */
const TOUCHES: { readonly [Do in RuleAction['do']]: Touches<ActionOf<Do>> } = {
  'add tag': ({ tag }, catalogue) => {
    const family = catalogue.body('tag', tag)?.family;
    const alone = family !== undefined && catalogue.body('family', family)?.many === false;
    const others = alone ? catalogue.every('tag').filter((other) => other.body.family === family) : [];
    return [['contact', `tag:${tag}`], ...others.map((other) => ['contact', `tag:${other.id}`] as const)];
  },
  'remove tag': ({ tag }) => [['contact', `tag:${tag}`]],
  'set field': field,
  'set company field': field,
  'clear field': field,
  'increase field': field,
  'put on list': list,
  'take off list': list,
  'give points': ({ scorecard }) => [['contact', `points:${scorecard}`]],
  'set stage': () => [
    ['contact', 'stage'],
    ['contact', 'change:stage'],
  ],
  'assign owner': () => [
    ['contact', 'owner'],
    ['contact', 'change:owner'],
  ],
  // Of people who look after things.
  'make task': nothing,
  notify: nothing,
  // Laid out in place.
  'run bundle': nothing,
};

/** What a rule can move: through scores and audiences too, of the contacts of a company, and of the company of a contact. */
export function movedBy(rule: CompiledRule, compiled: Compiled): Moved {
  const moved: Moved = { contact: new Set(), company: new Set() };
  for (const { action } of rule.steps)
    for (const [whose, what] of (TOUCHES[action.do] as Touches<RuleAction>)(action, compiled.catalogue)) moved[whose].add(what);
  for (let before = -1; before < moved.contact.size + moved.company.size;) {
    before = moved.contact.size + moved.company.size;
    for (const of of RULE_SUBJECTS) derive(compiled, of, moved[of]);
    for (const each of moved.company) if (compiled.readOfCompanies.has(each)) moved.contact.add(each);
    if ([...moved.contact].some((each) => compiled.readOfContacts.has(each)))
      for (const each of lookedAtAgain(compiled)) moved.company.add(each);
  }
  return moved;
}

/** Adds what follows. What is kept up to date stands in the order in which one rests on the other. */
function derive(compiled: Compiled, of: RuleSubject, moved: Set<Dependency>): void {
  for (const derived of compiled.derivedFor(of)) {
    if (derived.kind === 'hidden' || ![...derived.reads.on].some((dependency) => moved.has(dependency))) continue;
    moved.add(derived.kind === 'audience' ? `audience:${derived.id}` : `score:${derived.id}`);
    if (derived.kind === 'score') moved.add(`change:${changeKey('band', derived.id)}`);
  }
}

/** For each rule that is on and waits for a condition to become true: those that it can set off, of the same contact or company or across. */
export function setsOff(compiled: Compiled): ReadonlyMap<RuleId, readonly RuleId[]> {
  const rules = [...compiled.rules.values()].filter((rule) => rule.definition.body.on && rule.when.kind === 'becomes');
  const reads = new Map(
    rules.map((rule) => [rule.definition.id, rule.when.kind === 'becomes' ? dependenciesOf(rule.when.node).on : new Set<Dependency>()]),
  );
  return new Map(
    rules.map((rule) => {
      const moved = movedBy(rule, compiled);
      const next = rules.filter((other) =>
        [...(reads.get(other.definition.id) ?? [])].some((dependency) => moved[other.of].has(dependency)),
      );
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
