import { ownFields, readFact, type Catalogue, type Definition, type Fact, type Fault } from '@eager-sieve/core';

/** The longest value that is kept, in characters of JSON. */
const MAX_STORED = 16_000;

export interface SentField {
  readonly id: number;
  /** as it was sent */
  readonly value: unknown;
  /** as it is kept; null empties the field */
  readonly fact: Fact | null;
}

/** The field that stands for one of another type, which programs may go on to send. */
function standingFor(catalogue: Catalogue, key: string, known: readonly Definition<'field'>[]): Definition<'field'> | undefined {
  let field = catalogue.find('field', key);
  while (field?.body.replacedBy !== undefined) field = catalogue.get('field', field.body.replacedBy);
  return known.find((each) => each.id === field?.id);
}

/** Reads the fields that are sent of a contact, a company or a deal, by their keys, and says everything that is wrong with them. */
export function readSentFields(
  sent: Readonly<Record<string, unknown>>,
  of: 'contact' | 'company' | 'deal',
  catalogue: Catalogue,
): { readonly fields: readonly SentField[]; readonly faults: readonly Fault[] } {
  const fields: SentField[] = [];
  const faults: Fault[] = [];
  const known = catalogue.all('field').filter((field) => field.body.of === of && !(of === 'contact' && ownFields.includes(field.key)));
  for (const [key, value] of Object.entries(sent)) {
    const path = ['fields', key];
    const field = known.find((each) => each.key === key) ?? standingFor(catalogue, key, known);
    if (!field) {
      faults.push({
        path,
        code: 'field.unknown',
        expected: `one of ${known.map((each) => each.key).join(', ') || '(there are none yet)'}`,
      });
      continue;
    }
    const read = readFact(field.body, value, catalogue.workspace, path);
    if (!read.ok) faults.push(...read.faults);
    else if (JSON.stringify(value ?? null).length > MAX_STORED)
      faults.push({ path, code: 'value.length', expected: `at most ${MAX_STORED} characters` });
    else if (field.body.required && read.value === undefined)
      faults.push({ path, code: 'value.required', expected: 'a value: everyone should have one' });
    else fields.push({ id: field.id, value, fact: read.value?.fact ?? null });
  }
  return { fields, faults };
}
