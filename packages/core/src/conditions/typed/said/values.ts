import { type Storage } from '../../../contacts/fields.ts';
import { readDay, writeDay, type Unit } from '../../../time/zone.ts';
import { type Window } from '../../../time/window.ts';
import { isPlain, jointOf, MONTHS, testForm } from '../../describe/said/values.ts';
import { operatorNames, takes } from '../../operators/index.ts';
import { type Value } from '../../schema.ts';
import { type Cursor } from '../cursor.ts';
import { readQuoted, UNITS } from '../values.ts';

const NUMBER = /-?\d{1,3}(?:,\d{3})+(?:\.\d+)?|-?\d+(?:\.\d+)?/;
const DATE = new RegExp(
  `(\\d{1,2}) (${MONTHS.join('|')}) (\\d{4})(?:, (\\d{2}:\\d{2}(?::\\d{2}(?:\\.\\d+)?)?)(?: UTC([+-]\\d{2}:?\\d{2})?)?)?`,
  'i',
);
const BARE = /[\p{L}\p{M}\p{N}_@.-]+/u;

/** `a`, `a or b`, `a, b or c` */
export function readListed<T>(cursor: Cursor, one: () => T | undefined, joint: 'and' | 'or'): T[] | undefined {
  const first = one();
  if (first === undefined) return undefined;
  const values = [first];
  for (;;) {
    const before = cursor.at;
    const isLast = !cursor.take(',', 'and another');
    const next = isLast && !cursor.take(joint, 'and another') ? undefined : one();
    if (next === undefined) {
      cursor.at = before;
      return values;
    }
    values.push(next);
    if (isLast) return values;
  }
}

export function readSaidNumber(cursor: Cursor): number | undefined {
  cursor.skipSpace();
  const text = cursor.pattern(NUMBER, 'number', '3');
  return text === undefined ? undefined : Number(text.replaceAll(',', ''));
}

/** `2,000 SEK`; the currency may be left out, and stands behind money alone */
export function readSaidAmount(cursor: Cursor, currency: string | undefined): number | undefined {
  const amount = readSaidNumber(cursor);
  if (amount !== undefined && currency !== undefined) cursor.take(currency, 'currency');
  return amount;
}

/** `28 Nov 2026`, with its time of day where one is said */
export function readSaidDate(cursor: Cursor): string | undefined {
  cursor.skipSpace();
  const text = cursor.pattern(DATE, 'day', '28 Nov 2026');
  const [, day = '', month = '', year = '', clock, offset] = (text && DATE.exec(text)) || [];
  if (text === undefined) return undefined;
  const at = MONTHS.findIndex((each) => each.toLowerCase() === month.toLowerCase()) + 1;
  const date = `${year}-${String(at).padStart(2, '0')}-${day.padStart(2, '0')}`;
  if (clock === undefined) return date;
  return `${date}T${clock}${offset ?? (/UTC/i.test(text) ? 'Z' : '')}`;
}

/** A text in quotation marks. */
export function readSaidQuoted(cursor: Cursor): string | undefined {
  cursor.skipSpace();
  const marked = cursor.pattern(/“[^”]*”/u, 'text', '“text”');
  return marked === undefined ? readQuoted(cursor) : marked.slice(1, -1);
}

/** A text in quotation marks, or one plain word. */
export function readSaidText(cursor: Cursor): string | undefined {
  const inQuotes = readSaidQuoted(cursor);
  if (inQuotes !== undefined) return inQuotes;
  const start = cursor.at;
  const bare = cursor.pattern(BARE, 'text', 'text');
  if (bare === undefined || isPlain(bare)) return bare;
  cursor.at = start;
  return undefined;
}

/** One of some things by their names; several may go by one. */
export const readKnown = <T>(cursor: Cursor, hint: string, known: readonly (readonly [name: string, value: T])[]): T | undefined =>
  cursor.longest(
    known.map(
      ([name, value]) =>
        () =>
          name !== '' && cursor.take(name, hint) ? value : undefined,
    ),
  );

