import { dependenciesOf, type Dependencies, type Dependency } from '../conditions/dependencies.ts';
import { type ConditionNode, type DetailNode } from '../conditions/node.ts';
import { prepare, prepareWhere } from '../conditions/prepare.ts';
import { type Checked, type Fault } from '../faults.ts';
import { prepareCard, type PreparedCard } from '../scores/score.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Definition } from '../settings/definitions.ts';
import { type AudienceId, type RuleId, type ScorecardId, type SignalTypeId } from '../settings/ids.ts';

/** Something that is kept up to date for every contact: a score, a membership, or the hidden truth behind a rule's "becomes". */
export type Derived =
  | { readonly kind: 'score'; readonly id: ScorecardId; readonly card: PreparedCard; readonly reads: Dependencies; readonly epoch: number }
  | {
      readonly kind: 'audience';
      readonly id: AudienceId;
      readonly node: ConditionNode;
      readonly reads: Dependencies;
      readonly epoch: number;
    }
  | { readonly kind: 'hidden'; readonly id: RuleId; readonly node: ConditionNode; readonly reads: Dependencies; readonly epoch: number };

export interface CompiledRule {
  readonly definition: Definition<'rule'>;
  readonly when:
    | { readonly kind: 'signal'; readonly type: SignalTypeId; readonly where: readonly DetailNode[] }
    | { readonly kind: 'becomes'; readonly node: ConditionNode };
  readonly if: ConditionNode;
}

export interface Broken {
  readonly id: number;
  readonly faults: readonly Fault[];
}

const ALWAYS: ConditionNode = { kind: 'group', match: 'all', of: [] };

/** All definitions of one epoch made ready to work, in the order in which derived state has to be brought up. */
export class Compiled {
  readonly catalogue: Catalogue;
  readonly epoch: number;
  readonly derived: readonly Derived[];
  readonly rules: ReadonlyMap<RuleId, CompiledRule>;
  /** definitions that rest on something that is gone, or on themselves; they are not worked, and what they hold is kept */
  readonly broken: readonly Broken[];
  readonly #rulesBySignal = new Map<SignalTypeId, CompiledRule[]>();
  readonly #beginning: CompiledRule[] = [];
  readonly #readers = new Map<Dependency, Set<Derived>>();

  constructor(catalogue: Catalogue, epoch = 0) {
    this.catalogue = catalogue;
    this.epoch = epoch;
    const broken: Broken[] = [];
    const keep = <T>(id: number, checked: Checked<T>): T | undefined => {
      if (checked.ok) return checked.value;
      broken.push({ id, faults: checked.faults });
      return undefined;
    };
    const found: Derived[] = [];
    for (const definition of catalogue.all('scorecard')) {
      const card = keep(definition.id, prepareCard(definition.id, definition.body, catalogue));
      if (card) found.push({ kind: 'score', id: card.id, card, reads: cardReads(card), epoch: definition.epoch });
    }
    for (const definition of catalogue.all('audience')) {
      const node = keep(definition.id, prepare(definition.body.condition, catalogue));
      if (node) found.push({ kind: 'audience', id: definition.id, node, reads: dependenciesOf(node), epoch: definition.epoch });
    }
    const rules = new Map<RuleId, CompiledRule>();
    for (const definition of catalogue.all('rule')) {
      const rule = keep(definition.id, compileRule(definition, catalogue));
      if (!rule) continue;
      rules.set(definition.id, rule);
      if (!definition.body.on) continue;
      if (definition.body.beginsWith === 'everyone') this.#beginning.push(rule);
      if (rule.when.kind === 'becomes') {
        found.push({
          kind: 'hidden',
          id: definition.id,
          node: rule.when.node,
          reads: dependenciesOf(rule.when.node),
          epoch: definition.epoch,
        });
      } else {
        const ofType = this.#rulesBySignal.get(rule.when.type) ?? [];
        ofType.push(rule);
        this.#rulesBySignal.set(rule.when.type, ofType);
      }
    }
    const { order, circles } = inOrder(found);
    for (const id of circles)
      broken.push({ id, faults: [{ path: [], code: 'definition.circle', expected: 'a definition that does not rest on itself' }] });
    this.derived = order;
    this.rules = rules;
    this.broken = broken;
    for (const each of order) for (const dependency of each.reads.on) this.#reader(dependency).add(each);
  }

