import { type ImportOptions } from '@eager-sieve/contracts';

const PARTS = /^(\d{1,4})[./\s-](\d{1,2})[./\s-](\d{1,4})(.*)$/s;
/** Of two digits, these and higher ones are of the last century. */
const LAST_CENTURY = 50;

const yearOf = (text: string): number => {
  const year = Number(text);
  return text.length > 2 ? year : year + (year >= LAST_CENTURY ? 1900 : 2000);
};

/**
 * A cell with its day in the order in which fields take it, and the time behind it as it stands.
 *
 * @example dayIn('24.12.1990', 'day first') // '1990-12-24'
 * @returns the cell itself where days are written year first; undefined where it is no day in this order
 */
export function dayIn(cell: string, order: ImportOptions['dates']): string | undefined {
  if (order === 'year first') return cell;
  // Written out with the year in front it can be meant in one way only.
  if (/^\d{4}-\d\d-\d\d/.test(cell)) return cell;
  const [, first = '', second = '', year = '', time = ''] = PARTS.exec(cell) ?? [];
  const [day, month] = order === 'day first' ? [Number(first), Number(second)] : [Number(second), Number(first)];
  if (first.length > 2 || year === '' || year.length === 3 || month < 1 || month > 12 || day < 1 || day > 31) return undefined;
  const pad = (part: number, length = 2): string => String(part).padStart(length, '0');
  return `${pad(yearOf(year), 4)}-${pad(month)}-${pad(day)}${time.trim() === '' ? '' : `T${time.trim()}`}`;
}
