import { tzOffset } from '@date-fns/tz';

/** Milliseconds since 1970-01-01T00:00Z. */
export type Instant = number;
/** A calendar day, counted from 1970-01-01. */
export type Day = number;

export type CalendarUnit = 'days' | 'weeks' | 'months' | 'years';
export type ExactUnit = 'minutes' | 'hours';
export type Unit = ExactUnit | CalendarUnit;

/** The first and the last millisecond of the years 1 to 9999: what a date written in four digits can mean, and what a database takes. */
export const EARLIEST_INSTANT: Instant = -62_135_596_800_000;
export const LATEST_INSTANT: Instant = 253_402_300_799_999;
const isHeld = (instant: Instant): boolean => instant >= EARLIEST_INSTANT && instant <= LATEST_INSTANT;

export const DAY_MS = 86_400_000;
const EXACT_MS: Record<ExactUnit, number> = { minutes: 60_000, hours: 3_600_000 };

export const isExact = (unit: Unit): unit is ExactUnit => unit === 'minutes' || unit === 'hours';
export const exactMs = (n: number, unit: ExactUnit): number => n * EXACT_MS[unit];

const offsetMs = (zone: string, instant: Instant): number => tzOffset(zone, new Date(instant)) * 60_000;

const startsByZone = new Map<string, Map<Day, Instant>>();

function computedStartOfDay(day: Day, zone: string): Instant {
  const utc = day * DAY_MS;
  const onDay = (instant: Instant): Day => Math.floor((instant + offsetMs(zone, instant)) / DAY_MS);
  const candidates = [...new Set([offsetMs(zone, utc - DAY_MS), offsetMs(zone, utc), offsetMs(zone, utc + DAY_MS)])]
    .map((offset) => utc - offset)
    .filter((instant) => onDay(instant) === day && onDay(instant - 1) < day)
    .sort((a, b) => a - b);
  if (candidates[0] !== undefined) return candidates[0];
  // The clock jumps over midnight (or the whole day): search for the first instant that is no longer before this day.
  let before = utc - 2 * DAY_MS;
  let after = utc + 2 * DAY_MS;
  while (after - before > 1) {
    const middle = Math.floor((before + after) / 2);
    if (onDay(middle) >= day) after = middle;
    else before = middle;
  }
  return after;
}

/** The first instant of a day in a zone, whatever daylight saving does with its midnight. */
export function startOfDay(day: Day, zone: string): Instant {
  let starts = startsByZone.get(zone);
  if (!starts) startsByZone.set(zone, (starts = new Map()));
  let start = starts.get(day);
  if (start === undefined) starts.set(day, (start = computedStartOfDay(day, zone)));
  return start;
}

/**
 * The calendar day that an instant falls on in a zone.
 *
 * Found from the starts of days, which are remembered: asking the zone's offset each time cost ten times as much.
 */
export function localDay(instant: Instant, zone: string): Day {
  let day = Math.floor(instant / DAY_MS);
  while (instant < startOfDay(day, zone)) day -= 1;
  while (instant >= startOfDay(day + 1, zone)) day += 1;
  return day;
}

export interface CalendarDate {
  readonly year: number;
  /** 1 to 12 */
  readonly month: number;
  readonly day: number;
}

export function calendarDate(day: Day): CalendarDate {
  const date = new Date(day * DAY_MS);
  return { year: date.getUTCFullYear(), month: date.getUTCMonth() + 1, day: date.getUTCDate() };
}

export const dayOf = (date: CalendarDate): Day => {
  const utc = new Date(0);
  utc.setUTCFullYear(date.year, date.month - 1, date.day);
  return utc.getTime() / DAY_MS;
};

const daysInMonth = (year: number, month: number): number => {
  const next = new Date(0);
  next.setUTCFullYear(year, month, 0);
  return next.getUTCDate();
};

