import { type Storage } from '../../../contacts/fields.ts';
import { type Window } from '../../../time/window.ts';
import { readDay, writeDay } from '../../../time/zone.ts';
import { takes } from '../../operators/index.ts';
import { type Count, type Value } from '../../schema.ts';
import { durationWords, operatorWords, quoted } from '../../words.ts';

const DAY = /^(\d{4})-(\d{2})-(\d{2})/;
export const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'June', 'July', 'Aug', 'Sept', 'Oct', 'Nov', 'Dec'];
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

const DAY_ALONE = /^\d{4}-\d{2}-\d{2}$/;
const dayBefore = (day: string): string => writeDay((readDay(day) ?? 0) - 1);

export function windowSaid(window: Window | undefined): string {
  if (window === undefined || window === 'ever') return '';
  if ('last' in window) return window.last === 0 && window.unit === 'days' ? 'today' : `in the last ${spanSaid(window.last, window.unit)}`;
  if ('olderThan' in window) return `more than ${durationWords({ n: window.olderThan, unit: window.unit })} ago`;
  const { from, to } = window;
  if (from && to)
    return `from ${dateWords(from)} ${DAY_ALONE.test(to) ? `up to and including ${dateWords(dayBefore(to))}` : `until ${dateWords(to)}`}`;
  return from ? `since ${dateWords(from)}` : to ? `before ${dateWords(to)}` : '';
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

/** A text in quotation marks; one that has such marks of its own is written as in JSON. */
export const quotedSaid = (text: string): string => (/[“”\n]/.test(text) ? JSON.stringify(text) : `“${text}”`);

/** Words of the sentences themselves: where one is a value it stands in quotation marks. */
const SENTENCE_WORDS = new Set(
  `a an and are before contains does either empty ends except filled for had has have includes is known lost not of one or since starts tag that the then they
   until what who whose with without`.split(/\s+/),
);
/** Whether a text is one word that could not be taken for one of the sentence. */
export const isPlain = (text: string): boolean => quoted(text) === text && !SENTENCE_WORDS.has(text.toLowerCase());
export const plainSaid = (text: string): string => (isPlain(text) ? text : quotedSaid(text));

/** The words of a test around its value, as a sentence has them: `is more than` … `ago` */
export function testForm(storage: Storage, op: string): { readonly before: string; readonly after: string } {
  if (op === 'is empty') return { before: 'is not known', after: '' };
  if (op === 'is filled') return { before: 'is known', after: '' };
  if (storage === 'number' && (op === '=' || op === '!=')) return { before: op === '=' ? 'is' : 'is not', after: '' };
  const words = operatorWords(storage, op);
  const isBare = /^(is|has|contains|does|starts|ends|includes)\b/.test(words.before);
  const before = isBare
    ? words.before
        .replace(/ one of$/, '')
        .replace(/^includes (any|all) of$/, 'includes')
        .replace(/^includes none of$/, 'does not include')
        .replace(/ any of$/, '')
        .replace(/ any word of$/, ' the word')
    : `is ${words.before}`;
  return { before: before.replace('within the', 'in the'), after: words.after ?? '' };
}
/** By what several values of a test are joined. */
export const jointOf = (op: string): 'and' | 'or' => (op === 'includes all of' ? 'and' : 'or');

/** A test in words, such as `is glaze` or `is at least 3`. */
export function testSaid(
  leaf: { readonly op: string; readonly value?: Value | undefined },
  storage: Storage,
  shown: (value: unknown) => string,
): string {
  const { op, value } = leaf;
  const { before, after } = testForm(storage, op);
  const said = (words: string): string => [before, words, after].filter(Boolean).join(' ');
  if (value === undefined) return before;
  switch (takes(storage, op)) {
    case 'nothing':
      return before;
    case 'range':
      return said((value as unknown[]).map(shown).join(' and '));
    case 'duration': {
      const { n, unit } = value as { n: number; unit: string };
      return said(after ? durationWords({ n, unit }) : spanSaid(n, unit));
    }
    case 'days': {
      const { n } = value as { n: number };
      if (op === 'anniversary in' && n < 2) return `has its anniversary ${n === 0 ? 'today' : 'tomorrow'}`;
      return said(op === 'anniversary in' ? durationWords({ n, unit: 'days' }) : spanSaid(n, 'days'));
    }
    case 'value':
    case 'values':
      return said(listed([value].flat().map(shown), jointOf(op)));
  }
}
