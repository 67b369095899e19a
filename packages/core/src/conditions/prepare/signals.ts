import { type DetailField } from '../../intake/signal-types.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type SignalTypeId } from '../../settings/ids.ts';
import { prepareWindow } from '../../time/window.ts';
import { detailsWatchTheClock } from '../dependencies.ts';
import { remembered } from '../remembered.ts';
import { type DetailNode, type SignalMeasure, type SignalSet, type ThenNode } from '../node.ts';
import { prepareTest, type ValueTest } from '../operators/index.ts';
import { type Count, type LeafOf, type SignalTypes } from '../schema.ts';
import { detailAt, placesOf, prepareDetails } from './details.ts';
import { broken, ok, type Path } from './faulty.ts';

type SignalLeaf = LeafOf<'signal'>;

/** The types that a condition names; each has to exist. */
export function typesOf(type: SignalTypes, catalogue: Catalogue, path: Path): readonly SignalTypeId[] {
  for (const id of typeof type === 'string' ? [] : [type].flat()) {
    if (!catalogue.get('signalType', id)) throw broken([...path, 'type'], 'signalType.unknown', 'a type of signal that exists');
  }
  return catalogue.signalTypes(type);
}

export function prepareSet(leaf: Pick<SignalLeaf, 'type' | 'where' | 'within' | 'then'>, catalogue: Catalogue, path: Path): SignalSet {
  const types = typesOf(leaf.type, catalogue, path);
  const where = prepareDetails(catalogue.detailsOf(types), leaf.where ?? [], catalogue, [...path, 'where']);
  const clock = detailsWatchTheClock(where);
  return {
    types,
    where,
    remembered: remembered(catalogue, types, leaf.where, clock),
    window: ok(prepareWindow(leaf.within, catalogue.zone, [...path, 'within'])),
    then: leaf.then && prepareThen(leaf.then, catalogue, [...path, 'then']),
    clock,
  };
}

function prepareThen(then: NonNullable<SignalLeaf['then']>, catalogue: Catalogue, path: Path): ThenNode {
  const types = typesOf(then.type, catalogue, path);
  const where = prepareDetails(catalogue.detailsOf(types), then.where ?? [], catalogue, [...path, 'where']);
  const clock = detailsWatchTheClock(where);
  return { types, where, remembered: remembered(catalogue, types, then.where, clock), happens: then.happens, within: then.within, clock };
}

/** How many, on how many days, summing to how much, or the one that is picked: what is measured, and what the measure has to be. */
export function prepareMeasure(
  leaf: SignalLeaf,
  set: SignalSet,
  catalogue: Catalogue,
  path: Path,
): { readonly measure: SignalMeasure; readonly test: ValueTest } {
  const asked = (['count', 'days', 'sum', 'pick'] as const).filter((each) => leaf[each] !== undefined);
  if (asked.length > 1) throw broken([...path, asked[1] as string], 'signal.measure', 'one of count, days, sum and pick');
  if (leaf.days) return { measure: { kind: 'days' }, test: countTest(leaf.days, catalogue, [...path, 'days']) };
  if (leaf.pick) return { measure: { kind: 'pick', which: leaf.pick }, test: countTest({ op: '=', value: 1 }, catalogue, path) };
  if (leaf.sum) {
    const here = [...path, 'sum'];
    const { measure, places } = prepareSum(leaf.sum.path, set, catalogue, [...here, 'path']);
    const context = { zone: catalogue.zone, places, path: [...here, 'value'] };
    return { measure, test: ok(prepareTest('number', leaf.sum.op, leaf.sum.value, context)) };
  }
  return { measure: { kind: 'count' }, test: countTest(leaf.count, catalogue, [...path, 'count']) };
}

export function prepareSum(
  written: string,
  set: SignalSet,
  catalogue: Catalogue,
  path: Path,
): { readonly measure: SignalMeasure; readonly places: number } {
  const fields = catalogue.detailsOf(set.types);
  const [outer = '', inner, ...more] = written.split('.');
  const list = inner === undefined ? undefined : fields.find((field) => field.key === outer && field.type === 'list');
  const detail = list ? detailAt(list.of ?? [], [inner as string]) : inner === undefined ? detailAt(fields, [outer]) : undefined;
  if (detail === undefined || detail === 'answer' || !isNumber(detail) || more.length > 0)
    throw broken(path, 'sum.path', `a number or an amount among the details: ${numbersOf(fields).join(', ') || '(there are none)'}`);
  const places = placesOf(detail.type, catalogue);
  if (!list) return { measure: { kind: 'sum', path: [outer] }, places };
  const fit = set.where.flatMap((node): readonly DetailNode[] =>
    node.kind === 'elements' && node.some && node.path.join('.') === outer ? node.of : [],
  );
  return { measure: { kind: 'sum', path: [inner as string], list: { path: [outer], fit } }, places };
}

const isNumber = (field: DetailField): boolean => field.type === 'number' || field.type === 'money';

/** The paths that can be added up, those inside lists too. */
export function numbersOf(fields: readonly DetailField[]): readonly string[] {
  return fields.flatMap((field) =>
    isNumber(field)
      ? [field.key]
      : field.type === 'list'
        ? (field.of ?? []).filter(isNumber).map((inner) => `${field.key}.${inner.key}`)
        : [],
  );
}

/** A limit on a whole number; left out it is "at least once". */
export function countTest(count: Count | undefined, catalogue: Catalogue, path: Path): ValueTest {
  const { op, value } = count ?? { op: '>=', value: 1 };
  return ok(prepareTest('number', op, value, { zone: catalogue.zone, places: 0, path: [...path, 'value'] }));
}
