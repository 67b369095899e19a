import { type Window } from '../../time/window.ts';
import { type Count } from '../schema.ts';
import { durationWords, operatorWords, quoted } from '../words.ts';

/** `at least once`, `never`, `between 2 and 3 times` */
export function countWords(count: Count | undefined): string {
  if (!count) return 'at least once';
  if (count.op === '=' && count.value === 0) return 'never';
  const words = operatorWords('number', count.op).before;
  if (Array.isArray(count.value)) return `${words} ${count.value.join(' and ')} times`;
  return `${words} ${count.value === 1 ? 'once' : `${count.value} times`}`;
}

/** `at least 1 deal`, `no contacts`: how many of something there are */
export function numberWords(count: Count | undefined, one: string, many: string): string {
  const { op, value } = count ?? { op: '>=', value: 1 };
  if (op === '=' && value === 0) return `no ${many}`;
  return `${limitWords({ op, value })} ${value === 1 ? one : many}`;
}

/** `at least 3`, `between 2 and 3` */
export const limitWords = ({ op, value }: { readonly op: string; readonly value: unknown }): string =>
  `${operatorWords('number', op).before} ${[value].flat().join(' and ')}`;

export function windowWords(window: Window | undefined): string {
  if (window === undefined || window === 'ever') return 'ever';
  if ('last' in window)
    return window.last === 0 && window.unit === 'days' ? 'today' : `in the last ${durationWords({ n: window.last, unit: window.unit })}`;
  if ('olderThan' in window) return `more than ${durationWords({ n: window.olderThan, unit: window.unit })} ago`;
  return [window.from && `from ${quoted(window.from)}`, window.to && `until ${quoted(window.to)}`].filter(Boolean).join(' ') || 'ever';
}

/** How the beginning or the end of each thing is called where a line asks when it was. */
export const SINCE_WORDS = {
  tag: { has: 'came', lost: 'went' },
  audience: { in: 'came', left: 'went' },
  band: 'crossed',
  stage: 'began',
} as const;

export const sinceWords = (verb: string, since: Window | undefined): string | undefined =>
  since === undefined || since === 'ever' ? undefined : `, ${verb} ${windowWords(since)}`;
