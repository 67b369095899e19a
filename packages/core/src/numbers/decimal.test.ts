import fc from 'fast-check';
import { converted, millionths, scaled, unscaled } from './decimal.ts';

describe('decimals', () => {
  it('come back exactly as they were written', () => {
    fc.assert(
      fc.property(fc.integer({ min: -1e15, max: 1e15 }), (value) => {
        expect(millionths(unscaled(value, 6))).toEqual({ ok: true, value });
      }),
    );
  });

  it.each([['0.1'], [0.1], ['-12.5'], ['1000000000'], ['+3'], ['7.500000']])('take %j', (value) => {
    expect(millionths(value).ok).toBe(true);
  });

  it.each([['0.1234567'], ['1000000000.1'], ['1e3'], [1e21], [Number.NaN], [''], ['1,5'], ['0x10'], [null], [true], ['--1']])(
    'refuse %j',
    (value) => {
      expect(millionths(value).ok).toBe(false);
    },
  );

  it('know the places of money', () => {
    expect(scaled('99.90', 2)).toEqual({ ok: true, value: 9_990 });
    expect(scaled('1.005', 2).ok).toBe(false);
  });

  it('convert at a rate and round half away from zero', () => {
    expect(converted(100, 2, 11_350_000, 2)).toBe(1_135);
    expect(converted(1, 2, 500_000, 2)).toBe(1);
    expect(converted(-1, 2, 500_000, 2)).toBe(-1);
    expect(converted(1, 0, 70_000, 2)).toBe(7);
  });
});
