import { storageOf, type Storage } from '../contacts/fields.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { ELEMENT } from '../intake/details.ts';
import { type DetailField } from '../intake/signal-types.ts';
import { minorPlaces } from '../numbers/decimal.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { prepareWindow } from '../time/window.ts';
import { detailsWatchTheClock } from './dependencies.ts';
import { type ConditionNode, type DetailNode, type LeafNode } from './node.ts';
import { prepareTest, type ValueTest } from './operators/index.ts';
import { isGroup, LIMITS, type Condition, type DetailCondition, type DetailLeaf, type Leaf } from './schema.ts';

type Path = readonly (string | number)[];

/** The wrapped fault, at the path where it was found. */
class Faulty extends Error {
  readonly fault: Fault;
  constructor(fault: Fault) {
    super(fault.code);
    this.fault = fault;
  }
}

const DETAIL_STORAGE: Record<Exclude<DetailField['type'], 'list' | 'answers'>, Storage> = {
  text: 'text',
  number: 'number',
  money: 'number',
  'date-time': 'instant',
  'yes/no': 'yesNo',
};

/** Makes a stored condition ready to be asked, or says everything that is wrong with it. */
export function prepare(condition: Condition, catalogue: Catalogue): Checked<ConditionNode> {
  const preparing = new Preparing(catalogue);
  const node = preparing.condition(condition, [], 1);
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
  const preparing = new Preparing(catalogue);
  const nodes = preparing.where(catalogue.detailsOf(types), where ?? [], path);
  return preparing.faults.length > 0 ? bad(...preparing.faults) : good(nodes);
}

const NOTHING: ConditionNode = { kind: 'group', match: 'all', of: [] };

class Preparing {
  readonly faults: Fault[] = [];
  leaves = 0;
  readonly #catalogue: Catalogue;

  constructor(catalogue: Catalogue) {
    this.#catalogue = catalogue;
  }

  condition(condition: Condition, path: Path, depth: number): ConditionNode {
    if (depth > LIMITS.depth) {
      this.faults.push({ path, code: 'condition.depth', expected: `groups at most ${LIMITS.depth} deep` });
      return NOTHING;
    }
    if (isGroup(condition)) {
      return {
        kind: 'group',
        match: condition.match,
        of: condition.of.map((each, index) => this.condition(each, [...path, 'of', index], depth + 1)),
      };
    }
    this.leaves += 1;
    try {
      return this.#leaf(condition, path);
    } catch (error) {
      if (!(error instanceof Faulty)) throw error;
      this.faults.push(error.fault);
      return NOTHING;
    }
  }

