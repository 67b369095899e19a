import fc from 'fast-check';
import { readFact, sameFact, showFact, writeFact } from './facts.ts';
import { fieldBodySchema, type FieldBody, type FieldType } from './fields.ts';
import { displayName } from './subject.ts';

const WORKSPACE = { timeZone: 'Europe/Stockholm', currency: 'SEK', ratesMillionths: new Map([['EUR', 11_350_000]]) };
const options = [
  { key: 'harbour-side', name: 'Harbour side' },
  { key: 'upper-fern', name: 'Upper Fern' },
];
const field = (type: FieldType): FieldBody => ({ of: 'contact', type, ...(type.includes('choice') ? { options } : {}) });
const fact = (type: FieldType, value: unknown): unknown => {
  const read = readFact(field(type), value, WORKSPACE);
  return read.ok ? read.value?.fact : read.faults.map((fault) => fault.code);
};

describe('facts', () => {
  it.each<[FieldType, unknown, unknown]>([
    ['text', '  Saltwick ', 'saltwick'],
    ['text', 42, '42'],
    ['number', '2.5', 2_500_000],
    ['number', -3, -3_000_000],
    ['money', '99.90', 9_990],
    ['money', { amount: 2, currency: 'eur' }, 2_270],
    ['date', '2026-11-25', 20_782],
    ['date-time', '2026-11-25T00:30', Date.UTC(2026, 10, 24, 23, 30)],
    ['yes/no', 'Yes', 1],
    ['yes/no', false, 0],
    ['yes/no', 'n', 0],
    ['one choice', 'HARBOUR SIDE', 'harbour-side'],
    ['several choices', 'Upper Fern; harbour-side;upper-fern', ['harbour-side', 'upper-fern']],
    ['several choices', ['upper-fern'], ['upper-fern']],
    ['phone', '+46 70 000', '+46 70 000'],
  ])('of type %s read %j as %j', (type, value, expected) => {
    expect(fact(type, value)).toEqual(expected);
  });

  it.each<[FieldType, unknown]>([
    ['text', null],
    ['text', ''],
    ['text', ' \u2003 '],
    ['number', null],
    ['several choices', []],
    ['date', undefined],
  ])('of type %s take %j for an empty value', (type, value) => {
    expect(fact(type, value)).toBeUndefined();
  });

  it.each<[FieldType, unknown, string]>([
    ['text', { a: 1 }, 'value.type'],
    ['text', 'x'.repeat(501), 'value.length'],
    ['number', 'many', 'number.malformed'],
    ['date', '25.11.2026', 'value.date'],
    ['date', '2026-02-30', 'value.date'],
    ['yes/no', 'perhaps', 'value.type'],
    ['one choice', 'elsewhere', 'value.choice'],
    ['several choices', ['upper-fern', 'elsewhere'], 'value.choice'],
  ])('of type %s refuse %j with %s', (type, value, code) => {
    expect(fact(type, value)).toEqual([code]);
  });

  it('come back from what they are written as', () => {
    const values: readonly (readonly [FieldType, fc.Arbitrary<unknown>])[] = [
      [
        'number',
        fc
          .integer({ min: -1e15, max: 1e15 })
          .map((n) => n / 1_000_000)
          .filter((n) => readFact(field('number'), n, WORKSPACE).ok),
      ],
      [
        'date',
        fc
          .date({ min: new Date('1900-01-01'), max: new Date('2100-01-01'), noInvalidDate: true })
          .map((date) => date.toISOString().slice(0, 10)),
      ],
      [
        'date-time',
        fc.date({ min: new Date('1900-01-01'), max: new Date('2100-01-01'), noInvalidDate: true }).map((date) => date.toISOString()),
      ],
      ['yes/no', fc.boolean()],
      ['several choices', fc.subarray(['harbour-side', 'upper-fern'], { minLength: 1 })],
    ];
    for (const [type, arbitrary] of values) {
      fc.assert(
        fc.property(arbitrary, (value) => {
          const first = readFact(field(type), value, WORKSPACE);
          if (!first.ok || first.value === undefined) throw new Error('not read');
          const again = readFact(field(type), writeFact(field(type), first.value.fact, first.value.shown), WORKSPACE);
          expect(again.ok && sameFact(again.value?.fact, first.value.fact)).toBe(true);
        }),
        { numRuns: 100 },
      );
    }
  });

  it('are shown in words', () => {
    expect(showFact(field('several choices'), ['harbour-side', 'upper-fern'])).toBe('Harbour side, Upper Fern');
    expect(showFact(field('yes/no'), 1)).toBe('yes');
    expect(showFact(field('number'), 2_500_000)).toBe('2.5');
    expect(showFact(field('text'), 'saltwick', 'Saltwick')).toBe('Saltwick');
    expect([
      displayName('Ottoline', 'Farrow', 'o@x.example'),
      displayName(undefined, undefined, 'o@x.example'),
      displayName(undefined, undefined, undefined),
    ]).toEqual(['Ottoline Farrow', 'o@x.example', 'someone unnamed']);
  });

  it('belong to fields that have choices exactly where they choose', () => {
    expect(fieldBodySchema.safeParse({ of: 'contact', type: 'one choice' }).success).toBe(false);
    expect(fieldBodySchema.safeParse({ of: 'contact', type: 'text', options }).success).toBe(false);
    expect(fieldBodySchema.safeParse({ of: 'contact', type: 'one choice', options }).success).toBe(true);
  });
});
