import { type Storage } from '../../../contacts/fields.ts';
import { type Window } from '../../../time/window.ts';
import { takes } from '../../operators/index.ts';
import { type Count, type Value } from '../../schema.ts';
import { durationWords, operatorWords } from '../../words.ts';

const DAY = /^(\d{4})-(\d{2})-(\d{2})/;
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'June', 'July', 'Aug', 'Sept', 'Oct', 'Nov', 'Dec'];
const CLOCK = /[T ](\d{2}:\d{2})(?::(\d{2}(?:\.\d+)?))?\s*(Z|[+-]\d{2}:?\d{2})?$/i;
/** `28 Nov 2026`, with the time of day where one is given, and the offset where it is not the workspace's own */
export function dateWords(text: string): string {
  const date = DAY.exec(text);
  if (!date) return text;
  const [, minutes = '', seconds = '', offset = ''] = CLOCK.exec(text) ?? [];
  const zone = offset === '' ? '' : /z/i.test(offset) ? ' UTC' : ` UTC${offset}`;
  const clock =
    minutes === '00:00' && Number(seconds) === 0 && zone === '' ? '' : `${minutes}${Number(seconds) === 0 ? '' : `:${seconds}`}${zone}`;
  return `${Number(date[3])} ${MONTHS[Number(date[2]) - 1] ?? ''} ${date[1]}${clock === '' ? '' : `, ${clock}`}`;
}

export const numberText = (value: unknown): string => {
  const number = typeof value === 'number' ? value : Number(value);
  return Number.isFinite(number) ? number.toLocaleString('en-GB', { maximumFractionDigits: 6 }) : String(value);
};

export const listed = (words: readonly string[], joint: 'or' | 'and'): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${joint} ${words.at(-1) ?? ''}`;

export function windowSaid(window: Window | undefined): string {
  if (window === undefined || window === 'ever') return '';
  if ('last' in window) return window.last === 0 && window.unit === 'days' ? 'today' : `in the last ${spanSaid(window.last, window.unit)}`;
  if ('olderThan' in window) return `more than ${durationWords({ n: window.olderThan, unit: window.unit })} ago`;
  if (window.from && window.to) return `from ${dateWords(window.from)} until ${dateWords(window.to)}`;
  return window.from ? `since ${dateWords(window.from)}` : window.to ? `before ${dateWords(window.to)}` : '';
}

/** `45 days`, and `year` for one of them: in the last year */
export const spanSaid = (n: number, unit: string): string => (n === 1 ? unit.replace(/s$/, '') : `${n} ${unit}`);

export const timesSaid = (count: Count): string => {
  const words = operatorWords('number', count.op).before;
  if (Array.isArray(count.value)) return `between ${count.value.join(' and ')} times`;
  const times = count.value === 1 ? 'once' : count.value === 2 ? 'twice' : `${count.value} times`;
  return `${words} ${times}`;
};

export const isAny = (count: Count | undefined): boolean => !count || (count.op === '>=' && count.value === 1);
export const isNone = (count: Count | undefined): boolean => count?.op === '=' && count.value === 0;

export const quotedSaid = (text: string): string => `“${text}”`;

/** A test in words, such as `is glaze` or `is at least 3`. */
export function testSaid(
  leaf: { readonly op: string; readonly value?: Value | undefined },
  storage: Storage,
  shown: (value: unknown) => string,
): string {
  const { op, value } = leaf;
  const words = operatorWords(storage, op);
  const kind = takes(storage, op);
  const joint = op === 'includes all of' ? 'and' : 'or';
  const isBare = /^(is|has|contains|does|starts|ends|includes)\b/.test(words.before);
  const before = isBare
    ? words.before
        .replace(/ one of$/, '')
        .replace(/^includes (any|all) of$/, 'includes')
        .replace(/^includes none of$/, 'does not include')
        .replace(/ any of$/, '')
        .replace(/ any word of$/, ' the word')
    : `is ${words.before}`;
  if (kind === 'nothing' || value === undefined) return op === 'is empty' ? 'is not known' : op === 'is filled' ? 'is known' : before;
  if (kind === 'range') return `${before} ${(value as unknown[]).map(shown).join(' and ')}`;
  if (kind === 'duration') {
    const { n, unit } = value as { n: number; unit: string };
    return words.after
      ? `${before} ${durationWords({ n, unit })} ${words.after}`
      : `${before.replace('within the', 'in the')} ${spanSaid(n, unit)}`;
  }
  if (kind === 'days') {
    const { n } = value as { n: number };
    if (op === 'anniversary in')
      return n === 1 ? 'has its anniversary tomorrow' : `has its anniversary ${n === 0 ? 'today' : `in ${n} days`}`;
    return `${before.replace('within the', 'in the')} ${spanSaid(n, 'days')}`;
  }
  const values = [value].flat().map(shown);
  if (storage === 'number' && op === '=') return `is ${values[0] ?? ''}`;
  if (storage === 'number' && op === '!=') return `is not ${values[0] ?? ''}`;
  return `${before} ${listed(values, joint)}${words.after ? ` ${words.after}` : ''}`;
}
