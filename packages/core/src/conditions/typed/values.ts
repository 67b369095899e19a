import { type FieldBody, type Storage } from '../../contacts/fields.ts';
import { type Option } from '../../settings/option.ts';
import { type Unit } from '../../time/zone.ts';
import { takes } from '../operators/index.ts';
import { type Value } from '../schema.ts';
import { operatorsByWords, quoted } from '../words.ts';
import { type Cursor } from './cursor.ts';

const QUOTED = /"(?:[^"\\]|\\.)*"/u;
const BARE = /[\p{L}\p{M}\p{N}_@.-]+/u;
const NUMBER = /-?\d+(?:\.\d+)?/;
const DATE = /\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:?\d{2})?)?/;
export const UNITS: readonly Unit[] = ['minutes', 'hours', 'days', 'weeks', 'months', 'years'];

export function readQuoted(cursor: Cursor): string | undefined {
  cursor.skipSpace();
  const text = cursor.pattern(QUOTED, 'text', '"text"');
  if (text === undefined) return undefined;
  try {
    return JSON.parse(text) as string;
  } catch {
    return undefined;
  }
}

export const readNumber = (cursor: Cursor): number | undefined => {
  cursor.skipSpace();
  const text = cursor.pattern(NUMBER, 'number', '3');
  return text === undefined ? undefined : Number(text);
};

const readDate = (cursor: Cursor): string | undefined => {
  cursor.skipSpace();
  return readQuoted(cursor) ?? cursor.pattern(DATE, 'day', '2026-11-25')?.trim();
};

export function readDuration(cursor: Cursor, units: readonly Unit[] = UNITS): { n: number; unit: Unit } | undefined {
  const n = readNumber(cursor);
  if (n === undefined) return undefined;
  const unit = cursor.longest(
    units.flatMap((each) => [each, each.slice(0, -1)].map((word) => () => (cursor.take(word, 'unit') ? each : undefined))),
  );
  return unit && { n, unit };
}

/** How one value of a kind is read. `loose` text may run on to the end of the line. */
export function valueReader(
  cursor: Cursor,
  storage: Storage,
  options: readonly Option[] = [],
  loose = false,
): () => string | number | undefined {
  switch (storage) {
    case 'number':
      return () => readNumber(cursor);
    case 'day':
    case 'instant':
      return () => readDate(cursor);
    case 'choice':
    case 'choices':
      return () => readOption(cursor, options);
    case 'text':
    case 'yesNo':
    case 'active':
      return () => readQuoted(cursor) ?? (cursor.skipSpace(), cursor.pattern(loose ? /[^,"]+/u : BARE, 'text', 'text')?.trim());
  }
}

function readOption(cursor: Cursor, options: readonly Option[]): string | undefined {
  return cursor.longest(
    options.flatMap((option) =>
      [...new Set([quoted(option.name), option.name, option.key])].map(
        (word) => () => (cursor.take(word, 'choice') ? option.key : undefined),
      ),
    ),
  );
}

export function readList<T>(cursor: Cursor, one: () => T | undefined, separators: readonly string[] = [',']): T[] | undefined {
  const values: T[] = [];
  for (;;) {
    const value = one();
    if (value === undefined) return values.length > 0 ? values : undefined;
    values.push(value);
    const before = cursor.at;
    if (!separators.some((separator) => cursor.take(separator, 'and another'))) return values;
    if (cursor.done) {
      cursor.at = before;
      one();
      return values;
    }
  }
}

/** An operator with its value, such as `more than 3` or `is one of a, b`. */
export function readTest(cursor: Cursor, storage: Storage, field?: FieldBody, loose = false): { op: string; value?: Value } | undefined {
  const one = valueReader(cursor, storage, field?.options, loose);
  return cursor.longest(
    operatorsByWords(storage).map(({ op, words }) => () => {
      if (!cursor.take(words.before, 'how')) return undefined;
      const value = operand(cursor, storage, op, one);
      if (value === undefined) return undefined;
      if (words.after && !cursor.take(words.after, 'how')) return undefined;
      return value === null ? { op } : { op, value };
    }),
  );
}

/** The value that an operator takes; null where it takes none, undefined where none can be read. */
function operand(cursor: Cursor, storage: Storage, op: string, one: () => string | number | undefined): Value | null | undefined {
  switch (takes(storage, op)) {
    case 'nothing':
      return null;
    case 'value':
      return one();
    case 'values':
      return readList(cursor, one);
    case 'days': {
      const duration = readDuration(cursor, ['days']);
      return duration && { n: duration.n };
    }
    case 'duration':
      return readDuration(cursor, storage === 'day' ? ['days', 'weeks', 'months', 'years'] : UNITS);
    case 'range': {
      const low = one();
      if (low === undefined || !cursor.take('and', 'to')) return undefined;
      const high = one();
      return high === undefined ? undefined : [low, high];
    }
  }
}
