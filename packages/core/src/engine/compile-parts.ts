import { dependenciesOf, type Dependencies, type Dependency } from '../conditions/dependencies.ts';
import { type ConditionNode } from '../conditions/node.ts';
import { prepare } from '../conditions/prepare/prepare.ts';
import { type Condition } from '../conditions/schema.ts';
import { referencesIn } from '../document/document.ts';
import { optionOf } from '../contacts/facts.ts';
import { choicesOf } from '../contacts/fields.ts';
import { within, type Checked, type Fault } from '../faults.ts';
import { type StageBody } from '../rules/ladder.ts';
import { compileActions, compileBundle, compileRule, type CompiledRule, type Step } from '../rules/compile.ts';
import { type RoutingBody } from '../rules/routing.ts';
import { prepareCard, type PreparedCard } from '../scores/prepare.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition } from '../settings/definitions.ts';
import { type BundleId, type RoutingId, type RuleId, type StageId, type TagId } from '../settings/ids.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { answerSteps, type AnswerSteps } from './answer-steps.ts';
import { brokenIn, type Broken } from './broken.ts';
import { inOrder, type Derived } from './derived.ts';
import { compileMap, type CompiledMap } from './maps.ts';

export interface CompiledRouting {
  readonly rows: readonly {
    readonly key: string;
    readonly if: ConditionNode;
    readonly owners: readonly string[];
    readonly team: string | undefined;
  }[];
  readonly body: RoutingBody;
}

/** One of the tags that another one was split into. */
export interface SplitPart {
  readonly tag: TagId;
  readonly if: ConditionNode;
}

const ALWAYS: ConditionNode = { kind: 'group', match: 'all', of: [] };
const NEVER: ConditionNode = { kind: 'group', match: 'any', of: [] };

interface Parts {
  /** definitions that are retired and still used */
  readonly used: ReadonlySet<number>;
  /** definitions that are not evaluated because they, or something they depend on, are broken */
  readonly stopped: ReadonlyMap<number, Broken>;
  /** scorecards and audiences, those that stand still too */
  readonly derived: readonly Derived[];
  readonly rules: ReadonlyMap<RuleId, CompiledRule>;
  readonly routing: ReadonlyMap<RoutingId, CompiledRouting>;
  readonly bundles: ReadonlyMap<BundleId, readonly Step[]>;
  readonly gates: ReadonlyMap<StageId, ConditionNode>;
  /** what tags were split into, and for whom; what cannot be answered is for nobody */
  readonly splits: ReadonlyMap<TagId, readonly SplitPart[]>;
  /** maps that are on */
  readonly maps: readonly CompiledMap[];
  /** of each form what its answer map does beside giving tags */
  readonly answers: ReadonlyMap<number, AnswerSteps>;
}

/** Keeps what is right and notes the faults of what is not. */
class Faulty {
  readonly faults = new Map<number, readonly Fault[]>();

  keep<T>(id: number, checked: Checked<T>): T | undefined {
    if (checked.ok) return checked.value;
    this.add(id, checked.faults);
    return undefined;
  }

  add(id: number, faults: readonly Fault[]): void {
    if (faults.length > 0) this.faults.set(id, [...(this.faults.get(id) ?? []), ...faults]);
  }
}

/** Compiles each definition on its own and finds those that cannot be evaluated. */
export function compileParts(catalogue: Catalogue): Parts {
  const faulty = new Faulty();
  const used = retiredButUsed(catalogue);
  const derived = [...scoresOf(catalogue, used, faulty), ...audiencesOf(catalogue, used, faulty)];
  const rules = catalogue.all('rule').flatMap((definition) => faulty.keep(definition.id, compileRule(definition, catalogue)) ?? []);
  const routing = catalogue.all('routing').map((definition) => [definition.id, compileRouting(definition, catalogue, faulty)] as const);
  const bundles = catalogue
    .all('bundle')
    .map((definition) => [definition.id, faulty.keep(definition.id, compileBundle(definition, catalogue)) ?? []] as const);
  const gates = catalogue
    .all('stage')
    .flatMap(({ id, body }) =>
      body.needs ? [[id, faulty.keep(id, within(['needs'], prepare(body.needs, catalogue))) ?? NEVER] as const] : [],
    );
  for (const { id, body } of catalogue.all('stage')) faulty.add(id, stepFaults(body, catalogue));
  const splits = catalogue.every('tag').flatMap(({ id, body: { splitInto } }) => {
    const node = (condition: Condition): ConditionNode => {
      const made = prepare(condition, catalogue);
      return made.ok ? made.value : NEVER;
    };
    return splitInto ? [[id, splitInto.map((part) => ({ tag: part.tag, if: node(part.if as Condition) }))] as const] : [];
  });
  const maps = catalogue.all('map').flatMap((definition) => faulty.keep(definition.id, compileMap(definition, catalogue)) ?? []);
  const answers = new Map(catalogue.all('form').map((form) => [form.id, stepsOf(form, catalogue, faulty)]));
  for (const id of inOrder(derived).circles)
    faulty.faults.set(id, [{ path: [], code: 'definition.circle', expected: 'a definition that does not rest on itself' }]);
  const stopped = brokenIn(catalogue, faulty.faults);
  return {
    used,
    stopped,
    derived,
    rules: new Map(rules.filter(({ definition }) => !stopped.has(definition.id)).map((rule) => [rule.definition.id, rule])),
    routing: new Map(routing.filter(([id]) => !stopped.has(id))),
    gates: new Map(gates),
    splits: new Map(splits),
    bundles: new Map(bundles.filter(([id]) => !stopped.has(id))),
    answers,
    maps: maps.filter(({ id }) => !stopped.has(id) && catalogue.body('map', id)?.on),
  };
}

