import { bad, good, type Checked } from '../../faults.ts';
import { fold, paddedWords } from '../../text/fold.ts';
import { LIMITS } from '../schema.ts';
import { oppositeOf, operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type TextOperator =
  | 'is'
  | 'is not'
  | 'is one of'
  | 'is not one of'
  | 'contains'
  | 'does not contain'
  | 'contains any of'
  | 'contains the word'
  | 'contains any word of'
  | 'starts with'
  | 'ends with';

function one(value: unknown, context: ValueContext): Checked<string> {
  const folded = typeof value === 'string' || typeof value === 'number' ? fold(String(value)) : '';
  return folded === '' ? bad({ path: context.path, code: 'value.text', expected: 'some text' }) : good(folded);
}

function free(value: unknown, context: ValueContext): Checked<string> {
  const text = one(value, context);
  if (text.ok && [...text.value].length < LIMITS.freeTextCharacters) {
    return bad({ path: context.path, code: 'value.short', expected: `at least ${LIMITS.freeTextCharacters} characters` });
  }
  return text;
}

function several(each: (value: unknown, context: ValueContext) => Checked<string>) {
  return (value: unknown, context: ValueContext): Checked<readonly string[]> => {
    if (!Array.isArray(value) || value.length === 0)
      return bad({ path: context.path, code: 'value.list', expected: 'a list of at least one text' });
    const read = value.map((element, index) => each(element, { ...context, path: [...context.path, index] }));
    const faults = read.flatMap((result) => (result.ok ? [] : result.faults));
    if (faults.length > 0) return bad(...faults);
    return good([...new Set(read.map((result) => (result as { value: string }).value))]);
  };
}

function word(value: unknown, context: ValueContext): Checked<string> {
  const text = one(value, context);
  if (!text.ok) return text;
  const words = paddedWords(text.value);
  return words.trim() === '' ? bad({ path: context.path, code: 'value.word', expected: 'a word of letters or digits' }) : good(words);
}

/** Operators on folded text. `%`, `_` and `\` are ordinary characters: nothing here is a pattern. */
export const textOperators: Record<TextOperator, OperatorEntry> = {
  is: operator<string>({
    takes: 'value',
    prepare: one,
    holds: (fact, text) => fact === text,
    sql: (column, text, _moment, bind) => `${column.text} = ${bind(text, 'text')}`,
    among: (text) => [text],
  }),
  'is not': oppositeOf('is'),
  'is one of': operator<readonly string[]>({
    takes: 'values',
    prepare: several(one),
    holds: (fact, texts) => texts.includes(fact as string),
    sql: (column, texts, _moment, bind) => `${column.text} = any(${bind(texts, 'text[]')})`,
    among: (texts) => texts,
  }),
  'is not one of': oppositeOf('is one of'),
  contains: operator<string>({
    takes: 'value',
    prepare: free,
    holds: (fact, text) => (fact as string).includes(text),
    sql: (column, text, _moment, bind) => `position(${bind(text, 'text')} in ${column.text}) > 0`,
  }),
  'does not contain': oppositeOf('contains'),
  'contains any of': operator<readonly string[]>({
    takes: 'values',
    prepare: several(free),
    holds: (fact, texts) => texts.some((text) => (fact as string).includes(text)),
    sql: (column, texts, _moment, bind) => `(${texts.map((text) => `position(${bind(text, 'text')} in ${column.text}) > 0`).join(' or ')})`,
  }),
  'contains the word': operator<string>({
    takes: 'value',
    prepare: word,
    holds: (fact, words) => paddedWords(fact as string).includes(words),
    sql: (column, words, _moment, bind) => `position(${bind(words, 'text')} in ${column.words}) > 0`,
  }),
  'contains any word of': operator<readonly string[]>({
    takes: 'values',
    prepare: several(word),
    holds: (fact, several) => several.some((words) => paddedWords(fact as string).includes(words)),
    sql: (column, several, _moment, bind) =>
      `(${several.map((words) => `position(${bind(words, 'text')} in ${column.words}) > 0`).join(' or ')})`,
  }),
  'starts with': operator<string>({
    takes: 'value',
    prepare: one,
    holds: (fact, text) => (fact as string).startsWith(text),
    sql: (column, text, _moment, bind) => `starts_with(${column.text}, ${bind(text, 'text')})`,
  }),
  'ends with': operator<string>({
    takes: 'value',
    prepare: one,
    holds: (fact, text) => (fact as string).endsWith(text),
    sql: (column, text, _moment, bind) => `right(${column.text}, ${bind([...text].length, 'bigint')}::int) = ${bind(text, 'text')}`,
  }),
};
