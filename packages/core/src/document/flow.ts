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
  readonly kind: 'opposite' | 'rests on what is off';
  readonly rules: readonly number[];
  readonly words: string;
}

/** Rules that do the opposite on the same occasion, and rules that wait for what nothing gives any more. */
export function ruleFindings(catalogue: Catalogue): readonly RuleFinding[] {
  const on = catalogue.all('rule').filter(({ body }) => body.on);
  return [
    ...on.flatMap((rule, index) => on.slice(index + 1).flatMap((other) => opposite(rule, other, catalogue))),
    ...on.flatMap((rule) => restsOnOff(rule, catalogue)),
  ];
}

type Rule = Definition<'rule'>;

function opposite(a: Rule, b: Rule, catalogue: Catalogue): readonly RuleFinding[] {
  if (!sameOccasion(a, b)) return [];
  const [first, last] = a.body.position < b.body.position || (a.body.position === b.body.position && a.id < b.id) ? [a, b] : [b, a];
  return first.body.then.flatMap((one) =>
    last.body.then.flatMap((other): RuleFinding[] => {
      const what = undone(one, other, catalogue);
      if (what === undefined) return [];
      const words = `On the same occasion one ${what[0]} and the other ${what[1]}. ${last.name} comes later, so what it does stands.`;
      return [{ kind: 'opposite', rules: [first.id, last.id], words }];
    }),
  );
}

const sameOccasion = ({ body: a }: Rule, { body: b }: Rule): boolean =>
  a.of === b.of && a.when.kind !== 'sweep' && JSON.stringify(a.when) === JSON.stringify(b.when);

/** What two actions do that cannot both stand. */
function undone(a: RuleAction, b: RuleAction, catalogue: Catalogue): readonly [string, string] | undefined {
  const tag = (id: number): string => `the tag ${catalogue.get('tag', id)?.key ?? '…'}`;
  const name = (kind: 'field' | 'stage' | 'audience', id: number): string => catalogue.get(kind, id)?.name ?? '…';
  if (a.do === 'add tag' && b.do === 'remove tag' && a.tag === b.tag) return [`gives ${tag(a.tag)}`, 'takes it off'];
  if (a.do === 'remove tag' && b.do === 'add tag' && a.tag === b.tag) return [`takes ${tag(a.tag)} off`, 'gives it'];
  if (a.do === 'set field' && b.do === 'set field' && a.field === b.field && JSON.stringify(a.value) !== JSON.stringify(b.value))
    return [`sets ${name('field', a.field)}`, 'sets it to something else'];
  if (a.do === 'set field' && b.do === 'clear field' && a.field === b.field) return [`sets ${name('field', a.field)}`, 'clears it'];
  if (a.do === 'put on list' && b.do === 'take off list' && a.audience === b.audience)
    return [`puts on the list ${name('audience', a.audience)}`, 'takes off it'];
  if (a.do === 'take off list' && b.do === 'put on list' && a.audience === b.audience)
    return [`takes off the list ${name('audience', a.audience)}`, 'puts on it'];
  return undefined;
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
