import { z } from 'zod';
import { writtenAudienceSchema } from '../audiences/definition.ts';
import { writtenMessageSchema } from '../campaigns/definition.ts';
import { faultsOf, normalise } from '../conditions/parse.ts';
import { idOf, toIds, toKeys } from '../conditions/references.ts';
import { type Condition, type WrittenCondition } from '../conditions/schema.ts';
import { fieldBodySchema } from '../contacts/fields.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { writtenFormSchema } from '../intake/forms.ts';
import { signalTypeBodySchema } from '../intake/signal-types.ts';
import { writtenRuleSchema } from '../rules/definition.ts';
import { writtenScorecardSchema } from '../scores/definition.ts';
import { familyBodySchema, tagBodyOf } from '../tags/definition.ts';
import { type Catalogue } from './catalogue.ts';
import { type AnyDefinition, type Bodies, type DefinitionKind } from './definitions.ts';
import { keySchema, nameSchema } from './keys.ts';

/** How the body of each kind is written outside: as it is stored, but with keys in place of ids. */
export const writtenBodySchemas = {
  field: fieldBodySchema,
  family: familyBodySchema,
  tag: tagBodyOf(z.string()),
  signalType: signalTypeBodySchema,
  form: writtenFormSchema,
  scorecard: writtenScorecardSchema,
  audience: writtenAudienceSchema,
  message: writtenMessageSchema,
  rule: writtenRuleSchema,
} as const satisfies Record<DefinitionKind, z.ZodType>;

/** Under which name each kind stands in the document, in an order in which what is referred to mostly comes first. */
export const DOCUMENT_SECTIONS = {
  field: 'fields',
  family: 'families',
  tag: 'tags',
  signalType: 'signalTypes',
  form: 'forms',
  scorecard: 'scorecards',
  audience: 'audiences',
  message: 'messages',
  rule: 'rules',
} as const satisfies Record<DefinitionKind, string>;

const item = z.looseObject({ key: keySchema, name: nameSchema.optional(), retire: z.boolean().optional() });
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
  fields: section,
  families: section,
  tags: section,
  signalTypes: section,
  forms: section,
  scorecards: section,
  audiences: section,
  messages: section,
  rules: section,
});
export type DefinitionsDocument = z.infer<typeof definitionsDocumentSchema>;

type Path = readonly (string | number)[];

/**
 * The body of an item as it is stored. Everything it names must be in the catalogue already, if only as a placeholder
 * (things made in one go may name each other).
 */
export function toStoredBody<Kind extends DefinitionKind>(
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
      const stored = toIds(condition as WrittenCondition, catalogue);
      if (stored.ok) return normalise(stored.value, catalogue);
      faults.push(...stored.faults.map((fault) => ({ ...fault, path: [...path, ...at, ...fault.path] })));
      return condition as Condition;
    },
  ).body(kind, shape.data);
  return faults.length > 0 ? bad(...faults) : good(body as Bodies[Kind]);
}

/** A definition as the document gives it. */
export function toDocumentItem(definition: AnyDefinition, catalogue: Catalogue): DocumentItem {
  const keyOf = (kind: DefinitionKind, id: unknown): string => catalogue.get(kind, id as number)?.key ?? `missing-${String(id)}`;
  const body = new Swapping(keyOf, (condition) => toKeys(condition as Condition, catalogue)).body(definition.kind, definition.body);
  return { key: definition.key, name: definition.name, ...(definition.retired ? { retire: true } : {}), ...(body as object) };
}

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
  for (const [kind, name] of Object.entries(DOCUMENT_SECTIONS)) {
    const items = catalogue.all(kind as DefinitionKind).map((definition) => toDocumentItem(definition as AnyDefinition, catalogue));
    if (items.length > 0) document[name] = items;
  }
  return document as DefinitionsDocument;
}

/** Swaps the references inside a body, kind by kind: the one list of where each kind names another. */
class Swapping {
  readonly #reference: (kind: DefinitionKind, value: unknown, path: Path) => unknown;
  readonly #condition: (condition: unknown, path: Path) => unknown;

  constructor(
    reference: (kind: DefinitionKind, value: unknown, path: Path) => unknown,
    condition: (condition: unknown, path: Path) => unknown,
  ) {
    this.#reference = reference;
    this.#condition = condition;
  }

  body(kind: DefinitionKind, body: unknown): unknown {
    const given = body as Record<string, unknown>;
    switch (kind) {
      case 'tag':
        return this.#with(given, { family: 'family' }, []);
      case 'form':
        return {
          ...given,
          questions: this.#each(given['questions'], ['questions'], (question, path) => this.#with(question, { field: 'field' }, path)),
        };
      case 'message': {
        const links = this.#each(given['links'], ['links'], (link, path) => this.#with(link, { tag: 'tag' }, path));
        return { ...this.#with(given, { audience: 'audience' }, []), links };
      }
      case 'audience':
        return { ...given, condition: this.#condition(given['condition'], ['condition']) };
      case 'scorecard':
        return { ...given, lines: this.#each(given['lines'], ['lines'], (line, path) => this.#line(line, path)) };
      case 'rule':
        return this.#rule(given);
      default:
        return given;
    }
  }

  #line(line: Record<string, unknown>, path: Path): unknown {
    return line['kind'] === 'fact'
      ? { ...line, condition: this.#condition(line['condition'], [...path, 'condition']) }
      : this.#with(line, { type: 'signalType' }, path);
  }

  #rule(rule: Record<string, unknown>): unknown {
    const when = rule['when'] as Record<string, unknown>;
    return {
      ...rule,
      when:
        when['kind'] === 'becomes'
          ? { ...when, condition: this.#condition(when['condition'], ['when', 'condition']) }
          : this.#with(when, { type: 'signalType' }, ['when']),
      ...(rule['if'] === undefined ? {} : { if: this.#condition(rule['if'], ['if']) }),
      then: this.#each(rule['then'], ['then'], (action, path) => this.#with(action, { tag: 'tag', field: 'field' }, path)),
    };
  }

  #with(given: Record<string, unknown>, references: Readonly<Record<string, DefinitionKind>>, path: Path): Record<string, unknown> {
    const swapped = { ...given };
    for (const [property, kind] of Object.entries(references)) {
      if (given[property] !== undefined) swapped[property] = this.#reference(kind, given[property], [...path, property]);
    }
    return swapped;
  }

  #each(list: unknown, path: Path, swap: (one: Record<string, unknown>, path: Path) => unknown): unknown {
    return (list as Record<string, unknown>[]).map((one, index) => swap(one, [...path, index]));
  }
}
