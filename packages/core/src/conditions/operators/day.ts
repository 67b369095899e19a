import { bad, good, type Checked } from '../../faults.ts';
import { firstDayBeyond, type Moment } from '../../time/moment.ts';
import { addToDay, readDay, startOfDay, type Day, type Instant } from '../../time/zone.ts';
import { anniversaryOperators, type AnniversaryOperator } from './anniversary.ts';
import { calendarDuration, firstDayReaching, type CalendarDuration } from './duration.ts';
import { range } from './number.ts';
import { operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type DateOperator =
  AnniversaryOperator | 'on' | 'before' | 'after' | 'between' | 'within the last' | 'within the next' | 'more than ago' | 'more than ahead';

function prepareDay(value: unknown, context: ValueContext): Checked<Day> {
  const day = typeof value === 'string' ? readDay(value) : undefined;
  return day === undefined ? bad({ path: context.path, code: 'value.date', expected: 'a day like 2026-11-25' }) : good(day);
}

/** The earliest start of one of these days that lies after the moment. */
export function nextStart(moment: Moment, ...days: readonly Day[]): Instant {
  let next = Number.POSITIVE_INFINITY;
  for (const day of days) {
    const start = startOfDay(day, moment.zone);
    if (start > moment.instant && start < next) next = start;
  }
  return next;
}

const compared = (sign: '=' | '<' | '>', holds: (fact: Day, day: Day) => boolean): OperatorEntry =>
  operator<Day>({
    takes: 'value',
    prepare: prepareDay,
    holds: (fact, day) => holds(fact as Day, day),
    sql: (column, day, _moment, bind) => `${column.number} ${sign} ${bind(day, 'bigint')}`,
    limit: (day) => day,
  });

/** Operators on bare calendar days. Relative ones count from today in the workspace's zone. */
export const dayOperators: Record<DateOperator, OperatorEntry> = {
  on: compared('=', (fact, day) => fact === day),
  before: compared('<', (fact, day) => fact < day),
  after: compared('>', (fact, day) => fact > day),
  between: operator<readonly [Day, Day]>({
    takes: 'range',
    prepare: (value, context) => range(value, context, prepareDay),
    holds: (fact, [first, last]) => (fact as Day) >= first && (fact as Day) <= last,
    sql: (column, [first, last], _moment, bind) => `${column.number} between ${bind(first, 'bigint')} and ${bind(last, 'bigint')}`,
  }),
  'within the last': operator<CalendarDuration>({
    takes: 'duration',
    prepare: calendarDuration,
    holds: (fact, { n, unit }, { today }) => (fact as Day) >= addToDay(today, -n, unit) && (fact as Day) <= today,
    sql: (column, { n, unit }, { today }, bind) =>
      `${column.number} between ${bind(addToDay(today, -n, unit), 'bigint')} and ${bind(today, 'bigint')}`,
    next: (fact, { n, unit }, moment) => nextStart(moment, fact as Day, firstDayBeyond(fact as Day, n, unit)),
  }),
  'within the next': operator<CalendarDuration>({
    takes: 'duration',
    prepare: calendarDuration,
    holds: (fact, { n, unit }, { today }) => (fact as Day) >= today && (fact as Day) <= addToDay(today, n, unit),
    sql: (column, { n, unit }, { today }, bind) =>
      `${column.number} between ${bind(today, 'bigint')} and ${bind(addToDay(today, n, unit), 'bigint')}`,
    next: (fact, { n, unit }, moment) => nextStart(moment, firstDayReaching(fact as Day, n, unit), (fact as Day) + 1),
  }),
  'more than ago': operator<CalendarDuration>({
    takes: 'duration',
    prepare: calendarDuration,
    holds: (fact, { n, unit }, { today }) => (fact as Day) < addToDay(today, -n, unit),
    sql: (column, { n, unit }, { today }, bind) => `${column.number} < ${bind(addToDay(today, -n, unit), 'bigint')}`,
    next: (fact, { n, unit }, moment) => nextStart(moment, firstDayBeyond(fact as Day, n, unit)),
  }),
  'more than ahead': operator<CalendarDuration>({
    takes: 'duration',
    prepare: calendarDuration,
    holds: (fact, { n, unit }, { today }) => (fact as Day) > addToDay(today, n, unit),
    sql: (column, { n, unit }, { today }, bind) => `${column.number} > ${bind(addToDay(today, n, unit), 'bigint')}`,
    next: (fact, { n, unit }, moment) => nextStart(moment, firstDayReaching(fact as Day, n, unit)),
  }),
  ...anniversaryOperators(false),
};
