import { bad, good, type Checked } from '../faults.ts';

/** Numbers are exact decimals, kept as integer millionths: no floating point takes part in any meaning. */
export const MILLIONTHS = 1_000_000;
const LARGEST = 1_000_000_000;
const DECIMAL = /^([+-]?)(\d{1,10})(?:\.(\d+))?$/;

/**
 * An exact decimal of at most `places` places, as an integer count of its smallest unit.
 *
 * @param value a JSON number or a decimal string, at most 10⁹ in size
 * @example scaled('99.9', 2) // { ok: true, value: 9990 }
 */
export function scaled(value: unknown, places: number, path: readonly (string | number)[] = []): Checked<number> {
  const written = typeof value === 'number' ? String(value) : typeof value === 'string' ? value.trim() : '';
  const match = DECIMAL.exec(written);
  if (!match) return bad({ path, code: 'number.malformed', expected: `a number like 12 or "12.5" of at most ${LARGEST}` });
  const fraction = (match[3] ?? '').replace(/0+$/, '');
  if (fraction.length > places) return bad({ path, code: 'number.places', expected: `at most ${places} places after the point` });
  const size = Number(match[2]) * 10 ** places + Number(fraction.padEnd(places, '0') || 0);
  if (size > LARGEST * 10 ** places) return bad({ path, code: 'number.range', expected: `a number of at most ${LARGEST}` });
  return good(match[1] === '-' && size !== 0 ? -size : size);
}

export const millionths = (value: unknown, path: readonly (string | number)[] = []): Checked<number> => scaled(value, 6, path);

/**
 * The decimal behind a scaled integer, written without needless zeros.
 *
 * @example unscaled(2500000, 6) // '2.5'
 */
export function unscaled(value: number, places: number): string {
  const digits = String(Math.abs(value)).padStart(places + 1, '0');
  const whole = digits.slice(0, digits.length - places);
  const fraction = digits.slice(digits.length - places).replace(/0+$/, '');
  return `${value < 0 ? '-' : ''}${whole}${places > 0 && fraction ? `.${fraction}` : ''}`;
}

const NO_MINOR_UNIT = new Set('BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF'.split(' '));
const THREE_PLACES = new Set('BHD IQD JOD KWD LYD OMR TND'.split(' '));

/** Places after the point of a currency's minor unit (ISO 4217). A table of our own, since meaning must not change with a runtime's locale data. */
export const minorPlaces = (currency: string): number => (NO_MINOR_UNIT.has(currency) ? 0 : THREE_PLACES.has(currency) ? 3 : 2);

/** `amount` minor units at `rateMillionths`, rounded half away from zero to the target's minor unit. */
export function converted(amount: number, fromPlaces: number, rateMillionths: number, toPlaces: number): number {
  const product = BigInt(amount) * BigInt(rateMillionths) * 10n ** BigInt(toPlaces);
  const divisor = 1_000_000n * 10n ** BigInt(fromPlaces);
  const half = product < 0n ? -divisor / 2n : divisor / 2n;
  return Number((product + half) / divisor);
}
