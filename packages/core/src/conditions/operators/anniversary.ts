import { bad, good, type Checked } from '../../faults.ts';
import { type Fact } from '../../contacts/facts.ts';
import { type Moment } from '../../time/moment.ts';
import { anniversaryIn, calendarDate, localDay, monthDay, startOfDay, type Day } from '../../time/zone.ts';
import { operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type AnniversaryOperator = 'anniversary today' | 'anniversary in' | 'anniversary within the next' | 'anniversary within the last';

export const isAnniversary = (op: string): boolean => op.startsWith('anniversary');

/** As far ahead as the day is looked for on which the answer turns. */
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
function remembered(span: (n: number) => readonly [first: number, last: number]): (today: Day, n: number) => ReadonlySet<number> {
  const kept = new Map<string, ReadonlySet<number>>();
  return (today, n) => {
    const key = `${today} ${n}`;
    let codes = kept.get(key);
    if (!codes) {
      if (kept.size > 4_000) kept.clear();
      const [first, last] = span(n);
      kept.set(key, (codes = fallsWithin(today + first, today + last)));
    }
    return codes;
  };
}

const anniversary = (
  ofInstants: boolean,
  takes: 'nothing' | 'days',
  span: (n: number) => readonly [first: number, last: number],
): OperatorEntry => {
  const codes = remembered(span);
  const codeOf = (fact: Fact, zone: string): number => monthDay(ofInstants ? localDay(fact as number, zone) : (fact as number));
  return operator<number>({
    takes,
    prepare: takes === 'nothing' ? () => good(0) : days,
    holds: (fact, n, moment) => codes(moment.today, n).has(codeOf(fact, moment.zone)),
    sql: (column, n, moment, bind) => `${column.monthDay} = any(${bind([...codes(moment.today, n)], 'int[]')})`,
    next: (fact, n, moment) => nextTurn(codeOf(fact, moment.zone), span(n), moment),
  });
};

/**
 * The next day on which the answer turns. The anniversary falls on one day `o` of each year, and the answer is true from `o - last` to `o - first`,
 * so the days between need not be walked.
 */
function nextTurn(code: number, [first, last]: readonly [number, number], moment: Moment): number {
  const { today, zone } = moment;
  const latest = today + DAYS_LOOKED_AT;
  const date = { month: Math.floor(code / 100), day: code % 100 };
  const lastYear = calendarDate(latest + last).year;
  let trueUntil: Day | undefined;
  for (let year = calendarDate(today + first).year - 1; year <= lastYear; year += 1) {
    const falls = anniversaryIn(date, year);
    const [from, until] = [falls - last, falls - first];
    if (until < today) continue;
    if (from > (trueUntil ?? today - 1) + 1) return startOfDay(Math.min(trueUntil === undefined ? from : trueUntil + 1, latest), zone);
    trueUntil = until;
  }
  // What has not turned by then is true on every day, as within the next 366.
  return startOfDay(Math.min(trueUntil === undefined ? latest : trueUntil + 1, latest), zone);
}

/** Operators that go by month and day alone: the year takes no part. Today counts in "within the next" and in "within the last". */
export const anniversaryOperators = (ofInstants: boolean): Record<AnniversaryOperator, OperatorEntry> => ({
  'anniversary today': anniversary(ofInstants, 'nothing', () => [0, 0]),
  'anniversary in': anniversary(ofInstants, 'days', (n) => [n, n]),
  'anniversary within the next': anniversary(ofInstants, 'days', (n) => [0, n]),
  'anniversary within the last': anniversary(ofInstants, 'days', (n) => [-n, 0]),
});
