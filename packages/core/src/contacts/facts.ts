import { bad, good, type Checked } from '../faults.ts';
import { millionths, unscaled } from '../numbers/decimal.ts';
import { groupedMoney, minorUnits, moneyText, type MoneyRules } from '../numbers/money.ts';
import { fold, storable } from '../text/fold.ts';
import { readDay, readInstant, writeDay } from '../time/zone.ts';
import { choicesOf, storageOf, type FieldBody, type FieldOption } from './fields.ts';
import { type Option } from '../settings/option.ts';

/**
 * The value of a field as the evaluators compare it: folded text or a choice's key, a number (millionths, day, instant, or 0/1 for no/yes),
 * or the sorted keys of several choices. Empty values are not kept at all.
 */
export type Fact = string | number | readonly string[];

/** A fact and, for text, how it was written. */
export interface WrittenFact {
  readonly fact: Fact;
  readonly shown?: string;
}

/** What reading a value needs to know of the workspace. */
export interface FactRules extends MoneyRules {
  readonly timeZone: string;
}

const MAX_TEXT: Record<string, number> = { text: 500, 'long text': 10_000, link: 2_000, phone: 60 };
const YES = new Set(['yes', 'true', '1', 'y']);
const NO = new Set(['no', 'false', '0', 'n']);

/**
 * Reads a value from outside into a field. `null`, `''` and text that folds to nothing are the empty value (`undefined`).
 *
 * @param value a JSON value, or the text of a CSV cell; several choices as a list, or as text parted by `;` or `|`
 * @param workspace the zone in which a date-time without an offset is meant, and the currency in which money is kept
 */
export function readFact(
  field: FieldBody,
  value: unknown,
  workspace: FactRules,
  path: readonly (string | number)[] = [],
): Checked<WrittenFact | undefined> {
  if (value === null || value === undefined || value === '') return good(undefined);
  const wrong = (expected: string, code = 'value.type'): Checked<never> => bad({ path, code, expected });
  switch (storageOf[field.type]) {
    case 'text': {
      if (typeof value !== 'string' && typeof value !== 'number') return wrong('text');
      const shown = storable(String(value)).trim();
      const most = MAX_TEXT[field.type] ?? 500;
      if (shown.length > most) return wrong(`text of at most ${most} characters`, 'value.length');
      const folded = fold(shown);
      return good(folded === '' ? undefined : { fact: folded, shown });
    }
    case 'number': {
      if (field.type === 'money') return readMoney(value, workspace, path);
      const number = millionths(value, path);
      return number.ok ? good({ fact: number.value }) : number;
    }
    case 'day': {
      const day = typeof value === 'string' ? readDay(value) : undefined;
      return day === undefined ? wrong('a day like 2026-11-25', 'value.date') : good({ fact: day });
    }
    case 'instant': {
      const instant = typeof value === 'string' ? readInstant(value, workspace.timeZone) : undefined;
      return instant === undefined ? wrong('a date-time like 2026-11-25T14:00', 'value.date') : good({ fact: instant });
    }
    case 'yesNo': {
      const word = fold(String(value));
      return YES.has(word) ? good({ fact: 1 }) : NO.has(word) ? good({ fact: 0 }) : wrong('yes or no');
    }
    case 'choice': {
      const option = optionOf(field, value);
      return option === undefined ? wrong(`one of ${optionKeys(field)}`, 'value.choice') : good({ fact: option });
    }
    case 'choices': {
      const given = Array.isArray(value)
        ? value
        : String(value)
            .split(/[;|]/)
            .filter((part) => part.trim() !== '');
      const keys = given.map((one) => optionOf(field, one));
      if (keys.some((key) => key === undefined)) return wrong(`any of ${optionKeys(field)}`, 'value.choice');
      const distinct = [...new Set(keys as string[])].sort();
      return good(distinct.length === 0 ? undefined : { fact: distinct });
    }
  }
}

/** Money in minor units of the workspace's currency: a bare number is in that currency, `{ amount, currency }` in another one with a rate. */
function readMoney(value: unknown, rules: MoneyRules, path: readonly (string | number)[]): Checked<WrittenFact> {
  const given = typeof value === 'object' && value !== null ? (value as { amount?: unknown; currency?: unknown }) : { amount: value };
  const minor = minorUnits(given.amount, typeof given.currency === 'string' ? given.currency : undefined, rules, path);
  return minor.ok ? good(writtenMoney(minor.value, rules.currency)) : minor;
}

/** A sum of money as a fact, written as a decimal. */
export const writtenMoney = (minor: number, currency: string): WrittenFact => ({
  fact: minor,
  shown: moneyText(minor, currency),
});

/** An option by its key or by its name, however capitalised. One that was merged into another is that other one. */
export function optionOf(
  field: { readonly options?: readonly (Option & Pick<FieldOption, 'replacedBy'>)[] | undefined },
  value: unknown,
): string | undefined {
  if (typeof value !== 'string' && typeof value !== 'number') return undefined;
  const wanted = fold(String(value));
  const found = field.options?.find((option) => option.key === wanted || fold(option.name) === wanted);
  return found?.replacedBy ?? found?.key;
}

const optionKeys = (field: FieldBody): string =>
  choicesOf(field)
    .slice(0, 12)
    .map((option) => option.key)
    .join(', ');

/** The value as the API gives it: what `readFact` takes. */
export function writeFact(field: FieldBody, fact: Fact, shown?: string): unknown {
  switch (storageOf[field.type]) {
    case 'number':
      return Number(field.type === 'money' ? shown : unscaled(fact as number, 6));
    case 'day':
      return writeDay(fact as number);
    case 'instant':
      return new Date(fact as number).toISOString();
    case 'yesNo':
      return fact === 1;
    case 'text':
    case 'choice':
    case 'choices':
      return shown ?? fact;
  }
}

/** The value in words. */
export function showFact(field: FieldBody, fact: Fact, shown?: string): string {
  const name = (key: string): string => field.options?.find((option) => option.key === key)?.name ?? key;
  switch (storageOf[field.type]) {
    case 'choice':
      return name(fact as string);
    case 'choices':
      return (fact as readonly string[]).map(name).join(', ');
    case 'yesNo':
      return fact === 1 ? 'yes' : 'no';
    case 'text':
    case 'number':
    case 'day':
    case 'instant':
      if (field.type === 'money' && shown !== undefined) return groupedMoney(shown);
      return String(writeFact(field, fact, shown));
  }
}

export const sameFact = (a: Fact | undefined, b: Fact | undefined): boolean =>
  a === b || (Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((key, index) => key === b[index]));
