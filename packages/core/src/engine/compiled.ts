import { dependenciesOf, joined, type Dependencies, type Dependency } from '../conditions/dependencies.ts';
import { changeKey, type ConditionNode } from '../conditions/node.ts';
import { prepare } from '../conditions/prepare/prepare.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { within, type Checked, type Fault } from '../faults.ts';
import { bundleFaults, compileRule, type CompiledRule } from '../rules/compile.ts';
import { prepareCard, type PreparedCard } from '../scores/prepare.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { referencesIn } from '../document/document.ts';
import { type AudienceId, type RoutingId, type RuleId, type ScorecardId, type SignalTypeId } from '../settings/ids.ts';
import { brokenIn, whyBroken, type Broken } from './broken.ts';
import { compileMap, type CompiledMap } from './maps.ts';

interface Keeping {
  readonly reads: Dependencies;
  /** the epoch in which its meaning last changed */
  readonly epoch: number;
  /** what changed it then: the `definition/version` that was saved */
  readonly cause: string;
  /** whose state it is kept with: a deal's scores are kept by whoever holds the deal */
  readonly of: SubjectKind;
}

/** Something that is kept up to date for every subject: a score, a membership, or the hidden truth behind a rule's "becomes". */
export type Derived =
  | (Keeping & { readonly kind: 'score'; readonly id: ScorecardId; readonly card: PreparedCard })
  | (Keeping & { readonly kind: 'audience'; readonly id: AudienceId; readonly node: ConditionNode })
  | (Keeping & { readonly kind: 'hidden'; readonly id: RuleId; readonly node: ConditionNode });

export interface CompiledRouting {
  readonly rows: readonly { readonly key: string; readonly if: ConditionNode; readonly owners: readonly string[] }[];
}

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

const ALWAYS: ConditionNode = { kind: 'group', match: 'all', of: [] };

/** All definitions of one epoch made ready to work, in the order in which derived state has to be brought up. */
export class Compiled {
  readonly catalogue: Catalogue;
  readonly epoch: number;
  readonly derived: readonly Derived[];
  readonly rules: ReadonlyMap<RuleId, CompiledRule>;
  readonly routing: ReadonlyMap<RoutingId, CompiledRouting>;
  /** rules that are on and go by a date, by whom they are for */
  readonly dateRules: Readonly<Record<SubjectKind, readonly CompiledRule[]>>;
  /** definitions that cannot be worked, of those that are in use: what they hold is kept as it is */
  readonly broken: readonly Broken[];
  /** of each broken definition, retired ones too, why it stands still */
  readonly whyBroken: ReadonlyMap<number, string>;
  /** what the definitions of companies read of their contacts: a contact that touches any of it marks its company */
  readonly readOfContacts: ReadonlySet<Dependency>;
  /** what the definitions of contacts read of their company */
  readonly readOfCompanies: ReadonlySet<Dependency>;
  readonly #rulesBySignal = new Map<SignalTypeId, CompiledRule[]>();
  readonly #mapsBySignal = new Map<SignalTypeId, CompiledMap[]>();
  readonly #beginning: CompiledRule[] = [];
  readonly #broken: ReadonlyMap<number, Broken>;
  readonly #cards = new Map<ScorecardId, PreparedCard>();
  readonly #audiences = new Map<AudienceId, ConditionNode>();
  #needs: Needs | undefined;
  readonly #derivedBy: Readonly<Record<SubjectKind, readonly Derived[]>>;
  readonly #readers: Partial<Record<SubjectKind, ReadonlyMap<Dependency, readonly number[]>>> = {};