/** The day `n` calendar units later (earlier if negative). A month after 31 January is the last day of February. */
export function addToDay(day: Day, n: number, unit: CalendarUnit): Day {
  if (unit === 'days') return day + n;
  if (unit === 'weeks') return day + 7 * n;
  const date = calendarDate(day);
  const months = date.year * 12 + (date.month - 1) + (unit === 'years' ? 12 * n : n);
  const year = Math.floor(months / 12);
  const month = (((months % 12) + 12) % 12) + 1;
  return dayOf({ year, month, day: Math.min(date.day, daysInMonth(year, month)) });
}

/** Monday of the week that a day lies in. 1970-01-01 was a Thursday. */
export const weekOf = (day: Day): Day => day - ((((day + 3) % 7) + 7) % 7);
export const monthOf = (day: Day): number => {
  const date = calendarDate(day);
  return date.year * 12 + date.month - 1;
};

/** The day in a year on which the anniversary of a date falls; 29 February falls on 28 February in common years. */
export const anniversaryIn = (date: Pick<CalendarDate, 'month' | 'day'>, year: number): Day =>
  dayOf({ year, month: date.month, day: Math.min(date.day, daysInMonth(year, date.month)) });

/** The instant at which a clock in the zone shows an hour of a day; an hour that daylight saving leaves out comes as the one after it. */
export function instantAt(day: Day, hour: number, zone: string): Instant {
  const wall = day * DAY_MS + hour * 3_600_000;
  const guess = wall - offsetMs(zone, wall);
  return wall - offsetMs(zone, guess);
}

/** Month × 100 + day, by which anniversaries go. */
export function monthDay(day: Day): number {
  const date = calendarDate(day);
  return date.month * 100 + date.day;
}

const ISO_DAY = /^(\d{4})-(\d{2})-(\d{2})$/;

/** A bare ISO day such as `2026-11-25`, or undefined where it is none; there is no year 0. */
export function readDay(text: string): Day | undefined {
  const match = ISO_DAY.exec(text.trim());
  if (!match) return undefined;
  const date = { year: Number(match[1]), month: Number(match[2]), day: Number(match[3]) };
  if (date.year < 1 || date.month < 1 || date.month > 12 || date.day < 1 || date.day > daysInMonth(date.year, date.month)) return undefined;
  return dayOf(date);
}

export const writeDay = (day: Day): string => new Date(day * DAY_MS).toISOString().slice(0, 10);

const ISO_INSTANT = /^(\d{4}-\d{2}-\d{2})[T ](\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,9}))?)?\s*(Z|[+-]\d{2}:?\d{2})?$/i;

/** An ISO date-time; without an offset it is the zone's own wall clock. Undefined where it is none, or lies beyond the years 1 to 9999. */
export function readInstant(text: string, zone: string): Instant | undefined {
  const instant = instantIn(text, zone);
  return instant !== undefined && isHeld(instant) ? instant : undefined;
}

function instantIn(text: string, zone: string): Instant | undefined {
  const match = ISO_INSTANT.exec(text.trim());
  if (!match) return undefined;
  const day = readDay(match[1] ?? '');
  const [hour, minute, second] = [Number(match[2]), Number(match[3]), Number(match[4] ?? 0)];
  if (day === undefined || hour > 23 || minute > 59 || second > 59) return undefined;
  const ms = Number((match[5] ?? '0').padEnd(3, '0').slice(0, 3));
  const wall = day * DAY_MS + hour * 3_600_000 + minute * 60_000 + second * 1000 + ms;
  const offset = match[6]?.toUpperCase();
  if (offset === 'Z') return wall;
  if (offset) {
    const sign = offset.startsWith('-') ? -1 : 1;
    return wall - sign * (Number(offset.slice(1, 3)) * 60 + Number(offset.slice(-2))) * 60_000;
  }
  const guess = wall - offsetMs(zone, wall);
  return wall - offsetMs(zone, guess);
}
