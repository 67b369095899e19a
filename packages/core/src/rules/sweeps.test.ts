import fc from 'fast-check';
import { calendarDate, instantAt, localDay, readDay, writeDay, type Day } from '../time/zone.ts';
import { nextSweep, sweepTimesWords, type SweepTimes } from './sweeps.ts';

const ZONE = 'Europe/Stockholm';
const day = (text: string): Day => readDay(text) as Day;
const next = (times: SweepTimes, from: string, hour = 12): string =>
  writeDay(localDay(nextSweep(times, instantAt(day(from), hour, ZONE), ZONE), ZONE));

describe('when a sweep runs', () => {
  it('comes today if its hour is still to come, and otherwise the next time', () => {
    expect(next({ every: 'day', hour: 13 }, '2026-11-25')).toBe('2026-11-25');
    expect(next({ every: 'day', hour: 12 }, '2026-11-25')).toBe('2026-11-26');
    // A Wednesday.
    expect(next({ every: 'week', weekday: 1, hour: 9 }, '2026-11-25')).toBe('2026-11-30');
    expect(next({ every: 'week', weekday: 3, hour: 13 }, '2026-11-25')).toBe('2026-11-25');
    expect(next({ every: 'month', day: 31, hour: 9 }, '2027-02-03')).toBe('2027-02-28');
    expect(next({ every: 'month', day: 31, hour: 9 }, '2027-02-28')).toBe('2027-03-31');
    expect(next({ every: 'month', day: 1, hour: 9 }, '2026-12-31')).toBe('2027-01-01');
  });

  it('is always ahead, at its hour, on its day, and none is left out', () => {
    const hour = fc.integer({ min: 0, max: 23 });
    const times = fc.oneof(
      fc.record({ every: fc.constant('day' as const), hour }),
      fc.record({ every: fc.constant('week' as const), weekday: fc.integer({ min: 1, max: 7 }), hour }),
      fc.record({ every: fc.constant('month' as const), day: fc.integer({ min: 1, max: 31 }), hour }),
    );
    const at = fc.integer({ min: Date.UTC(2026, 0, 1), max: Date.UTC(2028, 11, 31) });
    fc.assert(
      fc.property(times, at, (sweep, after) => {
        const found = nextSweep(sweep, after, ZONE);
        const on = localDay(found, ZONE);
        expect(found).toBeGreaterThan(after);
        expect(found).toBe(instantAt(on, sweep.hour, ZONE));
        const wanted = (each: Day): boolean => {
          const last = calendarDate(each + 1).day === 1;
          if (sweep.every === 'week') return ((each + 3) % 7) + 1 === sweep.weekday;
          return sweep.every === 'day' || calendarDate(each).day === sweep.day || (last && calendarDate(each).day < sweep.day);
        };
        expect(wanted(on)).toBe(true);
        for (let each = localDay(after, ZONE); each < on; each += 1)
          expect(wanted(each) && instantAt(each, sweep.hour, ZONE) > after).toBe(false);
      }),
    );
  });

  it('is said in words', () => {
    expect(sweepTimesWords({ every: 'day', hour: 9 })).toBe('Every day at 09:00');
    expect(sweepTimesWords({ every: 'week', weekday: 5, hour: 17 })).toBe('Every Friday at 17:00');
    expect(
      [1, 2, 3, 4, 11, 12, 13, 21, 22, 30, 31].map((each) => sweepTimesWords({ every: 'month', day: each, hour: 0 }).split(' every')[0]),
    ).toEqual([
      'On the 1st of',
      'On the 2nd of',
      'On the 3rd of',
      'On the 4th of',
      'On the 11th of',
      'On the 12th of',
      'On the 13th of',
      'On the 21st of',
      'On the 22nd of',
      'On the 30th of',
      'On the last day of',
    ]);
  });
});
