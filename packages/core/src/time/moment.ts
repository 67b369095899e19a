import { addToDay, exactMs, isExact, localDay, startOfDay, type CalendarUnit, type Day, type Instant, type Unit } from './zone.ts';

const CALENDAR_UNITS: readonly CalendarUnit[] = ['days', 'weeks', 'months', 'years'];

/** One *now*: an instant in the workspace's zone, with what follows from it worked out once. */
export class Moment {
  readonly instant: Instant;
  readonly zone: string;
  readonly today: Day;
  /** by n and unit, as one number: this is asked for every signal */
  readonly #starts = new Map<number, Instant>();
  #lastN: number | undefined;
  #lastUnit: Unit | undefined;
  #lastStart: Instant = 0;

  constructor(instant: Instant, zone: string) {
    this.instant = instant;
    this.zone = zone;
    this.today = localDay(instant, zone);
  }

  /** First instant of "in the last n": exact for minutes and hours, else the start of the day n units before today. */
  lastStart(n: number, unit: Unit): Instant {
    if (isExact(unit)) return this.instant - exactMs(n, unit);
    // Asked of one contact after another, it is nearly always the same.
    if (n === this.#lastN && unit === this.#lastUnit) return this.#lastStart;
    const key = n * CALENDAR_UNITS.length + CALENDAR_UNITS.indexOf(unit);
    let start = this.#starts.get(key);
    if (start === undefined) this.#starts.set(key, (start = startOfDay(addToDay(this.today, -n, unit), this.zone)));
    this.#lastN = n;
    this.#lastUnit = unit;
    this.#lastStart = start;
    return start;
  }

  /** The first instant at which something of `instant` is no longer in "the last n". */
  leavesLast(instant: Instant, n: number, unit: Unit): Instant {
    if (isExact(unit)) return instant + exactMs(n, unit) + 1;
    return startOfDay(firstDayBeyond(localDay(instant, this.zone), n, unit), this.zone);
  }
}

/** The first day whose "n units before" lies after `day`. Months are of unequal length, so their end is stepped to. */
export function firstDayBeyond(day: Day, n: number, unit: CalendarUnit): Day {
  let candidate = addToDay(day, n, unit);
  while (addToDay(candidate, -n, unit) > day) candidate -= 1;
  while (addToDay(candidate, -n, unit) <= day) candidate += 1;
  return candidate;
}
