import { type Storage } from '../../contacts/fields.ts';
import { ELEMENT } from '../../intake/details.ts';
import { type DetailField } from '../../intake/signal-types.ts';
import { minorPlaces } from '../../numbers/decimal.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type DetailNode } from '../node.ts';
import { isAnniversary, prepareTest, type ValueTest } from '../operators/index.ts';
import { type DetailCondition, type DetailLeaf } from '../schema.ts';
import { broken, Faulty, ok, type Path } from './faulty.ts';

const DETAIL_STORAGE: Record<Exclude<DetailField['type'], 'list' | 'answers'>, Storage> = {
  text: 'text',
  number: 'number',
  money: 'number',
  date: 'day',
  'date-time': 'instant',
  'yes/no': 'yesNo',
};
const ELEMENT_FIELDS: readonly DetailField[] = [{ key: ELEMENT, type: 'text' }];
const names = (fields: readonly DetailField[]): string => fields.map((field) => field.key).join(', ') || '(there are none)';

/** How the detail at a path is compared; answers and what is not known are text. */
export function detailStorage(fields: readonly DetailField[], path: string): Storage {
  const type = fields.find((field) => field.key === path)?.type;
  return type === undefined || type === 'list' || type === 'answers' ? 'text' : DETAIL_STORAGE[type];
}

/** What a path leads to: a detail, or the answer to a question of a form. */
export function detailAt(fields: readonly DetailField[], segments: readonly string[]): DetailField | 'answer' | undefined {
  const field = fields.find((each) => each.key === segments[0]);
  if (field?.type === 'answers') return segments.length === 2 ? 'answer' : segments.length === 1 ? field : undefined;
  return segments.length === 1 ? field : undefined;
}

/** Makes questions about details ready. Throws all that is wrong with them. */
export function prepareDetails(
  fields: readonly DetailField[],
  conditions: readonly DetailCondition[],
  catalogue: Catalogue,
  path: Path,
): readonly DetailNode[] {
  const wrong: Faulty[] = [];
  const nodes = conditions.flatMap((each, index): DetailNode[] => {
    try {
      return [prepareDetail(fields, each, catalogue, [...path, index])];
    } catch (error) {
      if (!(error instanceof Faulty)) throw error;
      wrong.push(error);
      return [];
    }
  });
  if (wrong.length > 0) throw new Faulty(...wrong.flatMap((each) => each.faults));
  return nodes;
}

function prepareDetail(fields: readonly DetailField[], condition: DetailCondition, catalogue: Catalogue, path: Path): DetailNode {
  if ('path' in condition) return prepareLeaf(fields, condition, catalogue, path);
  const some = 'some' in condition;
  const listPath = some ? condition.some : condition.none;
  const segments = listPath.split('.');
  const list = detailAt(fields, segments);
  const elements = list === 'answer' ? ELEMENT_FIELDS : list?.type === 'list' ? (list.of ?? ELEMENT_FIELDS) : undefined;
  if (!elements) throw broken([...path, some ? 'some' : 'none'], 'detail.list', `a list among the details ${names(fields)}`);
  return {
    kind: 'elements',
    path: segments,
    some,
    of: condition.of.map((leaf, index) => prepareLeaf(elements, leaf, catalogue, [...path, 'of', index])),
  };
}

function prepareLeaf(fields: readonly DetailField[], leaf: DetailLeaf, catalogue: Catalogue, path: Path): DetailNode {
  const segments = leaf.path.split('.');
  const field = detailAt(fields, segments);
  if (field === undefined) throw broken([...path, 'path'], 'detail.unknown', `one of the details ${names(fields)}`);
  const type = field === 'answer' ? 'text' : field.type;
  if (type === 'list' || type === 'answers')
    throw broken([...path, 'path'], 'detail.bare-list', `{ "some": "${leaf.path}", "of": […] } to look into a list`);
  // The local day of a date-time inside details is not kept, and SQL does no arithmetic of zones.
  if (isAnniversary(leaf.op) && type === 'date-time')
    throw broken([...path, 'op'], 'detail.anniversary', 'an operator on date-times other than an anniversary, which is asked of fields');
  const storage = DETAIL_STORAGE[type];
  return { kind: 'detail', path: segments, storage, test: detailTest(field, leaf, catalogue, path) };
}

function detailTest(field: DetailField | 'answer', leaf: DetailLeaf, catalogue: Catalogue, path: Path): ValueTest {
  const type = field === 'answer' ? 'text' : field.type;
  const storage = type === 'list' || type === 'answers' ? 'text' : DETAIL_STORAGE[type];
  return ok(
    prepareTest(storage, leaf.op, leaf.value, { zone: catalogue.zone, places: placesOf(type, catalogue), path: [...path, 'value'] }),
  );
}

/** Places after the point that one unit of a stored detail stands for. */
export const placesOf = (type: DetailField['type'], catalogue: Catalogue): number =>
  type === 'money' ? minorPlaces(catalogue.workspace.currency) : 6;
