const whole = new Intl.NumberFormat('en-GB');

export const count = (n: number): string => whole.format(n);
export const people = (n: number): string => `${whole.format(n)} ${n === 1 ? 'person' : 'people'}`;
export const companies = (n: number): string => `${whole.format(n)} ${n === 1 ? 'company' : 'companies'}`;
export const times = (n: number, one: string, many = `${one}s`): string => `${whole.format(n)} ${n === 1 ? one : many}`;
/** A change with its sign: a true minus, and nothing where nothing moved. */
export const signed = (n: number): string => (n > 0 ? `+${whole.format(n)}` : n < 0 ? `−${whole.format(-n)}` : '0');
