import { swapped } from '../conditions/references.ts';
import { type Condition } from '../conditions/schema.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type DefinitionKind } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { type TagId } from '../settings/ids.ts';
import { referencesIn } from './document.ts';
import { Swapping } from './swapping.ts';

/** Every definition in use that names a tag, naming another in its place; tags themselves are left as they are. */
export const withTagReplaced = (catalogue: Catalogue, from: TagId, to: TagId): readonly AnyDefinition[] =>
  withTagSplit(catalogue, from, [], to);

/**
 * Every definition in use that names a tag, naming those that it is split into in its place. What asks for it asks for any of them, and what takes
 * it off takes all of them off; what gives it gives the one for everyone else, since nobody can say then which of the others is meant.
 *
 * @param parts the tags of those that meet a condition
 * @param rest the tag of everyone else
 */
export function withTagSplit(catalogue: Catalogue, from: TagId, parts: readonly TagId[], rest: TagId): readonly AnyDefinition[] {
  const all = [...parts, rest];
  const other = (kind: DefinitionKind, reference: unknown): unknown => (kind === 'tag' && reference === from ? rest : reference);
  const swapping = new Swapping(other, (condition) => swapped(anyOfThem(condition, from, all) as Condition, other, []));
  return definitionKinds
    .flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[])
    .filter((definition) => definition.kind !== 'tag' && referencesIn(definition).has(from))
    .map(
      (definition) =>
        ({ ...definition, body: once(swapping.body(definition.kind, takingAll(definition.body, from, all))) }) as AnyDefinition,
    );
}

type Parts = Readonly<Record<string, unknown>>;
const isParts = (part: unknown): part is Parts => typeof part === 'object' && part !== null && !Array.isArray(part);

/** A condition in which a line about a tag is one about each of several. */
function anyOfThem(condition: unknown, from: TagId, all: readonly TagId[]): unknown {
  if (Array.isArray(condition)) return condition.map((each) => anyOfThem(each, from, all));
  if (!isParts(condition)) return condition;
  if (condition['kind'] === 'tag' && condition['tag'] === from && all.length > 1)
    return { match: condition['op'] === 'lacks' ? 'all' : 'any', of: all.map((tag) => ({ ...condition, tag })) };
  return Object.fromEntries(Object.entries(condition).map(([property, value]) => [property, anyOfThem(value, from, all)]));
}

/** What takes a tag off takes each of several off, and what messages say to whoever has it is said to whoever has any of them. */
function takingAll(part: unknown, from: TagId, all: readonly TagId[], property = ''): unknown {
  if (Array.isArray(part))
    return part.flatMap((each: unknown): unknown[] => {
      if (property === 'remove' && each === from) return [...all];
      if (!isParts(each)) return [each];
      if (property === 'tagTexts' && each['tag'] === from) return all.map((tag) => ({ ...each, tag }));
      if (takesOff(each, from)) return all.map((tag) => ({ ...each, tag }));
      const { action } = each;
      if (isParts(action) && takesOff(action, from)) return all.map((tag) => ({ ...each, action: { ...action, tag } }));
      return [takingAll(each, from, all)];
    });
  if (!isParts(part)) return part;
  return Object.fromEntries(Object.entries(part).map(([name, value]) => [name, takingAll(value, from, all, name)]));
}
const takesOff = (action: Parts, tag: TagId): boolean => action['do'] === 'remove tag' && action['tag'] === tag;

/** Where a list named both, it names the one that is left once. */
function once(part: unknown): unknown {
  if (Array.isArray(part)) return part.every((each) => typeof each === 'number') ? [...new Set(part)] : part.map(once);
  if (typeof part !== 'object' || part === null) return part;
  return Object.fromEntries(Object.entries(part).map(([property, value]) => [property, once(value)]));
}