  constructor(catalogue: Catalogue, epoch = 0) {
    this.catalogue = catalogue;
    this.epoch = epoch;
    const faults = new Map<number, readonly Fault[]>();
    const keep = <T>(id: number, checked: Checked<T>): T | undefined => {
      if (checked.ok) return checked.value;
      faults.set(id, [...(faults.get(id) ?? []), ...checked.faults]);
      return undefined;
    };
    const found: Derived[] = [];
    const used = retiredButUsed(catalogue);
    const standing = <Kind extends 'scorecard' | 'audience'>(kind: Kind): readonly Definition<Kind>[] =>
      catalogue.every(kind).filter((each) => !each.retired || used.has(each.id));
    for (const definition of standing('scorecard')) {
      const { id, body, epoch: changed } = definition;
      const card = keep(id, prepareCard(id, body, catalogue));
      if (card)
        found.push({ kind: 'score', id: card.id, card, reads: cardReads(card), epoch: changed, cause: causeOf(definition), of: card.of });
    }
    for (const definition of standing('audience')) {
      const { id, body, epoch: changed } = definition;
      if (!body.condition) continue;
      const node = keep(id, within(['condition'], prepare(body.condition, catalogue, body.of)));
      if (!node) continue;
      const reads = dependenciesOf(node);
      found.push({
        kind: 'audience',
        id,
        node,
        reads: { ...reads, on: new Set<Dependency>([...reads.on, `pin:${id}`]) },
        epoch: changed,
        cause: causeOf(definition),
        of: body.of,
      });
    }
    const rules = new Map<RuleId, CompiledRule>();
    const dateRules: Record<SubjectKind, CompiledRule[]> = { contact: [], company: [], deal: [] };
    for (const definition of catalogue.all('rule')) {
      const rule = keep(definition.id, compileRule(definition, catalogue));
      if (rule) rules.set(definition.id, rule);
    }
    const routing = new Map<RoutingId, CompiledRouting>();
    for (const definition of catalogue.all('routing')) {
      const rows = definition.body.rows.flatMap((row, index) => {
        const node = row.if ? keep(definition.id, within(['rows', index, 'if'], prepare(row.if, catalogue))) : ALWAYS;
        return node ? [{ key: row.key, if: node, owners: row.owners }] : [];
      });
      routing.set(definition.id, { rows });
    }
    for (const definition of catalogue.all('bundle')) {
      const found = bundleFaults(definition, catalogue);
      if (found.length > 0) faults.set(definition.id, found);
    }
    const maps = catalogue.all('map').flatMap((definition) => keep(definition.id, compileMap(definition, catalogue)) ?? []);
    for (const id of inOrder(found).circles)
      faults.set(id, [{ path: [], code: 'definition.circle', expected: 'a definition that does not rest on itself' }]);
    const stopped = brokenIn(catalogue, faults);
    this.#broken = stopped;
    this.broken = [...stopped.values()].filter(({ id }) => !catalogue.any(id)?.retired || used.has(id));
    this.whyBroken = new Map([...stopped.values()].map((each) => [each.id, whyBroken(each, catalogue, stopped)]));

    for (const id of stopped.keys()) rules.delete(id);
    for (const id of stopped.keys()) routing.delete(id);
    const standingStill = new Set<number>(stopped.keys());
    for (const rule of rules.values()) {
      const { definition } = rule;
      if (!definition.body.on) continue;
      if (definition.body.beginsWith === 'everyone') this.#beginning.push(rule);
      if (rule.when.kind === 'becomes') {
        const { node } = rule.when;
        found.push({
          kind: 'hidden',
          id: definition.id,
          node,
          reads: dependenciesOf(node),
          epoch: definition.epoch,
          cause: causeOf(definition),
          of: rule.of,
        });
      } else if (rule.when.kind === 'date') dateRules[rule.of].push(rule);
      else append(this.#rulesBySignal, rule.when.type, rule);
    }
    for (const map of maps) {
      if (standingStill.has(map.id) || !catalogue.body('map', map.id)?.on) continue;
      for (const type of [...map.adds, ...map.takes]) append(this.#mapsBySignal, type, map);
    }
    const { order } = inOrder(found.filter((each) => !standingStill.has(each.id)));
    this.derived = order;
    for (const each of order) {
      if (each.kind === 'score') this.#cards.set(each.id, each.card);
      else if (each.kind === 'audience') this.#audiences.set(each.id, each.node);
    }
    this.rules = rules;
    this.routing = routing;
    this.dateRules = dateRules;
    const ofDeals = order.filter((each) => each.of === 'deal');
    const contacts = order.filter((each) => each.of === 'contact');
    const companies = order.filter((each) => each.of === 'company');
    // Deals are scored after whoever holds them, since their scorecards may read what is kept of the holder.
    this.#derivedBy = { contact: [...contacts, ...ofDeals], company: [...companies, ...ofDeals], deal: [] };
    const companyReads = joined(...companies.map((each) => each.reads));
    this.readOfContacts = new Set<Dependency>([
      ...companyReads.ofContacts,
      ...[...companyReads.on].filter((each) => each === 'deals' || each === 'contacts' || each.startsWith('signal:')),
      ...(companies.length > 0 ? (['company'] as const) : []),
    ]);
    this.readOfCompanies = new Set(
      contacts.flatMap((each) => [...each.reads.on]).filter((each) => each.startsWith('field:') && fieldOf(each, catalogue) === 'company'),
    );
  }

  /** Whether a definition stands still, because it or something that it rests on is broken. */
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

  /** For each thing that can be touched, what of `derivedFor` reads it, by place. */
  readersFor(kind: SubjectKind): ReadonlyMap<Dependency, readonly number[]> {
    return (this.#readers[kind] ??= readersOf(this.#derivedBy[kind]));
  }

  rulesOnSignal(type: SignalTypeId): readonly CompiledRule[] {
    return this.#rulesBySignal.get(type) ?? [];
  }

  mapsOnSignal(type: SignalTypeId): readonly CompiledMap[] {
    return this.#mapsBySignal.get(type) ?? [];
  }

  /** Rules for a kind of subject that begin with everyone and were turned on after an epoch, by position and id. */
  begunSince(epoch: number, of: SubjectKind): readonly CompiledRule[] {
    return this.#beginning
      .filter((rule) => rule.of === of && (rule.definition.onEpoch ?? 0) > epoch)
      .sort((a, b) => a.definition.body.position - b.definition.body.position || a.definition.id - b.definition.id);
  }

  /** What of a state anything here can ask for: the rest need not be loaded. */
  get needs(): Needs {
    this.#needs ??= this.#findNeeds();
    return this.#needs;
  }

  #findNeeds(): Needs {
    const reads = joined(
      ...this.derived.map((each) => each.reads),
      ...[...this.rules.values()].map((rule) => rule.reads),
      ...[...this.routing.values()].map((table) => dependenciesOf(...table.rows.map((row) => row.if))),
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
      pastTags: new Set(of('tag', reads.past)),
      leavings: new Set(of('audience', reads.past)),
      contactsOfCompanies:
        reads.ofContacts.size > 0 ||
        [...this.#derivedBy.company, ...rules.filter((rule) => rule.of === 'company')].some(
          ({ reads: { on: each } }) => each.has('contacts') || readsSignals(each),
        ),
    };
  }
}

const causeOf = ({ id, version, epochCause }: Pick<AnyDefinition, 'id' | 'version' | 'epochCause'>): string =>
  epochCause ?? `${id}/${version}`;

const readsSignals = (on: ReadonlySet<Dependency>): boolean => [...on].some((each) => each.startsWith('signal:'));

/** What is retired is not offered any more, but stands as long as something that is not retired rests on it. */
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

const fieldOf = (dependency: Dependency, catalogue: Catalogue): string | undefined =>
  catalogue.body('field', Number(dependency.slice('field:'.length)))?.of;

function append<Key, Value>(map: Map<Key, Value[]>, key: Key, value: Value): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

function cardReads(card: PreparedCard): Dependencies {
  const facts = dependenciesOf(...card.lines.flatMap((line) => (line.kind === 'fact' ? [line.node] : [])));
  const on = new Set<Dependency>(facts.on);
  for (const line of card.lines) if (line.kind === 'activity') on.add(`signal:${line.type}`);
  if (card.of === 'deal') on.add('deals');
  if (card.of === 'contact') on.add(`points:${card.id}`);
  // Points from rules may drop or halve, so even a card without lines watches the clock.
  return { ...facts, on, clock: true };
}

function readersOf(derived: readonly Derived[]): ReadonlyMap<Dependency, readonly number[]> {
  const readers = new Map<Dependency, number[]>();
  derived.forEach(({ reads }, place) => {
    for (const dependency of reads.on) append(readers, dependency, place);
  });
  return readers;
}

/** What moves when something is brought up. */
function produces(derived: Derived): readonly Dependency[] {
  if (derived.kind === 'score') return [`score:${derived.id}`, `change:${changeKey('band', derived.id)}`];
  return derived.kind === 'audience' ? [`audience:${derived.id}`] : [];
}

/**
 * What is read comes before what reads it; equals go by id, so that the order does not depend on when things were made. Histories are
 * recorded: whoever reads one comes after what moves it where that can be, and otherwise is looked at again.
 */
function inOrder(found: readonly Derived[]): { readonly order: readonly Derived[]; readonly circles: readonly number[] } {
  const waiting = [...found].sort((a, b) => a.id - b.id);
  const order: Derived[] = [];
  const missing = new Set(waiting.flatMap(produces));
  const isReady = (each: Derived, histories: boolean): boolean =>
    [...each.reads.on, ...each.reads.ofContacts].every(
      (dependency) => !missing.has(dependency) || (!histories && dependency.startsWith('change:')),
    );
  while (waiting.length > 0) {
    const first = waiting.findIndex((each) => isReady(each, true));
    const index = first === -1 ? waiting.findIndex((each) => isReady(each, false)) : first;
    if (index === -1) return { order, circles: waiting.map((each) => each.id) };
    const [ready] = waiting.splice(index, 1) as [Derived];
    for (const dependency of produces(ready)) missing.delete(dependency);
    order.push(ready);
  }
  return { order, circles: [] };
}
