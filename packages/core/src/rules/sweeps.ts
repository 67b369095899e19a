import { z } from 'zod';
import { addToDay, calendarDate, dayOf, instantAt, localDay, weekOf, type Day, type Instant } from '../time/zone.ts';

const hour = z.int().min(0).max(23).default(9);

/** When a sweep runs by itself, by the days and hours of the workspace. */
export const sweepTimesSchema = z.discriminatedUnion('every', [
  z.strictObject({ every: z.literal('day'), hour }),
  /** `weekday`: 1 is Monday */
  z.strictObject({ every: z.literal('week'), weekday: z.int().min(1).max(7), hour }),
  /** `day`: the last of the month where it has no such day */
  z.strictObject({ every: z.literal('month'), day: z.int().min(1).max(31), hour }),
]);
export type SweepTimes = z.infer<typeof sweepTimesSchema>;

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;

/** The first time of a sweep after an instant. */
export function nextSweep(times: SweepTimes, after: Instant, zone: string): Instant {
  const today = localDay(after, zone);
  for (let n = 0; ; n += 1) {
    const at = instantAt(dayOfSweep(times, today, n), times.hour, zone);
    if (at > after) return at;
  }
}

/** The day of the n-th period from the one that a day lies in. */
function dayOfSweep(times: SweepTimes, today: Day, n: number): Day {
  switch (times.every) {
    case 'day':
      return today + n;
    case 'week':
      return weekOf(today) + 7 * n + times.weekday - 1;
    case 'month': {
      const first = addToDay(dayOf({ ...calendarDate(today), day: 1 }), n, 'months');
      return Math.min(first + times.day, addToDay(first, 1, 'months')) - 1;
    }
  }
}

const inFigures = (n: number): string => String(n).padStart(2, '0');
const ORDINALS = ['st', 'nd', 'rd'] as const;
const ordinal = (n: number): string => `${n}${Math.floor(n / 10) === 1 ? 'th' : (ORDINALS[(n % 10) - 1] ?? 'th')}`;

/** “Every Monday at 09:00” */
export function sweepTimesWords(times: SweepTimes): string {
  const at = `at ${inFigures(times.hour)}:00`;
  switch (times.every) {
    case 'day':
      return `Every day ${at}`;
    case 'week':
      return `Every ${WEEKDAYS[times.weekday - 1] ?? ''} ${at}`;
    case 'month':
      return times.day === 31 ? `On the last day of every month ${at}` : `On the ${ordinal(times.day)} of every month ${at}`;
  }
}
