import { type Moment } from '../../time/moment.ts';
import { boundsAt, type PreparedWindow } from '../../time/window.ts';
import { EARLIEST_INSTANT, LATEST_INSTANT, type Instant } from '../../time/zone.ts';
import { type ValueTest } from '../operators/index.ts';
import { type Bind, type Column } from '../operators/operator.ts';

/** The row that a condition is about: a contact or a company, under an alias. */
export interface Row {
  readonly alias: string;
  readonly kind: 'contact' | 'company';
}

/** What all parts of a statement share while it is written. */
export interface SqlContext {
  readonly bind: Bind;
  readonly moment: Moment;
  readonly row: Row;
}

/** An instant as a parameter, clamped to the range that the database can hold. */
export const instantSql = ({ bind }: Pick<SqlContext, 'bind'>, instant: Instant): string =>
  bind(new Date(Math.min(LATEST_INSTANT, Math.max(EARLIEST_INSTANT, instant))).toISOString(), 'timestamptz');

/** Whether a stored time lies in a window. */
export function windowSql(context: SqlContext, window: PreparedWindow, column: string): string {
  const { from, to } = boundsAt(window, context.moment);
  const first = window.kind === 'ever' || window.kind === 'olderThan' ? '' : `${column} >= ${instantSql(context, from)} and `;
  return `${first}${column} <= ${instantSql(context, to)}`;
}

/** A test on a value that is null when empty; the result is never null. */
export function testSql(context: Pick<SqlContext, 'bind' | 'moment'>, test: ValueTest, column: Column): string {
  if (test.ask !== 'operator') return `(${column.text} is ${test.ask === 'empty' ? '' : 'not '}null)`;
  const positive = `coalesce(${test.positive.sql(column, test.operand, context.moment, context.bind)}, false)`;
  return test.negated ? `(not ${positive})` : positive;
}

/** A number, or a calendar day counted from 1970-01-01, under one expression. */
export const numberColumn = (expression: string): Column => ({
  text: expression,
  words: expression,
  number: `(${expression})`,
  keys: expression,
  monthDay: `(extract(month from date '1970-01-01' + (${expression})::int) * 100 + extract(day from date '1970-01-01' + (${expression})::int))::int`,
});

/** Whether zero passes a test on a number. */
export const zeroPasses = (test: ValueTest, moment: Moment): boolean =>
  test.ask === 'operator' && test.positive.holds(0, test.operand, moment) !== test.negated;

/**
 * A test on an aggregate of rows grouped by the subject.
 *
 * Where zero passes, those without any such row are in no group: then the groups that do not pass are left out instead.
 *
 * @param having the test, or its opposite, over a group
 */
export function groupedSql(context: SqlContext, test: ValueTest, column: Column, groups: (having: string) => string): string {
  const passing = testSql(context, test, column);
  const within = (having: string): string => `${context.row.alias}.id in (${groups(having)})`;
  return zeroPasses(test, context.moment) ? `(not ${within(`not ${passing}`)})` : within(passing);
}
