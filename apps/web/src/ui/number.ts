const whole = new Intl.NumberFormat('en-GB');

export const count = (n: number): string => whole.format(n);
export const people = (n: number): string => `${whole.format(n)} ${n === 1 ? 'person' : 'people'}`;
export const companies = (n: number): string => `${whole.format(n)} ${n === 1 ? 'company' : 'companies'}`;
/** So many of whomever an audience is of. */
export const subjects = (of: 'contact' | 'company', n: number): string => (of === 'company' ? companies(n) : people(n));
export const times = (n: number, one: string, many = `${one}s`): string => `${whole.format(n)} ${n === 1 ? one : many}`;
/** A change with its sign: a true minus, and nothing where nothing moved. */
export const signed = (n: number): string => (n > 0 ? `+${whole.format(n)}` : n < 0 ? `−${whole.format(-n)}` : '0');

const WIDE = 10_000;
const compact = new Intl.NumberFormat('en-GB', { notation: 'compact', maximumFractionDigits: 1 });
/** A number where there is little room: exact up to 9,999, then by its thousands or millions. */
export const short = (n: number): string => (Math.abs(n) < WIDE ? whole : compact).format(n);