/** A stage is kept in step with choices that contacts have, one at a time. */
const stepFaults = ({ facts = [] }: StageBody, catalogue: Catalogue): readonly Fault[] =>
  facts.flatMap(({ field, value }, index): readonly Fault[] => {
    const body = catalogue.body('field', field);
    if (body?.of !== 'contact' || body.type !== 'one choice')
      return [{ path: ['facts', index, 'field'], code: 'stage.fact', expected: 'a field of contacts with one choice' }];
    if (optionOf(body, value) !== undefined) return [];
    const keys = choicesOf(body).map(({ key }) => key);
    return [{ path: ['facts', index, 'value'], code: 'value.choice', expected: `one of ${keys.join(', ')}` }];
  });

/** The definitions of a kind that are evaluated: the active ones, and retired ones that something still uses. */
const standing = <Kind extends 'scorecard' | 'audience'>(
  kind: Kind,
  catalogue: Catalogue,
  used: ReadonlySet<number>,
): readonly Definition<Kind>[] => catalogue.every(kind).filter((each) => !each.retired || used.has(each.id));

const scoresOf = (catalogue: Catalogue, used: ReadonlySet<number>, faulty: Faulty): readonly Derived[] =>
  standing('scorecard', catalogue, used).flatMap((definition): Derived[] => {
    const { id, body, epoch } = definition;
    const card = faulty.keep(id, prepareCard(id, body, catalogue));
    return card ? [{ kind: 'score', id, card, reads: cardReads(card), epoch, cause: causeOf(definition), of: card.of }] : [];
  });

const audiencesOf = (catalogue: Catalogue, used: ReadonlySet<number>, faulty: Faulty): readonly Derived[] =>
  standing('audience', catalogue, used).flatMap((definition): Derived[] => {
    const { id, body, epoch } = definition;
    const node = body.condition && faulty.keep(id, within(['condition'], prepare(body.condition, catalogue, body.of)));
    if (!node) return [];
    const reads = dependenciesOf(node);
    const withPins = { ...reads, on: new Set<Dependency>([...reads.on, `pin:${id}`]) };
    return [{ kind: 'audience', id, node, reads: withPins, epoch, cause: causeOf(definition), of: body.of }];
  });

const stepsOf = (form: Definition<'form'>, catalogue: Catalogue, faulty: Faulty): AnswerSteps => {
  const type = catalogue.find('signalType', 'form.answered')?.id;
  return answerSteps(form, (actions, path) => faulty.keep(form.id, compileActions(actions, catalogue, path, type)) ?? []);
};

function compileRouting(definition: Definition<'routing'>, catalogue: Catalogue, faulty: Faulty): CompiledRouting {
  const rows = definition.body.rows.flatMap((row, index) => {
    const node = row.if ? faulty.keep(definition.id, within(['rows', index, 'if'], prepare(row.if, catalogue))) : ALWAYS;
    return node ? [{ key: row.key, if: node, owners: row.owners, team: row.team }] : [];
  });
  return { rows, body: definition.body };
}

/** The hidden condition by which a rule detects that its "becomes" condition turned true. */
export function hiddenOf({ definition, when, of }: CompiledRule): readonly Derived[] {
  if (when.kind !== 'becomes') return [];
  const { node } = when;
  const { id, epoch } = definition;
  return [{ kind: 'hidden', id, node, reads: dependenciesOf(node), epoch, cause: causeOf(definition), of }];
}

const causeOf = ({ id, version, epochCause }: Pick<AnyDefinition, 'id' | 'version' | 'epochCause'>): string =>
  epochCause ?? `${id}/${version}`;

/** Retired scorecards and audiences that an active definition still depends on, directly or through others. */
function retiredButUsed(catalogue: Catalogue): ReadonlySet<number> {
  const used = new Set<number>();
  const waiting = definitionKinds.flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[]);
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    for (const id of referencesIn(next)) {
      const named = catalogue.get('scorecard', id) ?? catalogue.get('audience', id);
      if (!named?.retired || used.has(id)) continue;
      used.add(id);
      waiting.push(named as AnyDefinition);
    }
  }
  return used;
}

function cardReads(card: PreparedCard): Dependencies {
  const facts = dependenciesOf(...card.lines.flatMap((line) => (line.kind === 'fact' ? [line.node] : [])));
  const on = new Set<Dependency>(facts.on);
  for (const line of card.lines) if (line.kind === 'activity') on.add(`signal:${line.type}`);
  if (card.of === 'deal') on.add('deals');
  if (card.of === 'contact') on.add(`points:${card.id}`);
  // Points from rules may expire or halve, so even a card without lines depends on the clock.
  return { ...facts, on, clock: true };
}
