import { dependenciesOf, joined, READS_NOTHING, type Dependencies } from '../conditions/dependencies.ts';
import { type ConditionNode, type DetailNode } from '../conditions/node.ts';
import { prepare, prepareWhere } from '../conditions/prepare/prepare.ts';
import { type Condition } from '../conditions/schema.ts';
import { detailAt } from '../conditions/prepare/details.ts';

import { type DetailField } from '../intake/signal-types.ts';
import { storageOf, type Storage } from '../contacts/fields.ts';
import { type Checked, type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Definition, type DefinitionKind } from '../settings/definitions.ts';
import { type SignalTypeId } from '../settings/ids.ts';
import { tagStorage } from '../tags/values.ts';
import { actionsFor, kindOfAction } from './action-kinds.ts';
import { ACTION_REFERENCES } from './actions.ts';
import { type RuleAction, type RuleBody, type RuleSubject } from './definition.ts';

type Path = readonly (string | number)[];
export type DateWhen = Extract<RuleBody['when'], { kind: 'date' }>;

/** One action; inside a bundle it may have a condition of its own. */
export interface Step {
  readonly if: ConditionNode;
  readonly action: RuleAction;
  /** where it stands in its rule */
  readonly path: Path;
}

export interface CompiledRule {
  readonly definition: Definition<'rule'>;
  readonly of: RuleSubject;
  readonly when:
    | { readonly kind: 'signal'; readonly type: SignalTypeId; readonly where: readonly DetailNode[] }
    | { readonly kind: 'becomes'; readonly node: ConditionNode }
    | { readonly kind: 'date'; readonly date: DateWhen }
    | { readonly kind: 'sweep' };
  readonly if: ConditionNode;
  /** bundles are laid out in place */
  readonly steps: readonly Step[];
  readonly reads: Dependencies;
  /** whether an action takes a value from the signal as it was sent */
  readonly takesDetails: boolean;
}

export const ALWAYS: ConditionNode = { kind: 'group', match: 'all', of: [] };

/** Makes a rule ready to run, or says everything that is wrong with it. */
export function compileRule(definition: Definition<'rule'>, catalogue: Catalogue): Checked<CompiledRule> {
  const compiling = new Compiling(catalogue, definition.body.of);
  const rule = compiling.rule(definition);
  return compiling.faults.length > 0 ? { ok: false, faults: compiling.faults } : { ok: true, value: rule };
}

/** Makes a bundle ready to be run by itself, or says what is wrong with it. */
export function compileBundle(definition: Definition<'bundle'>, catalogue: Catalogue): Checked<readonly Step[]> {
  const compiling = new Compiling(catalogue, 'contact');
  const steps = compiling.bundle(definition, ['then']);
  return compiling.faults.length > 0 ? { ok: false, faults: compiling.faults } : { ok: true, value: steps };
}

/** Actions that stand by themselves, such as those of an answer map: bundles are laid out in place. */
export function compileActions(
  actions: readonly RuleAction[],
  catalogue: Catalogue,
  path: Path,
  type: SignalTypeId | undefined,
): Checked<readonly Step[]> {
  const compiling = new Compiling(catalogue, 'contact');
  const steps = compiling.actions(actions, path, type);
  return compiling.faults.length > 0 ? { ok: false, faults: compiling.faults } : { ok: true, value: steps };
}

class Compiling {
  readonly faults: Fault[] = [];
  readonly #catalogue: Catalogue;
  readonly #of: RuleSubject;

  constructor(catalogue: Catalogue, of: RuleSubject) {
    this.#catalogue = catalogue;
    this.#of = of;
  }

  rule(definition: Definition<'rule'>): CompiledRule {
    const { body } = definition;
    const when = this.#when(body.when);
    const ifNode = this.#condition(body.if, ['if']);
    const steps = this.actions(body.then, ['then'], when.kind === 'signal' ? when.type : undefined);
    const reads = joined(
      dependenciesOf(ifNode, ...steps.map((step) => step.if), ...(when.kind === 'becomes' ? [when.node] : [])),
      ...(when.kind === 'signal' ? [{ ...READS_NOTHING, on: new Set([`signal:${when.type}` as const]) }] : []),
    );
    const takesDetails = steps.some(({ action }) =>
      ['value', 'by'].some((property) => isDetail((action as Record<string, unknown>)[property])),
    );
    return { definition, of: body.of, when, if: ifNode, steps, reads, takesDetails };
  }

