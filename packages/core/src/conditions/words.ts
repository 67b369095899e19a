import { type Storage } from '../contacts/fields.ts';
import { type Duration } from './operators/duration.ts';
import { operatorNames } from './operators/index.ts';
import { type NumberOp } from './schema.ts';

/** How an operator reads: the words before its value and, for some, after it. */
export interface OperatorWords {
  readonly before: string;
  readonly after?: string;
}

/** How numbers are compared, in words and in the order in which they are offered. */
export const COMPARISON_WORDS: Readonly<Record<Exclude<NumberOp, 'between'>, string>> = {
  '>=': 'at least',
  '>': 'more than',
  '=': 'exactly',
  '!=': 'not exactly',
  '<=': 'at most',
  '<': 'less than',
};
/** The same as pairs. */
export const COMPARISONS = Object.entries(COMPARISON_WORDS) as readonly (readonly [keyof typeof COMPARISON_WORDS, string])[];

const COMPARED: Readonly<Record<string, OperatorWords>> = Object.fromEntries(
  [...COMPARISONS, ['between', 'between'] as const].map(([op, before]) => [op, { before }]),
);
const DATED: Readonly<Record<string, OperatorWords>> = {
  on: { before: 'on' },
  before: { before: 'before' },
  after: { before: 'after' },
  between: { before: 'between' },
  'within the last': { before: 'within the last' },
  'within the next': { before: 'within the next' },
  'more than ago': { before: 'more than', after: 'ago' },
  'more than ahead': { before: 'more than', after: 'ahead' },
  'anniversary today': { before: 'has its anniversary today' },
  'anniversary in': { before: 'has its anniversary in' },
  'anniversary within the next': { before: 'has its anniversary within the next' },
  'anniversary within the last': { before: 'has its anniversary within the last' },
};

/** The words of an operator on a kind of value; most operators are called by their own words. */
export function operatorWords(storage: Storage, op: string): OperatorWords {
  const table = storage === 'number' ? COMPARED : storage === 'day' || storage === 'instant' ? DATED : {};
  return table[op] ?? { before: op };
}

/** Every operator on a kind of value with its words, longest first, so that reading finds the longest that fits. */
export function operatorsByWords(storage: Storage): readonly { readonly op: string; readonly words: OperatorWords }[] {
  return operatorNames(storage)
    .map((op) => ({ op, words: operatorWords(storage, op) }))
    .sort((a, b) => b.words.before.length - a.words.before.length);
}

const BARE = /^[\p{L}\p{N}_@.-]+$/u;
/** Words that continue a sentence, and must be quoted when meant as text. */
const RESERVED = new Set([
  'and',
  'where',
  'at',
  'never',
  'in',
  'from',
  'more',
  'less',
  'exactly',
  'between',
  'not',
  'ever',
  'to',
  'or',
  'some',
  'no',
  'have',
  'until',
  'today',
  'older',
  'since',
  'nothing',
  'changed',
  'followed',
  'valued',
  'within',
  'came',
  'went',
  'on',
  'only',
  'summing',
  'times',
]);

/** A value as it is typed: bare where it is one plain word, else in quotes. */
export function quoted(value: unknown): string {
  const text = String(value);
  return BARE.test(text) && !RESERVED.has(text.toLowerCase()) ? text : JSON.stringify(text);
}

/** `1 day`, `3 weeks` */
export const durationWords = ({ n, unit }: Duration | { n: number; unit: string }): string =>
  `${n} ${n === 1 ? unit.replace(/s$/, '') : unit}`;
