import { tagStorage } from '../../tags/values.ts';
import { storageOf, type Storage } from '../../contacts/fields.ts';
import { dealDetails } from '../../contacts/deals.ts';
import { bad, good, type Checked, type Fault } from '../../faults.ts';
import { millionths, minorPlaces } from '../../numbers/decimal.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type DefinitionKind } from '../../settings/definitions.ts';
import { prepareWindow, type PreparedWindow, type Window } from '../../time/window.ts';
import { detailsWatchTheClock } from '../dependencies.ts';
import { type ByKind } from '../by-kind.ts';
import { type ConditionNode, type DetailNode, type LeafNode, type MeasureNode } from '../node.ts';
import { prepareTest, type ValueTest } from '../operators/index.ts';
import { aKind } from '../../settings/kind-words.ts';
import { ASKED_OF, isGroup, LIMITS, type Condition, type DetailCondition, type Leaf, type LeafOf, type Measure } from '../schema.ts';
import { type SubjectKind } from '../../settings/subject-kind.ts';
import { prepareChanged } from './changed.ts';
import { prepareDetails } from './details.ts';
import { broken, gathered, ok, type Path } from './faulty.ts';
import { countTest, prepareMeasure, prepareSet, prepareSum } from './signals.ts';

/**
 * Makes a stored condition ready to be asked, or says everything that is wrong with it.
 *
 * @param of what it is asked of
 * @param broken definitions that cannot be asked, and why: a condition that names one has a fault
 */
export function prepare(
  condition: Condition,
  catalogue: Catalogue,
  of: SubjectKind = 'contact',
  broken: ReadonlyMap<number, string> = NOTHING_BROKEN,
): Checked<ConditionNode> {
  const preparing = new Preparing(catalogue, broken);
  const node = preparing.condition(condition, [], 0, of);
  if (preparing.leaves > LIMITS.leaves)
    preparing.faults.push({ path: [], code: 'condition.leaves', expected: `at most ${LIMITS.leaves} lines` });
  return preparing.faults.length > 0 ? bad(...preparing.faults) : good(node);
}

/** Makes the questions about a signal's details ready, as a rule's *when* and a score line ask them. */
export function prepareWhere(
  types: readonly number[],
  where: readonly DetailCondition[] | undefined,
  catalogue: Catalogue,
  path: Path,
): Checked<readonly DetailNode[]> {
  const faults: Fault[] = [];
  const nodes = gathered(faults, () => prepareDetails(catalogue.detailsOf(types), where ?? [], catalogue, path));
  return nodes ? good(nodes) : bad(...faults);
}

const NOTHING_BROKEN: ReadonlyMap<number, string> = new Map();
const NOTHING: ConditionNode = { kind: 'group', match: 'all', of: [] };

type PrepareLeaf = (leaf: Leaf, path: Path, depth: number, of: SubjectKind) => LeafNode;

class Preparing {
  readonly faults: Fault[] = [];
  leaves = 0;
  readonly #catalogue: Catalogue;
  readonly #broken: ReadonlyMap<number, string>;

  constructor(catalogue: Catalogue, stopped: ReadonlyMap<number, string>) {
    this.#catalogue = catalogue;
    this.#broken = stopped;
  }

