import { bad, good, type Checked } from '../../faults.ts';
import { addToDay, type CalendarUnit, type Day, type Unit } from '../../time/zone.ts';
import { type ValueContext } from './operator.ts';

export interface Duration {
  readonly n: number;
  readonly unit: Unit;
}
export interface CalendarDuration extends Duration {
  readonly unit: CalendarUnit;
}

const CALENDAR: readonly string[] = ['days', 'weeks', 'months', 'years'];
const EXACT: readonly string[] = ['minutes', 'hours'];

function duration(value: unknown, context: ValueContext, units: readonly string[]): Checked<Duration> {
  const given = value as { n?: unknown; unit?: unknown } | null;
  if (typeof given !== 'object' || given === null || !Number.isInteger(given.n) || !units.includes(String(given.unit))) {
    return bad({
      path: context.path,
      code: 'value.duration',
      expected: `a number of ${units.join(', ')}, as { "n": 30, "unit": "${units[0]}" }`,
    });
  }
  return good({ n: given.n as number, unit: given.unit as Unit });
}

export const calendarDuration = (value: unknown, context: ValueContext): Checked<CalendarDuration> =>
  duration(value, context, CALENDAR) as Checked<CalendarDuration>;
export const anyDuration = (value: unknown, context: ValueContext): Checked<Duration> => duration(value, context, [...CALENDAR, ...EXACT]);

/** The first day from which `day` is at most n units ahead. */
export function firstDayReaching(day: Day, n: number, unit: CalendarUnit): Day {
  let candidate = addToDay(day, -n, unit);
  while (addToDay(candidate - 1, n, unit) >= day) candidate -= 1;
  while (addToDay(candidate, n, unit) < day) candidate += 1;
  return candidate;
}
