import fc from 'fast-check';
import { addToDay, calendarDate, dayOf, DAY_MS, localDay, readDay, readInstant, startOfDay, weekOf, writeDay } from './zone.ts';
import { firstDayBeyond, Moment } from './moment.ts';
import { boundsAt, nextCrossing, type PreparedWindow } from './window.ts';

const ZONES = [
  'Europe/Stockholm',
  'America/Sao_Paulo',
  'America/St_Johns',
  'Asia/Kathmandu',
  'Africa/Cairo',
  'Pacific/Apia',
  'Australia/Lord_Howe',
  'UTC',
];
const zones = fc.constantFrom(...ZONES);
const instants = fc.integer({ min: Date.UTC(2010, 0, 1), max: Date.UTC(2030, 0, 1) });
const units = fc.constantFrom('days' as const, 'weeks' as const, 'months' as const, 'years' as const);
const iso = (instant: number): string => new Date(instant).toISOString();

describe('time', () => {
  it('parts every zone into days that begin at their first instant and leave nothing out', () => {
    fc.assert(
      fc.property(instants, zones, (instant, zone) => {
        const day = localDay(instant, zone);
        expect(startOfDay(day, zone)).toBeLessThanOrEqual(instant);
        expect(startOfDay(day + 1, zone)).toBeGreaterThan(instant);
      }),
      { numRuns: 2_000 },
    );
  });

  it.each([
    ['Europe/Stockholm', '2026-03-29', '2026-03-28T23:00:00.000Z', 23],
    ['Europe/Stockholm', '2026-10-25', '2026-10-24T22:00:00.000Z', 25],
    // Midnight itself does not exist: the day begins at one o'clock.
    ['America/Sao_Paulo', '2018-11-04', '2018-11-04T03:00:00.000Z', 23],
    // The whole day does not exist.
    ['Pacific/Apia', '2011-12-30', '2011-12-30T10:00:00.000Z', 0],
  ])('in %s lets %s begin at its first instant and last as long as it lasts', (zone, text, start, hours) => {
    const day = readDay(text) ?? 0;
    expect(iso(startOfDay(day, zone))).toBe(start);
    expect((startOfDay(day + 1, zone) - startOfDay(day, zone)) / 3_600_000).toBe(hours);
  });

  it('adds months by the calendar, and a month before 31 March is the last of February', () => {
    const day = (text: string): number => readDay(text) ?? 0;
    expect(writeDay(addToDay(day('2026-03-31'), -1, 'months'))).toBe('2026-02-28');
    expect(writeDay(addToDay(day('2028-03-31'), -1, 'months'))).toBe('2028-02-29');
    expect(writeDay(addToDay(day('2028-02-29'), 1, 'years'))).toBe('2029-02-28');
    expect(writeDay(addToDay(day('2026-11-25'), -13, 'months'))).toBe('2025-10-25');
    expect(writeDay(weekOf(day('2026-11-29')))).toBe('2026-11-23');
    expect(dayOf(calendarDate(day('0099-12-31')))).toBe(day('0099-12-31'));
  });

  it('reads what people and programs write, and nothing that is no date', () => {
    expect(readDay('2026-02-29')).toBeUndefined();
    expect(readDay('2028-02-29')).toBeDefined();
    expect(readInstant('2026-11-25T14:00', 'Europe/Stockholm')).toBe(Date.UTC(2026, 10, 25, 13));
    expect(readInstant('2026-11-25T14:00:00.5+02:00', 'UTC')).toBe(Date.UTC(2026, 10, 25, 12, 0, 0, 500));
    expect(readInstant('2026-11-25T24:00Z', 'UTC')).toBeUndefined();
    expect(readInstant('tomorrow', 'UTC')).toBeUndefined();
    // There is no year 0, and none with five digits: a database takes neither.
    expect(readDay('0000-01-01')).toBeUndefined();
    expect(readDay('0001-01-01')).toBeDefined();
    expect(readInstant('0001-01-01T00:00+01:00', 'UTC')).toBeUndefined();
    expect(readInstant('9999-12-31T23:59:59-01:00', 'UTC')).toBeUndefined();
    expect(readInstant('9999-12-31T23:59', 'UTC')).toBeDefined();
  });

  it('says exactly when something falls out of the last n', () => {
    fc.assert(
      fc.property(fc.integer({ min: 14_000, max: 22_000 }), fc.integer({ min: 0, max: 40 }), units, (day, n, unit) => {
        const first = firstDayBeyond(day, n, unit);
        expect(addToDay(first, -n, unit)).toBeGreaterThan(day);
        expect(addToDay(first - 1, -n, unit)).toBeLessThanOrEqual(day);
      }),
      { numRuns: 2_000 },
    );
  });

  it('keeps what is in a window the same until it says that it changes', () => {
    const windows = fc.oneof(
      fc.record({
        kind: fc.constantFrom('last' as const, 'olderThan' as const),
        n: fc.integer({ min: 0, max: 40 }),
        unit: fc.constantFrom('minutes' as const, 'hours' as const, 'days' as const, 'weeks' as const, 'months' as const),
      }),
      fc.constant({ kind: 'ever' as const }),
      fc.tuple(instants, instants).map(([a, b]) => ({ kind: 'between' as const, from: Math.min(a, b), to: Math.max(a, b) })),
    ) as fc.Arbitrary<PreparedWindow>;
    fc.assert(
      fc.property(windows, instants, fc.integer({ min: -60 * DAY_MS, max: 60 * DAY_MS }), zones, (window, now, offset, zone) => {
        const moment = new Moment(now, zone);
        const time = now + offset;
        const inside = (at: Moment): boolean => {
          const { from, to } = boundsAt(window, at);
          return time >= from && time <= to;
        };
        const crossing = nextCrossing(window, time, moment);
        expect(crossing).toBeGreaterThan(now);
        if (crossing === Number.POSITIVE_INFINITY) return;
        expect(inside(new Moment(crossing - 1, zone))).toBe(inside(moment));
      }),
      { numRuns: 2_000 },
    );
  });
});
