import { swapped } from '../conditions/references.ts';
import { type Condition } from '../conditions/schema.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type DefinitionKind } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { type TagId } from '../settings/ids.ts';
import { referencesIn } from './document.ts';
import { Swapping } from './swapping.ts';

/** Every definition in use that names a tag, naming another in its place; tags themselves are left as they are. */
export function withTagReplaced(catalogue: Catalogue, from: TagId, to: TagId): readonly AnyDefinition[] {
  const other = (kind: DefinitionKind, reference: unknown): unknown => (kind === 'tag' && reference === from ? to : reference);
  const swapping = new Swapping(other, (condition) => swapped(condition as Condition, other, []));
  return definitionKinds
    .flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[])
    .filter((definition) => definition.kind !== 'tag' && referencesIn(definition).has(from))
    .map((definition) => ({ ...definition, body: once(swapping.body(definition.kind, definition.body)) }) as AnyDefinition);
}

/** Where a list named both, it names the one that is left once. */
function once(part: unknown): unknown {
  if (Array.isArray(part)) return part.every((each) => typeof each === 'number') ? [...new Set(part)] : part.map(once);
  if (typeof part !== 'object' || part === null) return part;
  return Object.fromEntries(Object.entries(part).map(([property, value]) => [property, once(value)]));
}