  /** @param depth how many groups it stands in */
  condition(condition: Condition, path: Path, depth: number, of: SubjectKind): ConditionNode {
    if (isGroup(condition)) {
      if (depth === LIMITS.depth) {
        this.faults.push({ path, code: 'condition.depth', expected: `at most ${LIMITS.depth} groups one inside another` });
        return NOTHING;
      }
      return {
        kind: 'group',
        match: condition.match,
        of: condition.of.map((each, index) => this.condition(each, [...path, 'of', index], depth + 1, of)),
      };
    }
    this.leaves += 1;
    if (!ASKED_OF[of].includes(condition.kind)) {
      const expected = `a line that can be asked of a ${of}: ${ASKED_OF[of].join(', ')}`;
      this.faults.push({ path: [...path, 'kind'], code: 'condition.subject', expected });
      return NOTHING;
    }
    return gathered(this.faults, () => this.#leaf(condition, path, depth, of)) ?? NOTHING;
  }

  #leaf(leaf: Leaf, path: Path, depth: number, of: SubjectKind): LeafNode {
    return (this.#leaves[leaf.kind] as PrepareLeaf)(leaf, path, depth, of);
  }

  /** Each kind of line made ready. */
  readonly #leaves: ByKind<Leaf, [Path, number, SubjectKind], LeafNode> = {
    field: (leaf, path, _depth, of) => {
      const field = this.#field(leaf.field, leaf.of, of, [...path, 'field']);
      const places = field.body.type === 'money' ? minorPlaces(this.#catalogue.workspace.currency) : 6;
      return {
        kind: 'field',
        of: leaf.of,
        field: field.id,
        test: this.#test(storageOf[field.body.type], leaf.op, leaf.value, path, places, field.body.options),
      };
    },
    tag: (leaf, path) => this.#tag(leaf, path),
    signal: (leaf, path) => {
      const set = prepareSet(leaf, this.#catalogue, path);
      return { kind: 'signal', set, ...prepareMeasure(leaf, set, this.#catalogue, path) };
    },
    change: (leaf, path) => prepareChanged(leaf, this.#catalogue, path),
    compare: (leaf, path, _depth, of) => {
      const times = ok(millionths(leaf.times ?? 1, [...path, 'times']));
      const left = this.#measure(leaf.left, [...path, 'left'], of);
      return { kind: 'compare', left, op: leaf.op, right: this.#measure(leaf.right, [...path, 'right'], of), timesMillionths: times };
    },
    score: (leaf, path, _depth, of) => {
      this.#scorecard(leaf.scorecard, of, [...path, 'scorecard']);
      return { kind: 'score', scorecard: leaf.scorecard, test: this.#test('number', leaf.op, leaf.value, path, 6) };
    },
    band: (leaf, path, _depth, of) => this.#band(leaf, path, of),
    audience: (leaf, path, _depth, of) => {
      const audience = this.#known('audience', leaf.audience, [...path, 'audience']);
      if (audience.body.of !== (of === 'deal' ? 'contact' : of))
        throw broken([...path, 'audience'], 'audience.subject', `an audience of ${of === 'company' ? 'companies' : 'contacts'}`);
      if (leaf.op === 'out' && leaf.since) throw noSince(path, 'in or left');
      return { kind: 'audience', audience: leaf.audience, op: leaf.op, since: this.#since(leaf.since, path) };
    },
    stage: (leaf, path) => this.#stage(leaf, path),
    owner: (leaf, path) => {
      const owners = [leaf.value ?? []].flat().map((email) => email.trim().toLowerCase());
      const ask = leaf.op === 'is empty' ? 'empty' : leaf.op === 'is filled' ? 'filled' : 'one of';
      if (ask === 'one of' && owners.length === 0) throw broken([...path, 'value'], 'owner.missing', 'the sign-in email of an owner');
      this.#people(owners, [...path, 'value']);
      if (leaf.op === 'is' && owners.length > 1) throw broken([...path, 'value'], 'owner.one', 'one owner, or "is one of"');
      return { kind: 'owner', ask, owners: ask === 'one of' ? owners : [] };
    },
    consent: (leaf) => ({ kind: 'consent', channel: leaf.channel, state: leaf.value, negated: leaf.op === 'is not' }),
    deal: (leaf, path) => {
      const where = prepareDetails(dealDetails(this.#catalogue), leaf.where ?? [], this.#catalogue, [...path, 'where']);
      return { kind: 'deal', where, test: countTest(leaf.count, this.#catalogue, [...path, 'count']), clock: detailsWatchTheClock(where) };
    },
    contacts: (leaf, path, depth) => ({
      kind: 'contacts',
      condition: this.condition(leaf.condition, [...path, 'condition'], depth, 'contact'),
      test: countTest(leaf.count, this.#catalogue, [...path, 'count']),
    }),
  };

  #tag(leaf: LeafOf<'tag'>, path: Path): LeafNode {
    const tag = this.#known('tag', leaf.tag, [...path, 'tag']);
    if (leaf.since && (leaf.op === 'lacks' || leaf.op === 'had')) throw noSince(path, 'has or lost');
    const kept = tag.body.value;
    if (leaf.value && kept === undefined) throw broken([...path, 'value'], 'tag.plain', 'no value: this tag carries none');
    return {
      kind: 'tag',
      tag: leaf.tag,
      op: leaf.op,
      since: this.#since(leaf.since, path),
      value: leaf.value && this.#test(tagStorage[kept ?? 'number'], leaf.value.op, leaf.value.value, [...path, 'value'], 6),
    };
  }

  #band(leaf: LeafOf<'band'>, path: Path, of: SubjectKind): LeafNode {
    const card = this.#scorecard(leaf.scorecard, of, [...path, 'scorecard']);
    const several = leaf.op === 'is one of' || leaf.op === 'is not one of';
    if (several !== Array.isArray(leaf.value)) throw broken([...path, 'value'], 'value.list', several ? 'a list of bands' : 'one band');
    if (leaf.since && leaf.op !== 'is') throw noSince(path, 'is');
    const bands = [leaf.value].flat();
    const known = card.body.bands.map((band) => band.key);
    if (!bands.every((band) => known.includes(band))) throw broken([...path, 'value'], 'band.unknown', `one of ${known.join(', ')}`);
    const negated = leaf.op === 'is not' || leaf.op === 'is not one of';
    return { kind: 'band', scorecard: card.id, bands, negated, since: this.#since(leaf.since, path) };
  }

  /** Stages that come before or after are found here, so that evaluators compare ids alone. */
  #stage(leaf: LeafOf<'stage'>, path: Path): LeafNode {
    if (leaf.since && leaf.op !== 'is') throw noSince(path, 'is');
    const named = [leaf.value].flat().map((id) => this.#known('stage', id, [...path, 'value']));
    if (leaf.op !== 'is one of' && named.length !== 1) throw broken([...path, 'value'], 'stage.one', 'one stage, or "is one of"');
    const limit = named[0]?.body.position ?? 0;
    const fits = (position: number): boolean => (leaf.op === 'is at least' ? position >= limit : position < limit);
    const stages =
      leaf.op === 'is' || leaf.op === 'is one of'
        ? named.map((stage) => stage.id)
        : this.#catalogue
            .ladder()
            .filter((stage) => fits(stage.body.position))
            .map((stage) => stage.id);
    return { kind: 'stage', stages, since: this.#since(leaf.since, path) };
  }

  #measure(measure: Measure, path: Path, of: SubjectKind): MeasureNode {
    const catalogue = this.#catalogue;
    if ('field' in measure) {
      const side = measure.of ?? 'contact';
      const field = this.#field(measure.field, side, of, [...path, 'field']);
      if (storageOf[field.body.type] !== 'number') throw broken([...path, 'field'], 'measure.number', 'a field of numbers or money');
      const places = field.body.type === 'money' ? minorPlaces(catalogue.workspace.currency) : 6;
      return { kind: 'field', of: side, field: field.id, perUnit: 10 ** places };
    }
    if ('scorecard' in measure) {
      this.#scorecard(measure.scorecard, of, [...path, 'scorecard']);
      return { kind: 'score', scorecard: measure.scorecard, perUnit: 1_000 };
    }
    if (measure.days && measure.sum) throw broken([...path, 'sum'], 'signal.measure', 'either days or a sum');
    const set = prepareSet(measure, catalogue, path);
    if (measure.days) return { kind: 'signals', set, measure: { kind: 'days' }, perUnit: 1 };
    if (!measure.sum) return { kind: 'signals', set, measure: { kind: 'count' }, perUnit: 1 };
    const sum = prepareSum(measure.sum.path, set, catalogue, [...path, 'sum', 'path']);
    return { kind: 'signals', set, measure: sum.measure, perUnit: 10 ** sum.places };
  }

  #field(id: number, side: 'contact' | 'company', of: SubjectKind, path: Path) {
    const field = this.#known('field', id, path);
    if (field.body.of !== side) throw broken(path, 'field.subject', `a field of ${side === 'company' ? 'companies' : 'contacts'}`);
    if (of === 'company' && side === 'contact')
      throw broken(path, 'field.subject', 'a field of companies, or a line about how many of its contacts');
    return field;
  }

  #scorecard(id: number, of: SubjectKind, path: Path) {
    const card = this.#known('scorecard', id, path);
    if (card.body.of !== of && !(of === 'deal' && card.body.of === 'contact'))
      throw broken(path, 'scorecard.subject', `a scorecard of ${of === 'company' ? 'companies' : `${of}s`}`);
    return card;
  }

  #known<Kind extends DefinitionKind>(kind: Kind, id: number, path: Path) {
    const definition = this.#catalogue.get(kind, id);
    if (!definition) throw broken(path, `${kind}.unknown`, `${aKind(kind)} that exists`);
    const why = this.#broken.get(id);
    if (why !== undefined) throw broken(path, `${kind}.broken`, `${aKind(kind)} that works: “${definition.name}” is broken, since ${why}`);
    return definition;
  }

  #people(emails: readonly string[], path: Path): void {
    const unknown = emails.find((email) => this.#catalogue.people?.has(email) === false);
    if (unknown !== undefined) throw broken(path, 'owner.unknown', `the sign-in email of someone with access, which ${unknown} is not`);
  }

  #since(window: Window | undefined, path: Path): PreparedWindow | undefined {
    return window === undefined ? undefined : ok(prepareWindow(window, this.#catalogue.zone, [...path, 'since']));
  }

  #test(
    storage: Storage,
    op: string,
    value: unknown,
    path: Path,
    places: number,
    options?: Parameters<typeof prepareTest>[3]['options'],
  ): ValueTest {
    return ok(prepareTest(storage, op, value, { zone: this.#catalogue.zone, places, options, path: [...path, 'value'] }));
  }
}

const noSince = (path: Path, with_: string) => broken([...path, 'since'], 'since.operator', `"since" only with ${with_}`);