  #leaf(leaf: Leaf, path: Path): LeafNode {
    const catalogue = this.#catalogue;
    switch (leaf.kind) {
      case 'field': {
        const field = catalogue.get('field', leaf.field);
        if (!field || field.retired) throw broken([...path, 'field'], 'field.unknown', 'a field that exists');
        const test = this.#test(storageOf[field.body.type], leaf.op, leaf.value, path, 6, field.body.options);
        return { kind: 'field', field: field.id, test };
      }
      case 'tag':
        if (!this.#exists('tag', leaf.tag)) throw broken([...path, 'tag'], 'tag.unknown', 'a tag that exists');
        return { kind: 'tag', tag: leaf.tag, has: leaf.op === 'has' };
      case 'signal': {
        for (const type of typeof leaf.type === 'string' ? [] : [leaf.type].flat()) {
          if (!this.#exists('signalType', type)) throw broken([...path, 'type'], 'signal-type.unknown', 'a type of signal that exists');
        }
        const types = catalogue.signalTypes(leaf.type);
        const window = this.#ok(prepareWindow(leaf.within, catalogue.zone, [...path, 'within']));
        const count = leaf.count ?? { op: '>=', value: 1 };
        const where = this.where(catalogue.detailsOf(types), leaf.where ?? [], [...path, 'where']);
        return {
          kind: 'signal',
          types,
          where,
          clock: detailsWatchTheClock(where),
          window,
          count: this.#test('number', count.op, count.value, [...path, 'count'], 0),
        };
      }
      case 'score':
        if (!this.#exists('scorecard', leaf.scorecard))
          throw broken([...path, 'scorecard'], 'scorecard.unknown', 'a scorecard that exists');
        return { kind: 'score', scorecard: leaf.scorecard, test: this.#test('number', leaf.op, leaf.value, path, 6) };
      case 'band': {
        const card = catalogue.get('scorecard', leaf.scorecard);
        if (!card || card.retired) throw broken([...path, 'scorecard'], 'scorecard.unknown', 'a scorecard that exists');
        const several = leaf.op === 'is one of' || leaf.op === 'is not one of';
        if (several !== Array.isArray(leaf.value)) throw broken([...path, 'value'], 'value.list', several ? 'a list of bands' : 'one band');
        const bands = [leaf.value].flat();
        const known = card.body.bands.map((band) => band.key);
        if (!bands.every((band) => known.includes(band))) throw broken([...path, 'value'], 'band.unknown', `one of ${known.join(', ')}`);
        return { kind: 'band', scorecard: card.id, bands, negated: leaf.op === 'is not' || leaf.op === 'is not one of' };
      }
      case 'audience':
        if (!this.#exists('audience', leaf.audience)) throw broken([...path, 'audience'], 'audience.unknown', 'an audience that exists');
        return { kind: 'audience', audience: leaf.audience, isIn: leaf.op === 'in' };
      case 'consent':
        return { kind: 'consent', channel: leaf.channel, state: leaf.value, negated: leaf.op === 'is not' };
    }
  }

  where(fields: readonly DetailField[], where: readonly DetailCondition[], path: Path): readonly DetailNode[] {
    return where.flatMap((each, index) => {
      try {
        return [this.#detail(fields, each, [...path, index])];
      } catch (error) {
        if (!(error instanceof Faulty)) throw error;
        this.faults.push(error.fault);
        return [];
      }
    });
  }

  #detail(fields: readonly DetailField[], condition: DetailCondition, path: Path): DetailNode {
    if ('path' in condition) return this.#detailLeaf(fields, condition, path);
    const some = 'some' in condition;
    const listPath = some ? condition.some : condition.none;
    const segments = listPath.split('.');
    const list = detailAt(fields, segments);
    const elements = list === 'answer' ? ELEMENT_FIELDS : list?.type === 'list' ? (list.of ?? []) : undefined;
    if (!elements) throw broken([...path, some ? 'some' : 'none'], 'detail.list', `a list among the details ${names(fields)}`);
    return {
      kind: 'elements',
      path: segments,
      some,
      of: condition.of.map((leaf, index) => this.#detailLeaf(elements, leaf, [...path, 'of', index])),
    };
  }

  #detailLeaf(fields: readonly DetailField[], leaf: DetailLeaf, path: Path): DetailNode {
    const segments = leaf.path.split('.');
    const field = detailAt(fields, segments);
    if (field === undefined) throw broken([...path, 'path'], 'detail.unknown', `one of the details ${names(fields)}`);
    const type = field === 'answer' ? 'text' : field.type;
    if (type === 'list' || type === 'answers')
      throw broken([...path, 'path'], 'detail.bare-list', `{ "some": "${leaf.path}", "of": […] } to look into a list`);
    const places = type === 'money' ? minorPlaces(this.#catalogue.workspace.currency) : 6;
    const storage = DETAIL_STORAGE[type];
    return { kind: 'detail', path: segments, storage, test: this.#test(storage, leaf.op, leaf.value, path, places) };
  }

  #test(
    storage: Storage,
    op: string,
    value: unknown,
    path: Path,
    places: number,
    options?: Parameters<typeof prepareTest>[3]['options'],
  ): ValueTest {
    return this.#ok(prepareTest(storage, op, value, { zone: this.#catalogue.zone, places, options, path: [...path, 'value'] }));
  }

  #exists(kind: 'tag' | 'signalType' | 'scorecard' | 'audience', id: number): boolean {
    const definition = this.#catalogue.get(kind, id);
    return definition !== undefined && !definition.retired;
  }

  #ok<T>(checked: Checked<T>): T {
    if (checked.ok) return checked.value;
    const [first, ...others] = checked.faults;
    this.faults.push(...others);
    throw new Faulty(first as Fault);
  }
}

const ELEMENT_FIELDS: readonly DetailField[] = [{ key: ELEMENT, type: 'text' }];
const names = (fields: readonly DetailField[]): string => fields.map((field) => field.key).join(', ') || '(this type has none)';
const broken = (path: Path, code: string, expected: string): Faulty => new Faulty({ path, code, expected });

/** What a path leads to: a detail, or the answer to a question of a form. */
function detailAt(fields: readonly DetailField[], segments: readonly string[]): DetailField | 'answer' | undefined {
  const field = fields.find((each) => each.key === segments[0]);
  if (field?.type === 'answers') return segments.length === 2 ? 'answer' : segments.length === 1 ? field : undefined;
  return segments.length === 1 ? field : undefined;
}
