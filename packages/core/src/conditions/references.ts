import { bad, good, type Checked, type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { isGroup, type Condition, type WrittenCondition } from './schema.ts';

/** The property of each kind of line that names a definition, and the kind of definition it names. */
const REFERENCE: Readonly<Record<string, { readonly property: string; readonly kind: DefinitionKind }>> = {
  field: { property: 'field', kind: 'field' },
  tag: { property: 'tag', kind: 'tag' },
  signal: { property: 'type', kind: 'signalType' },
  score: { property: 'scorecard', kind: 'scorecard' },
  band: { property: 'scorecard', kind: 'scorecard' },
  audience: { property: 'audience', kind: 'audience' },
};
const DIRECTIONS: readonly unknown[] = ['from them', 'from us'];

type Path = readonly (string | number)[];
type Swap = (kind: DefinitionKind, reference: unknown, path: Path) => unknown;

/** The condition with every reference swapped; nothing else changes. */
function swapped(condition: Condition | WrittenCondition, swap: Swap, path: Path): unknown {
  if (isGroup<{ match: 'all' | 'any' | 'none'; of: (Condition | WrittenCondition)[] }>(condition)) {
    return { match: condition.match, of: condition.of.map((each, index) => swapped(each, swap, [...path, 'of', index])) };
  }
  const reference = REFERENCE[condition.kind];
  if (!reference) return condition;
  const { property, kind } = reference;
  const named = (condition as unknown as Record<string, unknown>)[property];
  if (kind === 'signalType' && DIRECTIONS.includes(named)) return condition;
  const here = [...path, property];
  const value = Array.isArray(named) ? named.map((one, index) => swap(kind, one, [...here, index])) : swap(kind, named, here);
  return { ...condition, [property]: value };
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

/** The id behind a key, or -1 and a fault that names keys that are alike. */
export function idOf(catalogue: Catalogue, kind: DefinitionKind, key: string, path: Path, faults: Fault[]): number {
  const found = catalogue.find(kind, key);
  if (found && !found.retired) return found.id;
  const alike = catalogue.all(kind).map((definition) => definition.key);
  const near = alike.filter((each) => each.includes(key.slice(0, 3)) || key.includes(each.slice(0, 3)));
  const some = (near.length > 0 ? near : alike).slice(0, 6).join(', ');
  faults.push({
    path,
    code: `${kind}.unknown`,
    expected: `the key of a ${kind === 'signalType' ? 'signal type' : kind}${some ? `, such as ${some}` : '; there are none yet'}`,
  });
  return -1;
}
