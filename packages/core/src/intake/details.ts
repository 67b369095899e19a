import { type Fault } from '../faults.ts';
import { scaled } from '../numbers/decimal.ts';
import { minorUnits, type MoneyRules } from '../numbers/money.ts';
import { fold, storable, paddedWords } from '../text/fold.ts';
import { readDay, readInstant } from '../time/zone.ts';
import { type DetailField } from './signal-types.ts';

/**
 * A signal's details as the evaluators compare them: text folded, numbers in millionths, money in minor units of the workspace's currency,
 * date-times as instants, yes/no as 1/0, lists as arrays of such objects. Empty details are left out. Where the words of a text differ from
 * the text itself, they stand beside it under `key + WORDS`.
 */
export interface Details {
  readonly [key: string]: DetailValue;
}
export type DetailValue = string | number | readonly Details[] | Details;

export const WORDS = '#words';
/** Under this key an element of a plain list (several choices of an answer) keeps its own value. */
export const ELEMENT = 'value';

const MAX_TEXT = 2_000;
const MAX_LIST = 500;

export interface ReadDetails {
  readonly details: Details;
  readonly faults: readonly Fault[];
}

/**
 * Reads the data of a signal against its type. Every fault is reported; `details` is only to be used when there is none.
 * What the type does not name is kept with the signal as it came, but takes no part in any condition.
 */
export function readDetails(fields: readonly DetailField[], data: unknown, zone: string, moneyRules: MoneyRules): ReadDetails {
  const faults: Fault[] = [];
  const details = new Reader(zone, moneyRules, faults).object(fields, data, ['data'], undefined);
  return { details, faults };
}

const isObject = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);

class Reader {
  readonly #zone: string;
  readonly #money: MoneyRules;
  readonly #faults: Fault[];

  constructor(zone: string, money: MoneyRules, faults: Fault[]) {
    this.#zone = zone;
    this.#money = money;
    this.#faults = faults;
  }

  /** @param outerCurrency the currency of the object around this one: money in a list has its parent's */
  object(fields: readonly DetailField[], data: unknown, path: readonly (string | number)[], outerCurrency: string | undefined): Details {
    const details: Record<string, DetailValue> = {};
    if (!isObject(data)) {
      if (data !== undefined && data !== null) this.#fault(path, 'data.object', 'an object');
      else if (fields.some((field) => field.required)) this.#fault(path, 'data.missing', 'an object with the details of the signal');
      return details;
    }
    const currency = typeof data['currency'] === 'string' ? data['currency'].trim().toUpperCase() : outerCurrency;
    for (const field of fields) {
      const value = data[field.key];
      const here = [...path, field.key];
      if (value === undefined || value === null || value === '') {
        if (field.required) this.#fault(here, 'data.missing', `${field.key}, which every such signal has`);
        continue;
      }
      const read = this.#value(field, value, here, currency);
      if (read === undefined) continue;
      details[field.key] = read;
      if (typeof read === 'string') keepWords(details, field.key, read);
    }
    return details;
  }

  #value(field: DetailField, value: unknown, path: readonly (string | number)[], currency: string | undefined): DetailValue | undefined {
    switch (field.type) {
      case 'text':
        return this.#text(value, path);
      case 'number':
        return this.#scaled(value, 6, path);
      case 'money':
        return this.#amount(value, currency, path);
      case 'date-time': {
        const instant = typeof value === 'string' ? readInstant(value, this.#zone) : undefined;
        if (instant === undefined) this.#fault(path, 'data.date', 'a date-time like 2026-11-25T14:00:00Z');
        return instant;
      }
      case 'date': {
        const day = typeof value === 'string' ? readDay(value) : undefined;
        if (day === undefined) this.#fault(path, 'data.date', 'a day like 2026-11-25');
        return day;
      }
      case 'yes/no':
        if (typeof value !== 'boolean') this.#fault(path, 'data.yes-no', 'true or false');
        return value === true ? 1 : 0;
      case 'list': {
        if (!Array.isArray(value) || value.length > MAX_LIST) {
          this.#fault(path, 'data.list', `a list of at most ${MAX_LIST}`);
          return undefined;
        }
        return value.map((element, index) => this.object(field.of ?? [], element, [...path, index], currency));
      }
      case 'answers':
        return this.#answers(value, path);
    }
  }

  #text(value: unknown, path: readonly (string | number)[]): string | undefined {
    if (typeof value !== 'string' && typeof value !== 'number') {
      this.#fault(path, 'data.text', 'text');
      return undefined;
    }
    const written = storable(String(value));
    if (written.length > MAX_TEXT) this.#fault(path, 'data.length', `text of at most ${MAX_TEXT} characters`);
    return fold(written) || undefined;
  }

  #scaled(value: unknown, places: number, path: readonly (string | number)[]): number | undefined {
    const number = scaled(value, places, path);
    if (number.ok) return number.value;
    this.#faults.push(...number.faults);
    return undefined;
  }

  #amount(value: unknown, currency: string | undefined, path: readonly (string | number)[]): number | undefined {
    const minor = minorUnits(value, currency, this.#money, path);
    if (minor.ok) return minor.value;
    this.#faults.push(...minor.faults);
    return undefined;
  }

  #answers(value: unknown, path: readonly (string | number)[]): Details | undefined {
    if (!isObject(value)) {
      this.#fault(path, 'data.answers', 'an object of question keys and answers');
      return undefined;
    }
    const answers: Record<string, DetailValue> = {};
    for (const [question, answer] of Object.entries(value).slice(0, 200)) {
      if (answer === null || answer === undefined) continue;
      if (Array.isArray(answer)) {
        answers[question] = answer.slice(0, MAX_LIST).flatMap((one, index) => {
          const read = this.#text(one, [...path, question, index]);
          return read === undefined ? [] : [keepWords({ [ELEMENT]: read }, ELEMENT, read)];
        });
      } else {
        const read = this.#text(typeof answer === 'boolean' ? (answer ? 'yes' : 'no') : answer, [...path, question]);
        if (read !== undefined) keepWords(Object.assign(answers, { [question]: read }), question, read);
      }
    }
    return answers;
  }

  #fault(path: readonly (string | number)[], code: string, expected: string): void {
    this.#faults.push({ path, code, expected });
  }
}

function keepWords(details: Record<string, DetailValue>, key: string, folded: string): Record<string, DetailValue> {
  const words = paddedWords(folded);
  if (words !== ` ${folded} `) details[key + WORDS] = words;
  return details;
}
