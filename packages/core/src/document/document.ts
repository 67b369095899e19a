import { z } from 'zod';
import { writtenAudienceSchema } from '../audiences/definition.ts';
import { writtenMessageSchema } from '../campaigns/definition.ts';
import { normalise } from '../conditions/normalise.ts';
import { faultsOf } from '../shape.ts';
import { idOf, namedIn, toIds, toKeys } from '../conditions/references.ts';
import { writtenConditionSchema, type Condition, type WrittenCondition } from '../conditions/schema.ts';
import { pipelineBodySchema } from '../contacts/deals.ts';
import { fieldBodyOf } from '../contacts/fields.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { writtenFormSchema } from '../forms/forms.ts';
import { signalTypeBodySchema } from '../intake/signal-types.ts';
import { writtenBundleSchema, writtenRuleSchema } from '../rules/definition.ts';
import { writtenStageSchema } from '../rules/ladder.ts';
import { writtenRoutingSchema } from '../rules/routing.ts';
import { writtenMapSchema } from '../rules/signal-map.ts';
import { writtenScorecardSchema } from '../scores/definition.ts';
import { familyBodySchema, tagBodyOf } from '../tags/definition.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Bodies, type DefinitionKind } from '../settings/definitions.ts';
import { colourSchema, keySchema, nameSchema } from '../settings/keys.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { Swapping } from './swapping.ts';

/** How the body of each kind is written outside: as it is stored, but with keys in place of ids. */
export const writtenBodySchemas = {
  field: fieldBodyOf(z.string()),
  family: familyBodySchema,
  tag: tagBodyOf(z.string(), writtenConditionSchema),
  signalType: signalTypeBodySchema,
  stage: writtenStageSchema,
  pipeline: pipelineBodySchema,
  form: writtenFormSchema,
  scorecard: writtenScorecardSchema,
  audience: writtenAudienceSchema,
  message: writtenMessageSchema,
  routing: writtenRoutingSchema,
  map: writtenMapSchema,
  bundle: writtenBundleSchema,
  rule: writtenRuleSchema,
} as const satisfies Record<DefinitionKind, z.ZodType>;

/** Under which name each kind stands in the document, in an order in which what is referred to mostly comes first. */
export const DOCUMENT_SECTIONS = {
  field: 'fields',
  family: 'families',
  tag: 'tags',
  signalType: 'signalTypes',
  stage: 'ladder',
  pipeline: 'pipelines',
  form: 'forms',
  scorecard: 'scorecards',
  audience: 'audiences',
  message: 'messages',
  routing: 'routing',
  map: 'maps',
  bundle: 'bundles',
  rule: 'rules',
} as const satisfies Record<DefinitionKind, string>;

const item = z.looseObject({ key: keySchema, name: nameSchema.optional(), retire: z.boolean().optional(), delete: z.boolean().optional() });
export type DocumentItem = z.infer<typeof item>;

const section = z.array(item).max(5_000).optional();

/** The whole set-up as one document, or parts of it. Each item's own shape is checked by its kind. */
export const definitionsDocumentSchema = z.strictObject({
  language: z.literal(1).optional(),
  name: nameSchema.optional(),
  timeZone: z.string().max(64).optional(),
  currency: z
    .string()
    .regex(/^[A-Z]{3}$/)
    .optional(),
  rates: z.record(z.string().regex(/^[A-Z]{3}$/), z.string().max(20)).optional(),
  /** of pages that everybody can see; null for the standard one */
  colour: colourSchema.nullable().optional(),
  fields: section,
  families: section,
  tags: section,
  signalTypes: section,
  ladder: section,
  pipelines: section,
  forms: section,
  scorecards: section,
  audiences: section,
  messages: section,
  routing: section,
  maps: section,
  bundles: section,
  rules: section,

  broken: z
    .array(z.looseObject({ kind: z.string(), key: z.string(), because: z.string() }))
    .max(5_000)
    .optional()
    .describe('what stands still since it, or something that it rests on, is broken; only told, and ignored where a document is sent'),
});
export type DefinitionsDocument = z.infer<typeof definitionsDocumentSchema>;

/** The body of an item as it is sent, with keys where the stored one has ids. */
export type WrittenBody<Kind extends DefinitionKind> = z.input<(typeof writtenBodySchemas)[Kind]>;
/** One item as it is sent: what is left out of a known one stays as it is. */
export type WrittenItem<Kind extends DefinitionKind> = Readonly<
  Pick<DocumentItem, 'key' | 'name' | 'retire' | 'delete'> & Partial<WrittenBody<Kind>>
