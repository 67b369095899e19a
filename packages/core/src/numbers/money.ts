import { bad, good, type Checked } from '../faults.ts';
import { converted, minorPlaces, scaled } from './decimal.ts';

/** Minor units as they are written: `12050` of SEK is `120.50`. */
export function moneyText(minor: number, currency: string): string {
  const places = minorPlaces(currency);
  const digits = String(Math.abs(minor)).padStart(places + 1, '0');
  const whole = digits.slice(0, digits.length - places);
  return `${minor < 0 ? '-' : ''}${whole}${places > 0 ? `.${digits.slice(-places)}` : ''}`;
}

/** Money as people read it, its thousands apart: `2000000.00` is `2,000,000.00`. */
export const groupedMoney = (text: string): string =>
  text.replace(/^(-?)(\d+)/, (_all, sign: string, whole: string) => `${sign}${whole.replace(/\B(?=(\d{3})+$)/g, ',')}`);

/** What money is turned into, and at which rates (workspace currency per unit, in millionths). */
export interface MoneyRules {
  readonly currency: string;
  readonly ratesMillionths: ReadonlyMap<string, number>;
}

/**
 * A sum of money in minor units of the workspace's currency.
 *
 * @param value major units, a number or a decimal string; no more places than the currency has
 * @param currency ISO 4217; left out, the workspace's own
 */
export function minorUnits(
  value: unknown,
  currency: string | undefined,
  rules: MoneyRules,
  path: readonly (string | number)[],
): Checked<number> {
  const from = currency?.trim().toUpperCase() || rules.currency;
  const rate = from === rules.currency ? 1_000_000 : rules.ratesMillionths.get(from);
  if (rate === undefined) {
    const known = [rules.currency, ...rules.ratesMillionths.keys()].join(', ');
    return bad({ path, code: 'money.rate', expected: `a currency with a rate: ${known}` });
  }
  const minor = scaled(value, minorPlaces(from), path);
  if (!minor.ok || from === rules.currency) return minor;
  return good(converted(minor.value, minorPlaces(from), rate, minorPlaces(rules.currency)));
}
