import { bad, good, type Checked } from '../../faults.ts';
import { type Fact } from '../../contacts/facts.ts';
import { type Moment } from '../../time/moment.ts';
import { calendarDate, localDay, monthDay, startOfDay, type Day } from '../../time/zone.ts';
import { operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type AnniversaryOperator = 'anniversary today' | 'anniversary in' | 'anniversary within the next' | 'anniversary within the last';

export const isAnniversary = (op: string): boolean => op.startsWith('anniversary');

/** Looked ahead for the day on which the answer turns; within a common and a leap year every anniversary has come round. */
const DAYS_LOOKED_AT = 800;
const MOST_DAYS = 366;

function days(value: unknown, context: ValueContext): Checked<number> {
  const given = value as { n?: unknown; unit?: unknown } | null;
  const n = typeof given === 'object' && given !== null ? given.n : undefined;
  const unit = given?.unit;
  if (!Number.isInteger(n) || (n as number) < 0 || (n as number) > MOST_DAYS || (unit !== undefined && unit !== 'days'))
    return bad({ path: context.path, code: 'value.days', expected: `a number of days up to ${MOST_DAYS}, as { "n": 7 }` });
  return good(n as number);
}

/**
 * The months and days, as month × 100 + day, whose anniversary falls on a day. 29 February falls on 28 February in common years.
 */
function fallsOn(day: Day): readonly number[] {
  const date = calendarDate(day);
  const code = date.month * 100 + date.day;
  const common = code === 228 && calendarDate(day + 1).month === 3;
  return common ? [228, 229] : [code];
}

/** What falls on any of the days from `first` to `last`, both in. */
function fallsWithin(first: Day, last: Day): ReadonlySet<number> {
  const codes = new Set<number>();
  for (let day = first; day <= last; day += 1) for (const code of fallsOn(day)) codes.add(code);
  return codes;
}

/** One set of anniversaries for each day on which it is asked; the whole list of contacts asks on the same one. */
function remembered(span: (today: Day, n: number) => readonly [Day, Day]): (today: Day, n: number) => ReadonlySet<number> {
  const kept = new Map<string, ReadonlySet<number>>();
  return (today, n) => {
    const key = `${today} ${n}`;
    let codes = kept.get(key);
    if (!codes) {
      if (kept.size > 4_000) kept.clear();
      kept.set(key, (codes = fallsWithin(...span(today, n))));
    }
    return codes;
  };
}

const anniversary = (
  ofInstants: boolean,
  takes: 'nothing' | 'days',
  span: (today: Day, n: number) => readonly [Day, Day],
): OperatorEntry => {
  const codes = remembered(span);
  const codeOf = (fact: Fact, zone: string): number => monthDay(ofInstants ? localDay(fact as number, zone) : (fact as number));
  return operator<number>({
    takes,
    prepare: takes === 'nothing' ? () => good(0) : days,
    holds: (fact, n, moment) => codes(moment.today, n).has(codeOf(fact, moment.zone)),
    sql: (column, n, moment, bind) => `${column.monthDay} = any(${bind([...codes(moment.today, n)], 'int[]')})`,
    next: (fact, n, moment) => nextTurn(codeOf(fact, moment.zone), (today) => codes(today, n), moment),
  });
};

function nextTurn(code: number, codes: (today: Day) => ReadonlySet<number>, moment: Moment): number {
  const now = codes(moment.today).has(code);
  for (let day = moment.today + 1; day <= moment.today + DAYS_LOOKED_AT; day += 1)
    if (codes(day).has(code) !== now) return startOfDay(day, moment.zone);
  // 29 February is not passed over: it falls on the 28th. So what has not turned by now is true, or false, on every day.
  return startOfDay(moment.today + DAYS_LOOKED_AT, moment.zone);
}

/** Operators that go by month and day alone: the year takes no part. Today counts in "within the next" and in "within the last". */
export const anniversaryOperators = (ofInstants: boolean): Record<AnniversaryOperator, OperatorEntry> => ({
  'anniversary today': anniversary(ofInstants, 'nothing', (today) => [today, today]),
  'anniversary in': anniversary(ofInstants, 'days', (today, n) => [today + n, today + n]),
  'anniversary within the next': anniversary(ofInstants, 'days', (today, n) => [today, today + n]),
  'anniversary within the last': anniversary(ofInstants, 'days', (today, n) => [today - n, today]),
});