>;
/** A part of the document as it is sent, each section with the items of its kind. */
export type WrittenDocument = Readonly<
  Partial<Pick<DefinitionsDocument, 'name' | 'timeZone' | 'currency' | 'rates' | 'colour'>> & {
    [Kind in DefinitionKind as (typeof DOCUMENT_SECTIONS)[Kind]]?: readonly WrittenItem<Kind>[];
  }
>;

type Path = readonly (string | number)[];

/** The body of an item as it is stored, against a catalogue that holds everything it names. */
export function toStoredBody<Kind extends DefinitionKind>(
  kind: Kind,
  written: unknown,
  catalogue: Catalogue,
  path: Path,
): Checked<Bodies[Kind]> {
  const body = toBodyWithIds(kind, written, catalogue, path);
  return body.ok ? good(toNormalBody(kind, body.value, catalogue)) : body;
}

/**
 * The body with ids in place of keys. What it names may be a placeholder still: things made in one go may name each other.
 */
export function toBodyWithIds<Kind extends DefinitionKind>(
  kind: Kind,
  written: unknown,
  catalogue: Catalogue,
  path: Path,
): Checked<Bodies[Kind]> {
  const shape = writtenBodySchemas[kind].safeParse(written);
  if (!shape.success) return bad(...faultsOf(shape.error, path));
  const faults: Fault[] = [];
  const body = new Swapping(
    (of, key, at) => idOf(catalogue, of, String(key), [...path, ...at], faults),
    (condition, at) => {
      const found = toIds(condition as WrittenCondition, catalogue);
      if (found.ok) return found.value;
      faults.push(...found.faults.map((fault) => ({ ...fault, path: [...path, ...at, ...fault.path] })));
      return condition as Condition;
    },
  ).body(kind, shape.data);
  return faults.length > 0 ? bad(...faults) : good(body as Bodies[Kind]);
}

/** The body with its conditions in their one way of writing, which takes the fields and tags that they name. */
export function toNormalBody<Kind extends DefinitionKind>(kind: Kind, body: Bodies[Kind], catalogue: Catalogue): Bodies[Kind] {
  const normal = new Swapping(
    (_kind, id) => id,
    (condition) => normalise(condition as Condition, catalogue),
  );
  return normal.body(kind, body) as Bodies[Kind];
}

/** A stored body as it is sent. */
export function toWrittenBody<Kind extends DefinitionKind>(kind: Kind, body: Bodies[Kind], catalogue: Catalogue): WrittenBody<Kind> {
  const keyOf = (named: DefinitionKind, id: unknown): string => catalogue.get(named, id as number)?.key ?? `missing-${String(id)}`;
  return new Swapping(keyOf, (condition) => toKeys(condition as Condition, catalogue)).body(kind, body) as WrittenBody<Kind>;
}

/** A definition as the document gives it. */
export function toDocumentItem(definition: AnyDefinition, catalogue: Catalogue): DocumentItem {
  const { key, name, kind, body, retired } = definition;
  return { key, name, ...(retired ? { retire: true } : {}), ...toWrittenBody(kind, body, catalogue) };
}

/** Every definition that a definition names: what it rests on. */
export function referencesIn(definition: AnyDefinition): ReadonlySet<number> {
  const ids = new Set<number>();
  const collecting = new Swapping(
    (_kind, id) => void ids.add(id as number),
    (condition) => {
      for (const id of namedIn(condition as Condition)) ids.add(id);
      return condition;
    },
  );
  collecting.body(definition.kind, definition.body);
  return ids;
}

/** What names a definition, but for what is retired: where it is used. */
export const usersOf = (catalogue: Catalogue, id: number): readonly AnyDefinition[] =>
  definitionKinds
    .flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[])
    .filter((definition) => definition.id !== id && referencesIn(definition).has(id));

/** Everything that is defined, as one document. */
export function toDocument(catalogue: Catalogue): DefinitionsDocument {
  const { workspace } = catalogue;
  const document: Record<string, unknown> = {
    language: 1,
    name: workspace.name,
    timeZone: workspace.timeZone,
    currency: workspace.currency,
  };
  if (workspace.ratesMillionths.size > 0)
    document['rates'] = Object.fromEntries([...workspace.ratesMillionths].map(([currency, rate]) => [currency, String(rate / 1_000_000)]));
  if (workspace.colour !== undefined) document['colour'] = workspace.colour;
  for (const [kind, name] of Object.entries(DOCUMENT_SECTIONS)) {
    const all = kind === 'stage' ? catalogue.ladder() : kind === 'family' ? catalogue.families() : catalogue.all(kind as DefinitionKind);
    const items = all.map((definition) => toDocumentItem(definition as AnyDefinition, catalogue));
    if (items.length > 0) document[name] = items;
  }
  return document as DefinitionsDocument;
}
