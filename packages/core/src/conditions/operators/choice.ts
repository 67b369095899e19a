import { optionOf } from '../../contacts/facts.ts';
import { bad, good, type Checked } from '../../faults.ts';
import { oppositeOf, operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type YesNoOperator = 'is yes' | 'is no';
export type ChoiceOperator = 'is' | 'is not' | 'is one of' | 'is not one of';
export type ChoicesOperator = 'includes any of' | 'includes all of' | 'includes none of';

function option(value: unknown, { options = [], path }: ValueContext): Checked<string> {
  const key = optionOf({ options }, value);
  return key === undefined
    ? bad({ path, code: 'value.choice', expected: `one of ${options.map((each) => each.key).join(', ')}` })
    : good(key);
}

function severalOptions(value: unknown, context: ValueContext): Checked<readonly string[]> {
  if (!Array.isArray(value) || value.length === 0)
    return bad({ path: context.path, code: 'value.list', expected: 'a list of at least one choice' });
  const read = value.map((one, index) => option(one, { ...context, path: [...context.path, index] }));
  const faults = read.flatMap((result) => (result.ok ? [] : result.faults));
  return faults.length > 0 ? bad(...faults) : good([...new Set(read.map((result) => (result as { value: string }).value))]);
}

const flag = (wanted: 0 | 1): OperatorEntry =>
  operator<null>({
    takes: 'nothing',
    prepare: () => good(null),
    holds: (fact) => fact === wanted,
    sql: (column) => `${column.number} = ${wanted}`,
  });

/** Both are positive: an empty value is neither yes nor no. */
export const yesNoOperators: Record<YesNoOperator, OperatorEntry> = { 'is yes': flag(1), 'is no': flag(0) };

/** What a tag carries that is active or inactive; without a value it is neither. */
export const activeOperators: Record<'is active' | 'is inactive', OperatorEntry> = { 'is active': flag(1), 'is inactive': flag(0) };

/** Operators on one choice, compared by its option's key. */
export const choiceOperators: Record<ChoiceOperator, OperatorEntry> = {
  is: operator<string>({
    takes: 'value',
    prepare: option,
    holds: (fact, key) => fact === key,
    sql: (column, key, _moment, bind) => `${column.text} = ${bind(key, 'text')}`,
    among: (key) => [key],
  }),
  'is not': oppositeOf('is'),
  'is one of': operator<readonly string[]>({
    takes: 'values',
    prepare: severalOptions,
    holds: (fact, keys) => keys.includes(fact as string),
    sql: (column, keys, _moment, bind) => `${column.text} = any(${bind(keys, 'text[]')})`,
    among: (keys) => keys,
  }),
  'is not one of': oppositeOf('is one of'),
};

/** Operators on a set of choices. There is no "equals": it would silently lose whoever chose more. */
export const choicesOperators: Record<ChoicesOperator, OperatorEntry> = {
  'includes any of': operator<readonly string[]>({
    takes: 'values',
    prepare: severalOptions,
    holds: (fact, keys) => keys.some((key) => (fact as readonly string[]).includes(key)),
    sql: (column, keys, _moment, bind) => `${column.keys} && ${bind(keys, 'text[]')}`,
  }),
  'includes all of': operator<readonly string[]>({
    takes: 'values',
    prepare: severalOptions,
    holds: (fact, keys) => keys.every((key) => (fact as readonly string[]).includes(key)),
    sql: (column, keys, _moment, bind) => `${column.keys} @> ${bind(keys, 'text[]')}`,
  }),
  'includes none of': oppositeOf('includes any of'),
};
