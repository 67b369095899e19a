import { Injectable } from '@nestjs/common';
import {
  builtInFields,
  choicesOf,
  convertFact,
  keyFrom,
  showFact,
  toDocumentItem,
  UNIQUE_TYPES,
  withChoiceMerged,
  withFieldReplaced,
  type AnyDefinition,
  type Catalogue,
  type Definition,
  type FieldBody,
  type FieldOption,
  type FieldType,
} from '@eager-sieve/core';
import { type ChangedType, type FieldFigures, type MergedChoice } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { type NamedItem } from '../database/entities';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore } from './definition-store';
import { DefinitionsService } from './definitions.service';
import { documentOf } from './document-of';
import { choicesHeld, heldValues, holders, sharedValues, type HeldValue } from './field-values';

const SHOWN = 20;
/** More different texts than this are no choices. */
const MOST_CHOICES = 200;
const STANDING = { contact: 'contact where merged_into is null', company: 'company', deal: 'deal' } as const;

/** What is done about a field beside editing it: its figures, merging of choices, another type. */
@Injectable()
export class FieldsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly definitions: DefinitionsService,
  ) {}

  async figures(key: string): Promise<FieldFigures> {
    const { catalogue, field } = await this.#find(key);
    const { options = [], unique, of } = field.body;
    const [row] = await this.database.query<{ n: number }>(`select count(*)::int as n from ${STANDING[of]}`);
    const held = choicesHeld(options.length > 0 ? await heldValues(this.database, field, catalogue) : []);
    return {
      all: row?.n ?? 0,
      have: await holders(this.database, field),
      choices: options.map((option) => ({ key: option.key, people: held.get(option.key) ?? 0 })),
      shared: unique ? [...(await sharedValues(this.database, field, catalogue, SHOWN)).values] : [],
    };
  }

  async mergeChoice(key: string, choice: string, into: string, by: string, rehearse: boolean): Promise<MergedChoice> {
    const { catalogue, field } = await this.#find(key);
    const choices = choicesOf(field.body).map((option) => option.key);
    for (const [name, value] of Object.entries({ choice, into }))
      if (!choices.includes(value) || (name === 'into' && value === choice))
        throw faulty([{ path: [name], code: 'value.choice', expected: 'two different choices of the field' }]);
    const { field: changed, others } = withChoiceMerged(catalogue, field, choice, into);
    const held = choicesHeld(await heldValues(this.database, field, catalogue));
    const document = documentOf(itemsOf([...others, changed as AnyDefinition], catalogue));
    const { refused } = await this.definitions.put(document, by, rehearse);
    return { people: held.get(choice) ?? 0, definitions: named(others), refused };
  }

  async changeType(key: string, type: FieldType, by: string, rehearse: boolean): Promise<ChangedType> {
    const { catalogue, field } = await this.#find(key);
    if (builtInFields.some((each) => each.key === key) || field.body.type === type || field.retired)
      throw faulty([{ path: ['type'], code: 'field.fixed', expected: 'another type, of a field that every workspace does not have' }]);
    const values = await heldValues(this.database, field, catalogue);
    const body = bodyOfType(field.body, type, values);
    const made = keyFrom(field.name, new Set(catalogue.every('field').map((each) => each.key)));
    const other = { ...field, id: Number.MAX_SAFE_INTEGER, key: made, body } as Definition<'field'>;
    const others = withFieldReplaced(catalogue, field, other);
    const old = { ...toDocumentItem(field as AnyDefinition, catalogue), replacedBy: made, retire: true };
    const items = itemsOf([other as AnyDefinition, ...others], catalogue.withAlso(other as AnyDefinition));
    const { refused } = await this.definitions.put(documentOf([...items, { kind: 'field', item: old }]), by, rehearse);
    const stay = values.filter(({ fact, shown }) => {
      const converted = convertFact(field.body, body, shown === undefined ? { fact } : { fact, shown }, catalogue.workspace);
      return !converted.ok || converted.value === undefined;
    });
    return {
      field: rehearse || refused.length > 0 ? null : made,
      have: total(values),
      stay: total(stay),
      examples: stay.slice(0, SHOWN).map(({ fact, shown, people }) => ({ value: showFact(field.body, fact, shown), people })),
      choices: field.body.options ? [] : (body.options ?? []).map(({ name }) => name),
      definitions: named(others),
      refused,
    };
  }

  async #find(key: string): Promise<{ readonly catalogue: Catalogue; readonly field: Definition<'field'> }> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const field = catalogue.find('field', key);
    if (!field) throw notFound('field');
    return { catalogue, field };
  }
}

const total = (values: readonly HeldValue[]): number => values.reduce((sum, { people }) => sum + people, 0);
const named = (definitions: readonly AnyDefinition[]) => definitions.map(({ kind, key, name }) => ({ kind, key, name }));

/** The same field of another type. Choices are those that it had, or one for each text that somebody wrote. */
function bodyOfType(before: FieldBody, type: FieldType, values: readonly HeldValue[]): FieldBody {
  const { options, unique, ...field } = before;
  if (type === 'one choice' || type === 'several choices')
    return { ...field, type, options: [...(options ? choicesOf(before) : choicesWritten(before, values))] };
  return { ...field, type, ...(unique && UNIQUE_TYPES.includes(type) ? { unique } : {}) };
}

function choicesWritten(field: FieldBody, values: readonly HeldValue[]): readonly FieldOption[] {
  const options = new Map<string, FieldOption>();
  for (const { fact, shown } of values) {
    if (options.has(String(fact))) continue;
    if (options.size === MOST_CHOICES)
      throw faulty([{ path: ['type'], code: 'field.choices', expected: `at most ${MOST_CHOICES} different values to make choices of` }]);
    const name = showFact(field, fact, shown).slice(0, 120);
    options.set(String(fact), { key: keyFrom(name, new Set([...options.values()].map((option) => option.key))), name });
  }
  if (options.size === 0)
    throw faulty([{ path: ['type'], code: 'field.choices', expected: 'values to make choices of, and nobody has one yet' }]);
  return [...options.values()];
}

const itemsOf = (definitions: readonly AnyDefinition[], catalogue: Catalogue): readonly NamedItem[] =>
  definitions.map((each) => ({ kind: each.kind, item: toDocumentItem(each, catalogue) }));