/** `30 days`, or `month` for one of them where it follows "the last" */
function readSpan(cursor: Cursor, isOneLeftOut: boolean): { n: number; unit: Unit } | undefined {
  const n = readSaidNumber(cursor);
  if (n === undefined && !isOneLeftOut) return undefined;
  const unit = readKnown<Unit>(
    cursor,
    'unit',
    UNITS.flatMap((each) =>
      n === undefined ? [[each.slice(0, -1), each] as const] : [[each, each] as const, [each.slice(0, -1), each] as const],
    ),
  );
  return unit && { n: n ?? 1, unit };
}
export const readSaidDuration = (cursor: Cursor): { n: number; unit: Unit } | undefined => readSpan(cursor, false);

/**
 * A test as a sentence has it, such as `is more than 3` or `does not include a, b or c`.
 *
 * @param one reads a value
 */
export function readSaidTest(
  cursor: Cursor,
  storage: Storage,
  one: () => string | number | undefined,
): { op: string; value?: Value } | undefined {
  const several = new Set(operatorNames(storage).filter((op) => takes(storage, op) === 'values'));
  return cursor.longest<{ op: string; value?: Value }>([
    ...(storage === 'day' || storage === 'instant'
      ? [() => (cursor.take('has its anniversary tomorrow', 'how') ? { op: 'anniversary in', value: { n: 1 } } : undefined)]
      : []),
    ...operatorNames(storage).map((op) => () => {
      const { before, after } = testForm(storage, op);
      if (!cursor.take(before, 'how')) return undefined;
      const value = operand(cursor, storage, op, one, after !== '');
      if (value === undefined || (after !== '' && !cursor.take(after, 'how'))) return undefined;
      // One value is asked for by the operator for one, where there is one.
      if (Array.isArray(value) && value.length === 1 && several.has(op) && hasOperatorForOne(storage, op)) return undefined;
      return value === null ? { op } : { op, value };
    }),
  ]);
}

const hasOperatorForOne = (storage: Storage, op: string): boolean =>
  operatorNames(storage).some(
    (other) => takes(storage, other) === 'value' && testForm(storage, other).before === testForm(storage, op).before,
  );

/** The value that an operator takes; null where it takes none, undefined where none can be read. */
function operand(
  cursor: Cursor,
  storage: Storage,
  op: string,
  one: () => string | number | undefined,
  isFollowed: boolean,
): Value | null | undefined {
  switch (takes(storage, op)) {
    case 'nothing':
      return null;
    case 'value':
      return one();
    case 'values':
      return readListed(cursor, one, jointOf(op));
    case 'days': {
      const span = readSpan(cursor, op !== 'anniversary in');
      return span?.unit === 'days' ? { n: span.n } : undefined;
    }
    case 'duration':
      return readSpan(cursor, !isFollowed);
    case 'range': {
      const low = one();
      const high = low !== undefined && cursor.take('and', 'to') ? one() : undefined;
      return low === undefined || high === undefined ? undefined : [low, high];
    }
  }
}

/** When something happened, or since when something stands; undefined where nothing is said of it. */
export function readSaidWindow(cursor: Cursor): Window | undefined {
  return cursor.longest<Window>([
    () => (cursor.take('today', 'when') ? { last: 0, unit: 'days' } : undefined),
    () => {
      const span = cursor.take('in the last', 'when') ? readSpan(cursor, true) : undefined;
      return span && { last: span.n, unit: span.unit };
    },
    () => {
      const span = cursor.take('more than', 'when') ? readSpan(cursor, false) : undefined;
      return span && cursor.take('ago', 'when') ? { olderThan: span.n, unit: span.unit } : undefined;
    },
    () => {
      const from = cursor.take('since', 'when') ? readSaidDate(cursor) : undefined;
      return from === undefined ? undefined : { from };
    },
    () => {
      const to = cursor.take('before', 'when') ? readSaidDate(cursor) : undefined;
      return to === undefined ? undefined : { to };
    },
    () => {
      const from = cursor.take('from', 'when') ? readSaidDate(cursor) : undefined;
      if (from === undefined) return undefined;
      const to = cursor.take('until', 'when') ? readSaidDate(cursor) : undefined;
      if (to !== undefined) return { from, to };
      const last = cursor.take('up to and including', 'when') ? readSaidDate(cursor) : undefined;
      const day = last === undefined ? undefined : readDay(last);
      return day === undefined ? undefined : { from, to: writeDay(day + 1) };
    },
  ]);
}