  /** @param type of the signal that values can be taken from */
  actions(actions: readonly RuleAction[], path: Path, type: SignalTypeId | undefined): readonly Step[] {
    const steps = actions.flatMap((action, index) => this.#steps(action, [...path, index]));
    steps.forEach((step) => this.#details(step, type));
    return steps;
  }

  bundle(definition: Definition<'bundle'>, path: Path): readonly Step[] {
    return definition.body.then.flatMap((step, index): readonly Step[] => {
      const here = [...path, index];
      if (step.action.do === 'run bundle') {
        this.#fault([...here, 'action'], 'bundle.nested', 'an action: bundles do not run bundles');
        return [];
      }
      this.#check(step.action, [...here, 'action']);
      return [{ if: this.#condition(step.if, [...here, 'if']), action: step.action, path: [...here, 'action'] }];
    });
  }

  #when(when: RuleBody['when']): CompiledRule['when'] {
    const catalogue = this.#catalogue;
    switch (when.kind) {
      case 'sweep':
        return { kind: 'sweep' };
      case 'becomes':
        return { kind: 'becomes', node: this.#condition(when.condition, ['when', 'condition']) };
      case 'signal': {
        if (this.#of === 'company')
          this.#fault(['when', 'kind'], 'rule.subject', 'a condition that becomes true, or a date: signals are those of contacts');
        if (!catalogue.get('signalType', when.type)) this.#fault(['when', 'type'], 'signalType.unknown', 'a type of signal that exists');
        const where = prepareWhere([when.type], when.where, catalogue, ['when', 'where']);
        if (!where.ok) this.faults.push(...where.faults);
        return { kind: 'signal', type: when.type, where: where.ok ? where.value : [] };
      }
      case 'date': {
        const field = when.field === undefined ? undefined : catalogue.get('field', when.field);
        const tag = when.tag === undefined ? undefined : catalogue.get('tag', when.tag);
        const storage = field?.body.of === this.#of ? storageOf[field.body.type] : undefined;
        if (when.field !== undefined && storage !== 'day' && storage !== 'instant')
          this.#fault(['when', 'field'], 'date.field', `a date or date-time of the ${this.#of}`);
        if (when.tag !== undefined && this.#of === 'company')
          this.#fault(['when', 'tag'], 'rule.subject', 'a field of the company: tags are those of contacts');
        if (when.tag !== undefined && tag?.body.value !== 'date') this.#fault(['when', 'tag'], 'date.tag', 'a tag that carries a date');
        return { kind: 'date', date: when };
      }
    }
  }

  #condition(condition: Condition | undefined, path: Path): ConditionNode {
    if (condition === undefined) return ALWAYS;
    const node = prepare(condition, this.#catalogue, this.#of);
    if (node.ok) return node.value;
    this.faults.push(...node.faults.map((fault) => ({ ...fault, path: [...path, ...fault.path] })));
    return ALWAYS;
  }

  #steps(action: RuleAction, path: Path): readonly Step[] {
    if (!kindOfAction(action).of.includes(this.#of)) {
      this.#fault([...path, 'do'], 'action.subject', `something that can be done to a ${this.#of}: ${actionsFor(this.#of).join(', ')}`);
      return [];
    }
    if (action.do !== 'run bundle') {
      this.#check(action, path);
      return [{ if: ALWAYS, action, path }];
    }
    const bundle = this.#catalogue.get('bundle', action.bundle);
    if (bundle) return this.bundle(bundle, [...path, 'bundle']);
    this.#fault([...path, 'bundle'], 'bundle.unknown', 'a bundle that exists');
    return [];
  }

  /** Whether everything that an action names exists, and fits what is done with it. */
  #check(action: RuleAction, path: Path): void {
    const catalogue = this.#catalogue;
    for (const [property, kind] of Object.entries(ACTION_REFERENCES)) {
      const id = (action as unknown as Record<string, number | undefined>)[property];
      if (id !== undefined && !catalogue.get(kind as DefinitionKind, id))
        return this.#fault([...path, property], `${kind}.unknown`, `a ${kind} that exists`);
    }
    const wrong = kindOfAction(action).misfit(action, this.#of, catalogue);
    if (wrong) this.#fault([...path, wrong.property], 'action.misfit', wrong.expected);
  }

  /** Checks that a value taken from the signal exists in that type of signal and fits the field. */
  #details({ action, path }: Step, type: SignalTypeId | undefined): void {
    for (const property of ['value', 'by'] as const) {
      const given = (action as Record<string, unknown>)[property];
      if (!isDetail(given)) continue;
      const { detail } = given as { readonly detail: string };
      const here = [...path, property, 'detail'];
      const fields = type === undefined ? [] : this.#catalogue.detailsOf([type]);
      const found = detailAt(fields, detail.split('.'));
      const kind = found === 'answer' ? 'text' : found?.type;
      const names = fields.filter((field) => field.type !== 'list').map((field) => field.key);
      if (type === undefined)
        this.#fault(here, 'detail.signal', 'a value that is written down: only a rule that a signal sets off can take one from it');
      else if (kind === undefined || kind === 'list' || kind === 'answers')
        this.#fault(here, 'detail.unknown', `one of the signal's details: ${names.join(', ') || 'it has none'}`);
      else if (!fits(kind, keptBy(action, this.#catalogue)))
        this.#fault(here, 'detail.misfit', `a detail that fits: ${detail} is ${kind === 'yes/no' ? 'yes or no' : `a ${kind}`}`);
    }
  }

  #fault(path: Path, code: string, expected: string): void {
    this.faults.push({ path, code, expected });
  }
}

const isDetail = (value: unknown): boolean => typeof value === 'object' && value !== null && 'detail' in value;

/** How the field or the tag that an action gives a value keeps it. */
function keptBy(action: RuleAction, catalogue: Catalogue): Storage | undefined {
  if (action.do === 'add tag') {
    const kept = catalogue.body('tag', action.tag)?.value;
    return kept && tagStorage[kept];
  }
  const type = 'field' in action ? catalogue.body('field', action.field)?.type : undefined;
  return type && storageOf[type];
}

/** Whether a detail can be converted to the stored type. Text may hold anything, so it is only checked when it arrives. */
function fits(detail: Exclude<DetailField['type'], 'list' | 'answers'>, kept: Storage | undefined): boolean {
  if (kept === undefined || detail === 'text') return true;
  const taken: Readonly<Record<Storage, readonly string[]>> = {
    text: ['number', 'date', 'date-time'],
    number: ['number', 'money'],
    day: ['date', 'date-time'],
    instant: ['date', 'date-time'],
    yesNo: ['yes/no'],
    active: ['yes/no'],
    choice: [],
    choices: [],
  };
  return taken[kept].includes(detail);
}
