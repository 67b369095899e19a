import { type Window } from '../../time/window.ts';
import { type Count, type NumberOp } from '../schema.ts';
import { COMPARISONS } from '../words.ts';
import { type Cursor } from './cursor.ts';
import { readDuration, readNumber, readQuoted } from './values.ts';

export interface ReadLimit {
  readonly op: NumberOp;
  readonly value: number | [number, number];
}

/** `at least 3`, `between 2 and 3`, and whatever has to stand after the number. */
export function readLimit(
  cursor: Cursor,
  hint: string,
  after: (value: number | undefined) => boolean = () => true,
  readOne: (cursor: Cursor) => number | undefined = readNumber,
): ReadLimit | undefined {
  return cursor.longest<ReadLimit>([
    ...COMPARISONS.map(([op, words]) => () => {
      const value = cursor.take(words, hint) ? readOne(cursor) : undefined;
      return value !== undefined && after(value) ? { op, value } : undefined;
    }),
    () => {
      const low = cursor.take('between', hint) ? readOne(cursor) : undefined;
      const high = low !== undefined && cursor.take('and', 'to') ? readOne(cursor) : undefined;
      return low !== undefined && high !== undefined && after(undefined) ? { op: 'between', value: [low, high] } : undefined;
    },
  ]);
}

/** `never`, `at least twice`, `exactly 3 times` */
export function readCount(cursor: Cursor): Count | undefined {
  if (cursor.take('never', 'how often')) return { op: '=', value: 0 };
  return cursor.longest<Count>([
    ...COMPARISONS.map(([op, words]) => () => {
      if (!cursor.take(words, 'how often')) return undefined;
      if (cursor.take('once', 'how often')) return { op, value: 1 };
      return cursor.take('twice', 'how often') ? { op, value: 2 } : undefined;
    }),
    () => readLimit(cursor, 'how often', () => cursor.take('times', 'times') || cursor.take('time', 'time')),
  ]);
}

/** `on at least 3 days` */
export const readDays = (cursor: Cursor): Count | undefined =>
  cursor.take('on', 'how many days')
    ? readLimit(cursor, 'how many days', () => cursor.take('days', 'days') || cursor.take('day', 'days'))
    : undefined;

/** `no deals`, `at least 1 deal`: null where there is no such number, since left out it means at least one. */
export function readNumberOf(cursor: Cursor, one: string, many: string): Count | undefined {
  if (cursor.take(`no ${many}`, 'how many')) return { op: '=', value: 0 };
  return readLimit(cursor, 'how many', () => cursor.take(many, many) || cursor.take(one, one));
}

export function readWindow(cursor: Cursor): Window | undefined {
  return cursor.longest<Window>([
    () => (cursor.take('ever', 'when') ? 'ever' : undefined),
    () => (cursor.take('today', 'when') ? { last: 0, unit: 'days' } : undefined),
    () => {
      const duration = cursor.take('in the last', 'when') ? readDuration(cursor) : undefined;
      return duration && { last: duration.n, unit: duration.unit };
    },
    () => {
      const duration = cursor.take('more than', 'when') ? readDuration(cursor) : undefined;
      return duration && cursor.take('ago', 'when') ? { olderThan: duration.n, unit: duration.unit } : undefined;
    },
    () => {
      const day = (): string | undefined => readQuoted(cursor) ?? cursor.pattern(/\d{4}-\d{2}-\d{2}[\dT:.Z+-]*/, 'day', '2026-11-25');
      const from = cursor.take('from', 'when') ? (cursor.skipSpace(), day()) : undefined;
      const to = cursor.take('until', 'when') ? (cursor.skipSpace(), day()) : undefined;
      return from || to ? { ...(from ? { from } : {}), ...(to ? { to } : {}) } : undefined;
    },
  ]);
}

/** `, came in the last 7 days`; nothing read is no fault. */
export function readSince(cursor: Cursor, verb: string): { since?: Window } {
  const start = cursor.at;
  const since = cursor.take(',', 'since when') && cursor.take(verb, 'since when') ? readWindow(cursor) : undefined;
  if (since !== undefined) return { since };
  cursor.at = start;
  return {};
}
