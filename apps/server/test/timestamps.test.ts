import fc from 'fast-check';
import { types } from 'pg';
import { readTimestamp } from '../src/database/timestamps';

const byDefault = types.getTypeParser(types.builtins.TIMESTAMPTZ) as (text: string) => Date;
const two = (n: number): string => String(n).padStart(2, '0');

/** As PostgreSQL writes an instant in UTC: without zeros at the end of the fraction, and none where it is whole. */
const written = (instant: number): string => {
  const date = new Date(instant);
  const fraction = date.getUTCMilliseconds() === 0 ? '' : `.${String(date.getUTCMilliseconds()).padStart(3, '0')}`.replace(/0+$/, '');
  return (
    `${String(date.getUTCFullYear()).padStart(4, '0')}-${two(date.getUTCMonth() + 1)}-${two(date.getUTCDate())} ` +
    `${two(date.getUTCHours())}:${two(date.getUTCMinutes())}:${two(date.getUTCSeconds())}${fraction}+00`
  );
};

describe('timestamps', () => {
  it('are read exactly, to the millisecond', () => {
    fc.assert(
      fc.property(fc.integer({ min: Date.UTC(1, 0, 1), max: Date.UTC(9999, 11, 31) }), (instant) => {
        const early = new Date(instant).getUTCFullYear() < 100;
        fc.pre(!early);
        expect(readTimestamp(written(instant)).getTime()).toBe(instant);
      }),
      { numRuns: 3_000 },
    );
  });

  it('of the first century are those of the first century', () => {
    expect(readTimestamp('0001-01-01 00:00:00+00').toISOString()).toBe('0001-01-01T00:00:00.000Z');
  });

  it.each([
    'infinity',
    '-infinity',
    '0044-03-15 12:00:00+00 BC',
    '12026-01-01 00:00:00+00',
    '2026-06-01 10:00:00+02',
    '2026-06-01 10:00:00+05:30',
  ])('of other shapes are read the usual way: %s', (text) => {
    expect(Number(readTimestamp(text))).toBe(Number(byDefault(text)));
  });

  it('finer than a millisecond are cut off there', () => {
    expect(readTimestamp('2026-11-26 08:09:24.123999+00').toISOString()).toBe('2026-11-26T08:09:24.123Z');
  });
});
