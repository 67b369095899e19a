import fc from 'fast-check';
import { groupedMoney, minorUnits, moneyText } from './money.ts';

const rules = {
  currency: 'SEK',
  ratesMillionths: new Map([
    ['EUR', 11_350_000],
    ['JPY', 70_000],
  ]),
};
const minor = (value: unknown, currency?: string): number | string => {
  const read = minorUnits(value, currency, rules, []);
  return read.ok ? read.value : (read.faults[0]?.code ?? '');
};

describe('money', () => {
  it.each([
    [12_050, 'SEK', '120.50'],
    [-5, 'SEK', '-0.05'],
    [0, 'SEK', '0.00'],
    [1_250, 'JPY', '1250'],
  ])('of %i minor units of %s is written %s', (units, currency, text) => {
    expect(moneyText(units, currency)).toBe(text);
  });

  it('that is written and read again is the same', () => {
    fc.assert(fc.property(fc.integer({ min: -1e9, max: 1e9 }), (units) => expect(minor(moneyText(units, 'SEK'))).toBe(units)));
  });

  it.each([
    ['2000000.00', '2,000,000.00'],
    ['-1234567.8', '-1,234,567.8'],
    ['999.99', '999.99'],
    ['1250', '1,250'],
    ['0.05', '0.05'],
  ])('%s is shown as %s', (text, shown) => {
    expect(groupedMoney(text)).toBe(shown);
  });

  it('shown with its thousands apart is the same but for the commas', () => {
    fc.assert(
      fc.property(fc.integer({ min: -1e12, max: 1e12 }), (units) => {
        const text = moneyText(units, 'SEK');
        expect(groupedMoney(text).replaceAll(',', '')).toBe(text);
      }),
    );
  });

  it('of another currency is converted at its rate, halves away from zero', () => {
    expect(minor('1', 'EUR')).toBe(1_135);
    expect(minor('0.01', 'eur')).toBe(11);
    expect(minor('-0.10', 'EUR')).toBe(-114);
    expect(minor('100', 'JPY')).toBe(700);
  });

  it('with more places than its currency has, without a rate, or that is none, is a fault', () => {
    expect(minor('1.005')).toBe('number.places');
    expect(minor('1.5', 'JPY')).toBe('number.places');
    expect(minor('1', 'NOK')).toBe('money.rate');
    expect(minor('many')).toMatch(/^number\./);
  });
});
