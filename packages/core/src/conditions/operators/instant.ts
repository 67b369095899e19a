import { bad, good, type Checked } from '../../faults.ts';
import { type Moment } from '../../time/moment.ts';
import { addToDay, exactMs, isExact, localDay, readDay, readInstant, startOfDay, type Instant } from '../../time/zone.ts';
import { anniversaryOperators } from './anniversary.ts';
import { anyDuration, firstDayReaching, type Duration } from './duration.ts';
import { type DateOperator } from './day.ts';
import { range } from './number.ts';
import { operator, type OperatorEntry, type ValueContext } from './operator.ts';

/** Both ends in. A bare day spans all of its instants; an instant spans itself, or for `on` its local day. */
type Span = readonly [Instant, Instant];

function span(value: unknown, { zone, path }: ValueContext, wholeDay: boolean): Checked<Span> {
  if (typeof value === 'string') {
    const instant = readInstant(value, zone);
    const day = readDay(value) ?? (wholeDay && instant !== undefined ? localDay(instant, zone) : undefined);
    if (day !== undefined) return good([startOfDay(day, zone), startOfDay(day + 1, zone) - 1]);
    if (instant !== undefined) return good([instant, instant]);
  }
  return bad({ path, code: 'value.date', expected: 'a day or date-time like 2026-11-25 or 2026-11-25T14:00' });
}

/** The last instant that is at most so far ahead: exact for minutes and hours, else the end of the day n units after today. */
function lastAhead({ n, unit }: Duration, moment: Moment): Instant {
  return isExact(unit) ? moment.instant + exactMs(n, unit) : startOfDay(addToDay(moment.today, n, unit) + 1, moment.zone) - 1;
}

/** The first instant at which `fact` is at most so far ahead. */
function comesWithin(fact: Instant, { n, unit }: Duration, moment: Moment): Instant {
  return isExact(unit) ? fact - exactMs(n, unit) : startOfDay(firstDayReaching(localDay(fact, moment.zone), n, unit), moment.zone);
}

function earliestAfter(moment: Moment, ...instants: readonly Instant[]): Instant {
  return Math.min(Number.POSITIVE_INFINITY, ...instants.filter((instant) => instant > moment.instant));
}

/** Operators on instants, such as a date-time field or a date-time in a signal's details. */
export const instantOperators: Record<DateOperator, OperatorEntry> = {
  on: operator<Span>({
    takes: 'value',
    prepare: (value, context) => span(value, context, true),
    holds: (fact, [from, to]) => (fact as Instant) >= from && (fact as Instant) <= to,
    sql: (column, [from, to], _moment, bind) => `${column.number} between ${bind(from, 'bigint')} and ${bind(to, 'bigint')}`,
  }),
  before: operator<Span>({
    takes: 'value',
    prepare: (value, context) => span(value, context, false),
    holds: (fact, [from]) => (fact as Instant) < from,
    sql: (column, [from], _moment, bind) => `${column.number} < ${bind(from, 'bigint')}`,
  }),
  after: operator<Span>({
    takes: 'value',
    prepare: (value, context) => span(value, context, false),
    holds: (fact, [, to]) => (fact as Instant) > to,
    sql: (column, [, to], _moment, bind) => `${column.number} > ${bind(to, 'bigint')}`,
  }),
  between: operator<readonly [Instant, Instant]>({
    takes: 'range',
    prepare: (value, context) => {
      const ends = range(value, context, (end, endContext) => {
        const read = span(end, endContext, false);
        return read.ok ? good(read.value[0]) : read;
      });
      if (!ends.ok) return ends;
      const last = span((value as unknown[])[1], context, false);
      return last.ok ? good([ends.value[0], last.value[1]] as const) : last;
    },
    holds: (fact, [from, to]) => (fact as Instant) >= from && (fact as Instant) <= to,
    sql: (column, [from, to], _moment, bind) => `${column.number} between ${bind(from, 'bigint')} and ${bind(to, 'bigint')}`,
  }),
  'within the last': operator<Duration>({
    takes: 'duration',
    prepare: anyDuration,
    holds: (fact, { n, unit }, moment) => (fact as Instant) >= moment.lastStart(n, unit) && (fact as Instant) <= moment.instant,
    sql: (column, { n, unit }, moment, bind) =>
      `${column.number} between ${bind(moment.lastStart(n, unit), 'bigint')} and ${bind(moment.instant, 'bigint')}`,
    next: (fact, { n, unit }, moment) => earliestAfter(moment, fact as Instant, moment.leavesLast(fact as Instant, n, unit)),
  }),
  'within the next': operator<Duration>({
    takes: 'duration',
    prepare: anyDuration,
    holds: (fact, duration, moment) => (fact as Instant) >= moment.instant && (fact as Instant) <= lastAhead(duration, moment),
    sql: (column, duration, moment, bind) =>
      `${column.number} between ${bind(moment.instant, 'bigint')} and ${bind(lastAhead(duration, moment), 'bigint')}`,
    next: (fact, duration, moment) => earliestAfter(moment, comesWithin(fact as Instant, duration, moment), (fact as Instant) + 1),
  }),
  'more than ago': operator<Duration>({
    takes: 'duration',
    prepare: anyDuration,
    holds: (fact, { n, unit }, moment) => (fact as Instant) < moment.lastStart(n, unit),
    sql: (column, { n, unit }, moment, bind) => `${column.number} < ${bind(moment.lastStart(n, unit), 'bigint')}`,
    next: (fact, { n, unit }, moment) => earliestAfter(moment, moment.leavesLast(fact as Instant, n, unit)),
  }),
  'more than ahead': operator<Duration>({
    takes: 'duration',
    prepare: anyDuration,
    holds: (fact, duration, moment) => (fact as Instant) > lastAhead(duration, moment),
    sql: (column, duration, moment, bind) => `${column.number} > ${bind(lastAhead(duration, moment), 'bigint')}`,
    next: (fact, duration, moment) => earliestAfter(moment, comesWithin(fact as Instant, duration, moment)),
  }),
  ...anniversaryOperators(true),
};
