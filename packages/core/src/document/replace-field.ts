import { convertFact } from '../contacts/replaced.ts';
import { readFact, writeFact } from '../contacts/facts.ts';
import { type FieldBody } from '../contacts/fields.ts';
import { swapped } from '../conditions/references.ts';
import { type Condition } from '../conditions/schema.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition, type DefinitionKind } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { Swapping } from './swapping.ts';

type Part = Readonly<Record<string, unknown>>;
/** What stands in place of a value that a line or an action names. */
type SwapValue = (value: unknown) => unknown;

/** Every definition in use that names a choice of a field, naming the one that it is merged into; and the field itself, in which the choice stays as what it became. */
export function withChoiceMerged(
  catalogue: Catalogue,
  field: Definition<'field'>,
  from: string,
  into: string,
): { readonly field: Definition<'field'>; readonly others: readonly AnyDefinition[] } {
  const named = (value: unknown): unknown => (value === from ? into : value);
  const swap: SwapValue = (value) => (Array.isArray(value) ? [...new Set(value.map(named))] : named(value));
  const options = field.body.options?.map((option) =>
    option.key === from || option.replacedBy === from ? { ...option, replacedBy: into } : option,
  );
  return {
    field: { ...field, body: { ...field.body, ...(options ? { options } : {}) } },
    others: changedBy(catalogue, (definition) => withValues(definition.body, field, swap)),
  };
}

/**
 * Every definition in use that names a field, naming another one of another type in its place. Values are written as the other one takes them; one
 * that it does not take is left as it is, and then refused where the definition is saved.
 */
export function withFieldReplaced(catalogue: Catalogue, from: Definition<'field'>, to: Definition<'field'>): readonly AnyDefinition[] {
  const other = (kind: DefinitionKind, reference: unknown): unknown => (kind === 'field' && reference === from.id ? to.id : reference);
  const swapping = new Swapping(other, (condition) => swapped(condition as Condition, other, []));
  const swap: SwapValue = (value) =>
    Array.isArray(value) ? value.map((one) => asTaken(from.body, to.body, one, catalogue)) : asTaken(from.body, to.body, value, catalogue);
  return changedBy(catalogue, (definition) =>
    definition.kind === 'field' ? definition.body : swapping.body(definition.kind, withValues(definition.body, from, swap, to.key)),
  );
}

/** Those whose bodies come to say something else by it. */
function changedBy(catalogue: Catalogue, change: (definition: AnyDefinition) => unknown): readonly AnyDefinition[] {
  return definitionKinds
    .flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[])
    .map((definition) => ({ definition, body: change(definition) }))
    .filter(({ definition, body }) => inOrder(body) !== inOrder(definition.body))
    .map(({ definition, body }) => ({ ...definition, body }) as AnyDefinition);
}

/** As JSON with its properties in order, since swapping may leave them in another. */
const inOrder = (body: unknown): string =>
  JSON.stringify(body, (_property, value: unknown) =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );

/** A body in which the values that go with a field are swapped: in lines, in actions, and where deals are asked for theirs. */
function withValues(part: unknown, field: Definition<'field'>, swap: SwapValue, key = field.key): unknown {
  if (Array.isArray(part)) return part.map((each) => withValues(each, field, swap, key));
  if (typeof part !== 'object' || part === null) return part;
  const within = Object.fromEntries(Object.entries(part).map(([property, value]) => [property, withValues(value, field, swap, key)]));
  const at = (...properties: readonly string[]): Part => ({ ...within, ...swappedAt(within, properties, swap) });
  if (within['field'] === field.id) return at('value');
  if (within['kind'] === 'change' && within['what'] === 'field' && within['key'] === field.id) return at('from', 'to');
  if (within['kind'] === 'deal' && field.body.of === 'deal' && Array.isArray(within['where']))
    return {
      ...within,
      where: (within['where'] as Part[]).map((line) =>
        line['path'] === field.key ? { ...line, ...swappedAt(line, ['value'], swap), path: key } : line,
      ),
    };
  return within;
}

/** Values that are written down; a span of time, or a detail of a signal, is none. */
const swappedAt = (part: Part, properties: readonly string[], swap: SwapValue): Part =>
  Object.fromEntries(
    properties.flatMap((property) => {
      const value = part[property];
      const written = value !== undefined && value !== null && (typeof value !== 'object' || Array.isArray(value));
      return written ? [[property, swap(value)] as const] : [];
    }),
  );

/** A value as the other field takes it, or as it is. */
function asTaken(from: FieldBody, to: FieldBody, value: unknown, { workspace }: Catalogue): unknown {
  if (value === null) return null;
  const read = readFact(from, value, workspace);
  const taken = read.ok && read.value ? convertFact(from, to, read.value, workspace) : undefined;
  if (!taken?.ok || !taken.value) return value;
  const { fact, shown } = taken.value;
  return to.type === 'one choice' || to.type === 'several choices' ? [fact].flat()[0] : writeFact(to, fact, shown);
}
