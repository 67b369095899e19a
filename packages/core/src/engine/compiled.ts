import { dependenciesOf, joined, type Dependency } from '../conditions/dependencies.ts';
import { type ConditionNode } from '../conditions/node.ts';
import { replacedFields } from '../contacts/replaced.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { type CompiledRule, type Step } from '../rules/compile.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { type TagExpiry } from '../tags/definition.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import {
  type AudienceId,
  type BundleId,
  type FieldId,
  type RoutingId,
  type RuleId,
  type ScorecardId,
  type SignalMapId,
  type SignalTypeId,
  type StageId,
  type TagId,
} from '../settings/ids.ts';
import { type AnswerSteps } from './answer-steps.ts';
import { whyBroken, type Broken } from './broken.ts';
import { type SplitPart, compileParts, hiddenOf, type CompiledRouting } from './compile-parts.ts';
import { inOrder, type Derived } from './derived.ts';
import { type CompiledMap } from './maps.ts';

export { type CompiledRouting, type Derived };

/** Which parts of a state the definitions ask for. */
export interface Needs {
  readonly signals: ReadonlySet<SignalTypeId>;
  /** types of signals whose details are needed as they were sent */
  readonly data: ReadonlySet<SignalTypeId>;
  readonly changes: ReadonlySet<string>;
  readonly pastTags: ReadonlySet<number>;
  readonly leavings: ReadonlySet<number>;
  readonly contactsOfCompanies: boolean;
}

const bySubject = (derived: readonly Derived[]) => ({
  contacts: derived.filter((each) => each.of === 'contact'),
  companies: derived.filter((each) => each.of === 'company'),
  ofDeals: derived.filter((each) => each.of === 'deal'),
});

function readOfContacts(companies: readonly Derived[]): ReadonlySet<Dependency> {
  const reads = joined(...companies.map((each) => each.reads));
  return new Set<Dependency>([
    ...reads.ofContacts,
    ...[...reads.on].filter((each) => each === 'deals' || each === 'contacts' || each.startsWith('signal:')),
    ...(companies.length > 0 ? (['company'] as const) : []),
  ]);
}

/** All definitions of one epoch made ready to work, in the order in which derived state has to be brought up. */
export class Compiled {
  readonly catalogue: Catalogue;
  readonly epoch: number;
  readonly derived: readonly Derived[];
  readonly rules: ReadonlyMap<RuleId, CompiledRule>;
  readonly routing: ReadonlyMap<RoutingId, CompiledRouting>;
  /** tags that go by themselves */
  readonly expiries: ReadonlyMap<TagId, TagExpiry>;
  /** what has to be so of a contact that comes to a stage */
  readonly gates: ReadonlyMap<StageId, ConditionNode>;
  /** what tags are split into */
  readonly splits: ReadonlyMap<TagId, readonly SplitPart[]>;
  /** what bundles do when they are run by hand */
  readonly bundles: ReadonlyMap<BundleId, readonly Step[]>;
  /** fields of which values are others by now */
  readonly replacedFields: ReadonlySet<FieldId>;
  /** signal maps that are on */
  readonly maps: ReadonlyMap<SignalMapId, CompiledMap>;
  /** rules that are on and go by a date, by whom they are for */
  readonly dateRules: Readonly<Record<SubjectKind, readonly CompiledRule[]>>;
  /** definitions in use that cannot be evaluated; their members, bands and so on are left as they are */
  readonly broken: readonly Broken[];
  /** of each broken definition, retired ones too, why it stands still */
  readonly whyBroken: ReadonlyMap<number, string>;
  /** what company definitions read from contacts: a contact that touches any of it marks its company for a refresh */
  readonly readOfContacts: ReadonlySet<Dependency>;
  /** what the definitions of contacts read of their company */
  readonly readOfCompanies: ReadonlySet<Dependency>;
  /** facts with which the ladder is kept in step */
  readonly stepFields: ReadonlySet<FieldId>;
  readonly #rulesBySignal = new Map<SignalTypeId, CompiledRule[]>();
  readonly #mapsBySignal = new Map<SignalTypeId, CompiledMap[]>();
  readonly #answers: ReadonlyMap<number, AnswerSteps>;
  readonly #beginning: readonly CompiledRule[];
  readonly #broken: ReadonlyMap<number, Broken>;
  readonly #cards = new Map<ScorecardId, PreparedCard>();
  readonly #audiences = new Map<AudienceId, ConditionNode>();
  #needs: Needs | undefined;
  readonly #derivedBy: Readonly<Record<SubjectKind, readonly Derived[]>>;
  readonly #readers: Partial<Record<SubjectKind, ReadonlyMap<Dependency, readonly number[]>>> = {};

