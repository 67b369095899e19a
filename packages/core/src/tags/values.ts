import { bad, good, type Checked } from '../faults.ts';
import { millionths, unscaled } from '../numbers/decimal.ts';
import { fold } from '../text/fold.ts';
import { readDay, writeDay } from '../time/zone.ts';

/** What a valued tag can carry. */
export const TAG_VALUES = ['number', 'date', 'active'] as const;
export type TagValueKind = (typeof TAG_VALUES)[number];

/** How conditions compare what a tag carries. */
export const tagStorage = { number: 'number', date: 'day', active: 'active' } as const satisfies Record<TagValueKind, string>;
/** What it is called to people. */
export const TAG_VALUE_WORDS: Readonly<Record<TagValueKind, string>> = { number: 'a number', date: 'a date', active: 'active or inactive' };

const ACTIVE: Readonly<Record<string, 0 | 1>> = { active: 1, inactive: 0, yes: 1, no: 0, true: 1, false: 0 };

/**
 * A value from outside as a tag keeps it: millionths of a number, a day counted from 1970, 1 for active and 0 for inactive.
 *
 * @param given a JSON value or the text of a CSV cell
 */
export function readTagValue(kind: TagValueKind, given: unknown, path: readonly (string | number)[] = []): Checked<number> {
  switch (kind) {
    case 'number':
      return millionths(given, path);
    case 'date': {
      const day = typeof given === 'string' ? readDay(given) : undefined;
      return day === undefined ? bad({ path, code: 'value.date', expected: 'a day like 2026-11-25' }) : good(day);
    }
    case 'active': {
      const word = fold(String(given));
      const value = Object.hasOwn(ACTIVE, word) ? ACTIVE[word] : undefined;
      return value === undefined ? bad({ path, code: 'value.type', expected: 'active or inactive' }) : good(value);
    }
  }
}

/** A kept value as the API gives it: what `readTagValue` takes. */
export function writeTagValue(kind: TagValueKind, value: number): number | string {
  switch (kind) {
    case 'number':
      return Number(unscaled(value, 6));
    case 'date':
      return writeDay(value);
    case 'active':
      return value === 1 ? 'active' : 'inactive';
  }
}
