import fc from 'fast-check';
import { dayOf, Moment, orThrow, startOfDay, type Day } from '../../index.ts';
import { anniversaryOperators, type AnniversaryOperator } from './anniversary.ts';
import { type Operator } from './operator.ts';

const ZONE = 'Europe/Stockholm';
const FIRST = dayOf({ year: 2023, month: 1, day: 1 });
const LOOKED_AT = 800;
const operators = anniversaryOperators(false);
const days = fc.integer({ min: 0, max: 4 * 366 }).map((n) => FIRST + n);
// Leap days are drawn often: they fall on the 28th in common years.
const dates = fc.oneof(days, fc.constantFrom(dayOf({ year: 1996, month: 2, day: 29 }), dayOf({ year: 1999, month: 2, day: 28 })));
const spans = fc.oneof(fc.integer({ min: 0, max: 366 }), fc.constantFrom(0, 1, 364, 365, 366));

describe('anniversaries', () => {
  it.each(Object.keys(operators) as AnniversaryOperator[])('“%s” turns on the very day that it says, and on none before', (op) => {
    const { holds, next, prepare } = operators[op] as unknown as Required<Operator<number>>;
    fc.assert(
      fc.property(dates, spans, days, (date, n, today) => {
        const operand = orThrow(prepare({ n }, { zone: ZONE, places: 0, path: [] }));
        const at = (day: Day): boolean => holds(date, operand, new Moment(startOfDay(day, ZONE), ZONE));
        const now = at(today);
        let turns = today + 1;
        while (turns < today + LOOKED_AT && at(turns) === now) turns += 1;
        expect(next(date, operand, new Moment(startOfDay(today, ZONE), ZONE))).toBe(startOfDay(turns, ZONE));
      }),
      { numRuns: 20 },
    );
  });

  it('of a leap day come on 28 February in common years, and on the 29th in leap years', () => {
    const { holds } = operators['anniversary today'] as unknown as Operator<number>;
    const born = dayOf({ year: 1996, month: 2, day: 29 });
    const on = (year: number, day: number): boolean => holds(born, 0, new Moment(startOfDay(dayOf({ year, month: 2, day }), ZONE), ZONE));
    expect([on(2026, 28), on(2028, 28), on(2028, 29)]).toEqual([true, false, true]);
  });
});