  #reader(dependency: Dependency): Set<Derived> {
    let readers = this.#readers.get(dependency);
    if (!readers) this.#readers.set(dependency, (readers = new Set()));
    return readers;
  }

  /** What has to be looked at again when this was touched. */
  readersOf(dependency: Dependency): ReadonlySet<Derived> {
    return this.#readers.get(dependency) ?? NONE;
  }

  rulesOnSignal(type: SignalTypeId): readonly CompiledRule[] {
    return this.#rulesBySignal.get(type) ?? [];
  }

  /** Rules that begin with everyone and were turned on after an epoch, by position and id. */
  begunSince(epoch: number): readonly CompiledRule[] {
    return this.#beginning.filter((rule) => (rule.definition.onEpoch ?? 0) > epoch);
  }

  /** The types of signals that anything here reads; the others need not be loaded. */
  signalTypesRead(): ReadonlySet<SignalTypeId> {
    const types = new Set<SignalTypeId>();
    const add = (reads: Dependencies): void => {
      for (const dependency of reads.on) if (dependency.startsWith('signal:')) types.add(Number(dependency.slice(7)));
    };
    for (const each of this.derived) add(each.reads);
    for (const rule of this.rules.values()) {
      add(dependenciesOf(rule.if));
      if (rule.when.kind === 'signal') types.add(rule.when.type);
      else add(dependenciesOf(rule.when.node));
    }
    return types;
  }
}

const NONE: ReadonlySet<Derived> = new Set();

export function compileRule(definition: Definition<'rule'>, catalogue: Catalogue): Checked<CompiledRule> {
  const { when, if: condition } = definition.body;
  const ifNode = condition ? prepare(condition, catalogue) : { ok: true as const, value: ALWAYS };
  if (!ifNode.ok) return { ok: false, faults: ifNode.faults.map((fault) => ({ ...fault, path: ['if', ...fault.path] })) };
  const faults = actionFaults(definition, catalogue);
  if (faults.length > 0) return { ok: false, faults };
  if (when.kind === 'becomes') {
    const node = prepare(when.condition, catalogue);
    if (!node.ok) return { ok: false, faults: node.faults.map((fault) => ({ ...fault, path: ['when', 'condition', ...fault.path] })) };
    return { ok: true, value: { definition, when: { kind: 'becomes', node: node.value }, if: ifNode.value } };
  }
  const type = catalogue.get('signalType', when.type);
  if (!type || type.retired)
    return { ok: false, faults: [{ path: ['when', 'type'], code: 'signal-type.unknown', expected: 'a type of signal that exists' }] };
  const where = prepareWhere([type.id], when.where, catalogue, ['when', 'where']);
  if (!where.ok) return where;
  return { ok: true, value: { definition, when: { kind: 'signal', type: type.id, where: where.value }, if: ifNode.value } };
}

function actionFaults(definition: Definition<'rule'>, catalogue: Catalogue): readonly Fault[] {
  return definition.body.then.flatMap((action, index): Fault[] => {
    const [kind, id] = 'tag' in action ? (['tag', action.tag] as const) : (['field', action.field] as const);
    const named = catalogue.get(kind, id);
    return named && !named.retired ? [] : [{ path: ['then', index, kind], code: `${kind}.unknown`, expected: `a ${kind} that exists` }];
  });
}

function cardReads(card: PreparedCard): Dependencies {
  const facts = dependenciesOf(...card.lines.flatMap((line) => (line.kind === 'fact' ? [line.node] : [])));
  const on = new Set(facts.on);
  let clock = facts.clock;
  for (const line of card.lines) {
    if (line.kind !== 'activity') continue;
    on.add(`signal:${line.type}`);
    clock = true;
  }
  return { on, clock };
}

const produces = (derived: Derived): Dependency | undefined =>
  derived.kind === 'score' ? `score:${derived.id}` : derived.kind === 'audience' ? `audience:${derived.id}` : undefined;

/** What is read comes before what reads it; equals go by id, so that the order does not depend on when things were made. */
function inOrder(found: readonly Derived[]): { readonly order: readonly Derived[]; readonly circles: readonly number[] } {
  const waiting = [...found].sort((a, b) => a.id - b.id);
  const order: Derived[] = [];
  const missing = new Set(waiting.map(produces));
  while (waiting.length > 0) {
    const index = waiting.findIndex((each) => [...each.reads.on].every((dependency) => !missing.has(dependency)));
    if (index === -1) return { order, circles: waiting.map((each) => each.id) };
    const [ready] = waiting.splice(index, 1) as [Derived];
    missing.delete(produces(ready));
    order.push(ready);
  }
  return { order, circles: [] };
}