  constructor(catalogue: Catalogue, epoch = 0) {
    this.catalogue = catalogue;
    this.epoch = epoch;
    const parts = compileParts(catalogue);
    const { stopped, rules } = parts;
    this.#broken = stopped;
    this.broken = [...stopped.values()].filter(({ id }) => !catalogue.any(id)?.retired || parts.used.has(id));
    this.whyBroken = new Map([...stopped.values()].map((each) => [each.id, whyBroken(each, catalogue, stopped)]));
    const on = [...rules.values()].filter((rule) => rule.definition.body.on);
    this.#beginning = on.filter((rule) => rule.definition.body.beginsWith === 'everyone');
    for (const rule of on) if (rule.when.kind === 'signal') append(this.#rulesBySignal, rule.when.type, rule);
    for (const map of parts.maps) for (const type of [...map.adds, ...map.takes]) append(this.#mapsBySignal, type, map);
    const { order } = inOrder([...parts.derived, ...on.flatMap(hiddenOf)].filter((each) => !stopped.has(each.id)));
    this.derived = order;
    for (const each of order) {
      if (each.kind === 'score') this.#cards.set(each.id, each.card);
      else if (each.kind === 'audience') this.#audiences.set(each.id, each.node);
    }
    this.rules = rules;
    this.routing = parts.routing;
    this.bundles = parts.bundles;
    this.gates = parts.gates;
    this.splits = parts.splits;
    this.replacedFields = replacedFields(catalogue);
    this.expiries = new Map(catalogue.every('tag').flatMap(({ id, body }) => (body.expires ? [[id, body.expires] as const] : [])));
    this.maps = new Map(parts.maps.map((map) => [map.id, map]));
    this.#answers = parts.answers;
    const byDate = (of: SubjectKind): readonly CompiledRule[] => on.filter((rule) => rule.when.kind === 'date' && rule.of === of);
    this.dateRules = { contact: byDate('contact'), company: byDate('company'), deal: byDate('deal') };
    const { contacts, companies, ofDeals } = bySubject(order);
    // Deals are scored after their holder, because their scorecards may read the holder's state.
    this.#derivedBy = { contact: [...contacts, ...ofDeals], company: [...companies, ...ofDeals], deal: [] };
    this.stepFields = new Set(catalogue.ladder().flatMap(({ body }) => (body.facts ?? []).map(({ field }) => field)));
    this.readOfContacts = readOfContacts(companies);
    this.readOfCompanies = new Set(
      contacts.flatMap((each) => [...each.reads.on]).filter((each) => each.startsWith('field:') && fieldOf(each, catalogue) === 'company'),
    );
  }

  /** Whether a definition is not evaluated because it, or something it depends on, is broken. */
  isBroken(id: number): boolean {
    return this.#broken.has(id);
  }

  /** A scorecard that is worked, made ready. */
  card(id: ScorecardId): PreparedCard | undefined {
    return this.#cards.get(id);
  }

  /** The condition of a live audience that is worked. */
  audienceNode(id: AudienceId): ConditionNode | undefined {
    return this.#audiences.get(id);
  }

  /** What is kept up to date for a kind of subject, in order. */
  derivedFor(kind: SubjectKind): readonly Derived[] {
    return this.#derivedBy[kind];
  }

  /** For each dependency, the indices in `derivedFor` of the definitions that read it. */
  readersFor(kind: SubjectKind): ReadonlyMap<Dependency, readonly number[]> {
    return (this.#readers[kind] ??= readersOf(this.#derivedBy[kind]));
  }

  rulesOnSignal(type: SignalTypeId): readonly CompiledRule[] {
    return this.#rulesBySignal.get(type) ?? [];
  }

  mapsOnSignal(type: SignalTypeId): readonly CompiledMap[] {
    return this.#mapsBySignal.get(type) ?? [];
  }

  /** What a form's answer map does beside giving tags; nothing while the form is broken. */
  answerSteps(form: number): AnswerSteps | undefined {
    return this.isBroken(form) ? undefined : this.#answers.get(form);
  }

  /** Rules that apply to the past and were turned on after an epoch, ordered by position and id. */
  begunSince(epoch: number, of: SubjectKind): readonly CompiledRule[] {
    return this.#beginning
      .filter((rule) => rule.of === of && (rule.definition.onEpoch ?? 0) > epoch)
      .sort((a, b) => a.definition.body.position - b.definition.body.position || a.definition.id - b.definition.id);
  }

  /** The parts of a state that any definition here can read; the rest need not be loaded. */
  get needs(): Needs {
    this.#needs ??= this.#findNeeds();
    return this.#needs;
  }

  #findNeeds(): Needs {
    const reads = joined(
      ...this.derived.map((each) => each.reads),
      ...[...this.rules.values()].map((rule) => rule.reads),
      ...[...this.#answers.values()].map((steps) => dependenciesOf(...[...steps.values()].flat().map((step) => step.if))),
      ...[...this.routing.values()].map((table) => dependenciesOf(...table.rows.map((row) => row.if))),
      dependenciesOf(...this.gates.values()),
      dependenciesOf(...[...this.splits.values()].flat().map((part) => part.if)),
      ...[...this.bundles.values()].map((steps) => dependenciesOf(...steps.map((step) => step.if))),
    );
    const on = new Set([...reads.on, ...reads.ofContacts]);
    const of = (kind: string, from: Iterable<Dependency>): readonly number[] =>
      [...from].flatMap((each) => (each.startsWith(`${kind}:`) ? [Number(each.slice(kind.length + 1))] : []));
    const plans = ['plan.started', 'plan.renewed', 'plan.lapsed'].flatMap((key) => this.catalogue.find('signalType', key)?.id ?? []);
    const rules = [...this.rules.values()];
    return {
      signals: new Set([...of('signal', on), ...this.#mapsBySignal.keys(), ...plans]),
      data: new Set(rules.flatMap((rule) => (rule.takesDetails && rule.when.kind === 'signal' ? [rule.when.type] : []))),
      changes: new Set([...on].flatMap((each) => (each.startsWith('change:') ? [each.slice('change:'.length)] : []))),
      pastTags: new Set([...of('tag', reads.past), ...beingReplaced(this.catalogue)]),
      leavings: new Set(of('audience', reads.past)),
      contactsOfCompanies:
        reads.ofContacts.size > 0 ||
        [...this.#derivedBy.company, ...rules.filter((rule) => rule.of === 'company')].some(
          ({ reads: { on: each } }) => each.has('contacts') || readsSignals(each),
        ),
    };
  }
}

const readsSignals = (on: ReadonlySet<Dependency>): boolean => [...on].some((each) => each.startsWith('signal:'));

const fieldOf = (dependency: Dependency, catalogue: Catalogue): string | undefined =>
  catalogue.body('field', Number(dependency.slice('field:'.length)))?.of;

function append<Key, Value>(map: Map<Key, Value[]>, key: Key, value: Value): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

function readersOf(derived: readonly Derived[]): ReadonlyMap<Dependency, readonly number[]> {
  const readers = new Map<Dependency, number[]>();
  derived.forEach(({ reads }, place) => {
    for (const dependency of reads.on) append(readers, dependency, place);
  });
  return readers;
}

/** Tags that others take the place of just now, and those: what was had before is handed on, too. */
const beingReplaced = (catalogue: Catalogue): readonly TagId[] =>
  catalogue
    .all('tag')
    .flatMap(({ id, body: { replacedBy, splitInto = [] } }) =>
      replacedBy === undefined ? [] : [id, replacedBy, ...splitInto.map(({ tag }) => tag)],
    );
