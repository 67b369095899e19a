import { bad, good, type Checked, type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { aKind } from '../settings/kind-words.ts';
import { isGroup, type Condition, type Leaf, type WrittenCondition } from './schema.ts';

type Path = readonly (string | number)[];
type Swap = (kind: DefinitionKind, reference: unknown, path: Path) => unknown;
type Parts = Readonly<Record<string, unknown>>;
type SwapLine = (line: Parts, swap: Swap, path: Path) => unknown;

const MEASURE = { field: 'field', scorecard: 'scorecard', type: 'signalType' } as const;
const DIRECTIONS: readonly unknown[] = ['from them', 'from us'];

/** The condition with every reference swapped; nothing else changes. */
export function swapped(condition: Condition | WrittenCondition, swap: Swap, path: Path): unknown {
  if (isGroup<{ match: 'all' | 'any' | 'none'; of: (Condition | WrittenCondition)[] }>(condition)) {
    return { match: condition.match, of: condition.of.map((each, index) => swapped(each, swap, [...path, 'of', index])) };
  }
  return SWAPPED[condition.kind](condition as unknown as Parts, swap, path);
}

/** Swaps the properties of a line that name definitions, each of the kind that is given. */
const named =
  (references: Readonly<Record<string, DefinitionKind>>): SwapLine =>
  (line, swap, path) =>
    inPlace(line, references, swap, path);
/** Of a line that names nothing, or whose `where` names only what its signals are made of. */
const unchanged: SwapLine = (line) => line;

/** What a change is of, and for stages what it went from and to; null stands for none. */
function swappedChange(condition: Parts, swap: Swap, path: Path): unknown {
  const { what, from, to } = condition;
  if (what === 'field') return inPlace(condition, { key: 'field' }, swap, path);
  if (what === 'band') return inPlace(condition, { key: 'scorecard' }, swap, path);
  if (what !== 'stage') return condition;
  const stages = (list: unknown, at: string): unknown =>
    Array.isArray(list) ? list.map((one, index) => (one === null ? null : swap('stage', one, [...path, at, index]))) : list;
  return { ...condition, ...(from ? { from: stages(from, 'from') } : {}), ...(to ? { to: stages(to, 'to') } : {}) };
}

function inPlace(parts: Parts, references: Readonly<Record<string, DefinitionKind>>, swap: Swap, path: Path): Parts {
  const result: Record<string, unknown> = { ...parts };
  for (const [property, kind] of Object.entries(references)) {
    const named = parts[property];
    if (named === undefined || (kind === 'signalType' && DIRECTIONS.includes(named))) continue;
    const here = [...path, property];
    result[property] = Array.isArray(named) ? named.map((one, index) => swap(kind, one, [...here, index])) : swap(kind, named, here);
  }
  return result;
}

/** Finds everything that a written condition names by key, or says what is not to be found. */
export function toIds(condition: WrittenCondition, catalogue: Catalogue): Checked<Condition> {
  const faults: Fault[] = [];
  const result = swapped(condition, (kind, key, path) => idOf(catalogue, kind, String(key), path, faults), []);
  return faults.length > 0 ? bad(...faults) : good(result as Condition);
}

/** The condition with keys in place of ids, as the API gives it. */
export function toKeys(condition: Condition, catalogue: Catalogue): WrittenCondition {
  return swapped(condition, (kind, id) => catalogue.get(kind, id as number)?.key ?? `missing-${String(id)}`, []) as WrittenCondition;
}

/** Every definition that a condition names. */
export function namedIn(condition: Condition): ReadonlySet<number> {
  const ids = new Set<number>();
  swapped(condition, (_kind, id) => ids.add(id as number), []);
  return ids;
}

/** The id behind a key, also of what is retired, or -1 and a fault that names keys that are alike. */
export function idOf(catalogue: Catalogue, kind: DefinitionKind, key: string, path: Path, faults: Fault[]): number {
  const found = catalogue.find(kind, key);
  if (found) return found.id;
  const alike = catalogue.all(kind).map((definition) => definition.key);
  const near = alike.filter((each) => each.includes(key.slice(0, 3)) || key.includes(each.slice(0, 3)));
  const some = (near.length > 0 ? near : alike).slice(0, 6).join(', ');
  faults.push({
    path,
    code: `${kind}.unknown`,
    expected: `the key of ${aKind(kind)}${some ? `, such as ${some}` : '; there are none yet'}`,
  });
  return -1;
}

/** How the references of each kind of line are swapped. What stands deeper is swapped where it stands. */
const SWAPPED: Readonly<Record<Leaf['kind'], SwapLine>> = {
  field: named({ field: 'field' }),
  tag: named({ tag: 'tag' }),
  score: named({ scorecard: 'scorecard' }),
  band: named({ scorecard: 'scorecard' }),
  audience: named({ audience: 'audience' }),
  stage: named({ value: 'stage' }),
  signal: (line, swap, path) => {
    const then = line['then'];
    const swappedLine = inPlace(line, { type: 'signalType' }, swap, path);
    return then ? { ...swappedLine, then: inPlace(then as Parts, { type: 'signalType' }, swap, [...path, 'then']) } : swappedLine;
  },
  compare: (line, swap, path) => ({
    ...line,
    left: inPlace(line['left'] as Parts, MEASURE, swap, [...path, 'left']),
    right: inPlace(line['right'] as Parts, MEASURE, swap, [...path, 'right']),
  }),
  change: swappedChange,
  contacts: (line, swap, path) => ({ ...line, condition: swapped(line['condition'] as Condition, swap, [...path, 'condition']) }),
  owner: unchanged,
  consent: unchanged,
  deal: unchanged,
};
