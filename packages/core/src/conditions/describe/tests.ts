import { optionOf } from '../../contacts/facts.ts';
import { storageOf, type FieldBody, type Storage } from '../../contacts/fields.ts';
import { type DetailField } from '../../intake/signal-types.ts';
import { takes } from '../operators/index.ts';
import { detailStorage } from '../prepare/details.ts';
import { type DetailCondition, type DetailLeaf, type Value } from '../schema.ts';
import { durationWords, operatorWords, quoted } from '../words.ts';

/** An operator and its value, as parts of a line. */
export function testTexts(
  storage: Storage,
  op: string,
  value: Value | undefined,
  shown: (value: unknown) => string = quoted,
): readonly string[] {
  const words = operatorWords(storage, op);
  const before = words.before;
  if (value === undefined || takes(storage, op) === 'nothing') return [before];
  return [before, valueWords(storage, op, value, shown), ...(words.after ? [words.after] : [])];
}

export const testWords = (storage: Storage, op: string, value: Value | undefined): string => testTexts(storage, op, value).join(' ');

function valueWords(storage: Storage, op: string, value: Value, shown: (value: unknown) => string): string {
  switch (takes(storage, op)) {
    case 'range':
      return (value as unknown[]).map(shown).join(' and ');
    case 'values':
      return [value].flat().map(shown).join(', ');
    case 'duration':
      return durationWords(value as { n: number; unit: string });
    case 'days':
      return durationWords({ n: (value as { n: number }).n, unit: 'days' });
    case 'value':
      return shown(value);
    case 'nothing':
      return '';
  }
}

/** How a value of a field is written: an option by its name. */
export function fieldValueWords(field: FieldBody): (value: unknown) => string {
  const storage = storageOf[field.type];
  if (storage !== 'choice' && storage !== 'choices') return quoted;
  return (value) => {
    const key = optionOf(field, value);
    return quoted(field.options?.find((option) => option.key === key)?.name ?? value);
  };
}

/** The questions about details, one part each. */
export function whereTexts(where: readonly DetailCondition[], fields: readonly DetailField[]): readonly string[] {
  return where.map((each, index) => `${index === 0 ? '' : 'and '}where ${detailWords(each, fields)}`);
}

export function detailWords(condition: DetailCondition, fields: readonly DetailField[]): string {
  if ('path' in condition) return detailLeafWords(condition, fields);
  const path = 'some' in condition ? condition.some : condition.none;
  const inner = fields.find((field) => field.key === path.split('.')[0]);
  const of = condition.of.map((leaf) => detailLeafWords(leaf, inner?.of ?? [])).join(' and ');
  return `${'some' in condition ? 'some' : 'no'} ${path} have (${of})`;
}

const detailLeafWords = (leaf: DetailLeaf, fields: readonly DetailField[]): string =>
  `${leaf.path} ${testWords(detailStorage(fields, leaf.path), leaf.op, leaf.value)}`;
