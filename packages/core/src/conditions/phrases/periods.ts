import { addToDay, calendarDate, dayOf, localDay, readDay, weekOf, type Day, type Instant } from '../../time/zone.ts';
import { taken, word, type Read } from './amounts.ts';
import { type Token } from './tokens.ts';
import { MONTHS, WEEKDAYS } from './words/language.ts';

/** When it is where the workspace is. Without it "since March" says nothing. */
export interface Today {
  readonly now: Instant;
  readonly zone: string;
}

/** Days from the first to before the last. */
export interface Period {
  readonly from: Day;
  readonly to: Day;
}
const monthPeriod = (year: number, month: number): Period => {
  const from = dayOf({ year, month, day: 1 });
  return { from, to: addToDay(from, 1, 'months') };
};
const monthNumber = (text: string): number =>
  text.length < 3 ? 0 : MONTHS.findIndex((month) => month === text || (text.length <= 4 && month.startsWith(text))) + 1;
const isYear = (token: Token | undefined): boolean => token?.kind === 'number' && /^(19|20)\d\d$/.test(token.text);

/** A day, a month or a year, in the usual writings. */
export function readPeriod(tokens: readonly Token[], at: number, today: Today | undefined): Read<Period> | undefined {
  const token = tokens[at];
  if (!token) return undefined;
  const oneDay = (day: Day | undefined, length: number): Read<Period> | undefined =>
    day === undefined ? undefined : { value: { from: day, to: day + 1 }, length };
  if (token.kind === 'date' || token.kind === 'quoted') {
    const [, first = '', second = '', year = ''] = /^(\d{1,2})[/.](\d{1,2})[/.](\d{4})$/.exec(token.text) ?? [];
    return oneDay(readDay(year ? `${year}-${second.padStart(2, '0')}-${first.padStart(2, '0')}` : token.text), 1);
  }
  const here = today && localDay(today.now, today.zone);
  const thisYear = here === undefined ? undefined : calendarDate(here).year;
  /** A day or month of which the year is left out is the latest that has begun. */
  const inYear = (make: (year: number) => Period): Period | undefined => {
    if (thisYear === undefined || here === undefined) return undefined;
    const period = make(thisYear);
    return period.from > here ? make(thisYear - 1) : period;
  };
  const ordinal = token.kind === 'number' && /^(st|nd|rd|th)$/.test(word(tokens, at + 1)) ? 1 : 0;
  const month = monthNumber(token.word);
  const nextMonth = token.kind === 'number' ? monthNumber(word(tokens, at + 1 + ordinal)) : 0;
  if (nextMonth > 0 && (token.number ?? 0) <= 31) {
    const day = token.number ?? 1;
    const year = tokens[at + 2 + ordinal];
    if (isYear(year)) return oneDay(dayOf({ year: Number(year?.text), month: nextMonth, day }), 3 + ordinal);
    const period = inYear((each) => ({
      from: dayOf({ year: each, month: nextMonth, day }),
      to: dayOf({ year: each, month: nextMonth, day }) + 1,
    }));
    return period && { value: period, length: 2 + ordinal };
  }
  // Who may be written to is not in May, but since May is.
  const isMonth = month > 0 && (token.word !== 'may' || isYear(tokens[at + 1]) || BEFORE_MONTH.test(word(tokens, at - 1)));
  const dayBehind = month > 0 ? dayOfMonth(tokens, at + 1) : undefined;
  const yearAt = at + 1 + (dayBehind ? dayBehind.length + (word(tokens, at + 1 + dayBehind.length) === ',' ? 1 : 0) : 0);
  if (dayBehind && isYear(tokens[yearAt]))
    return oneDay(dayOf({ year: Number(tokens[yearAt]?.text), month, day: dayBehind.value }), yearAt + 1 - at);
  if (isMonth) {
    if (isYear(tokens[at + 1])) return { value: monthPeriod(Number(tokens[at + 1]?.text), month), length: 2 };
    // `since March 5`, but not `since March 5 times`
    if (dayBehind && !/^(time|x|×|or|and|\+|order|visit|more)$/.test(word(tokens, at + 1 + dayBehind.length))) {
      const from = (year: number): Day => dayOf({ year, month, day: dayBehind.value });
      const period = inYear((year) => ({ from: from(year), to: from(year) + 1 }));
      return period && { value: period, length: 1 + dayBehind.length };
    }
    const period = inYear((year) => monthPeriod(year, month));
    return period && { value: period, length: 1 };
  }
  const part = partOfYear(tokens, at);
  if (part) {
    const from = (year: number): Day => dayOf({ year, month: part.value.month, day: 1 });
    const make = (year: number): Period => ({ from: from(year), to: addToDay(from(year), part.value.months, 'months') });
    const year = tokens[at + part.length];
    const of = isYear(year) ? 0 : word(tokens, at + part.length) === 'of' && isYear(tokens[at + part.length + 1]) ? 1 : undefined;
    if (of !== undefined) return { value: make(Number(tokens[at + part.length + of]?.text)), length: part.length + of + 1 };
    const ofThis = taken(tokens, at + part.length, ['of this year', 'this year', 'of the year']);
    const period = ofThis > 0 && thisYear !== undefined ? make(thisYear) : inYear(make);
    return period && { value: period, length: part.length + ofThis };
  }
  const weekday = WEEKDAYS.indexOf(token.word);
  // The latest one that has begun. `on Sundays` is each of them.
  if (weekday >= 0 && !/s$/i.test(token.text) && here !== undefined) return oneDay(here - ((here - weekOf(here) - weekday + 7) % 7), 1);
  const decade = decadeAt(tokens, at);
  if (decade) return decade;
  if (isYear(token))
    return {
      value: { from: dayOf({ year: Number(token.text), month: 1, day: 1 }), to: dayOf({ year: Number(token.text) + 1, month: 1, day: 1 }) },
      length: 1,
    };
  return undefined;
}

/** Ten years: `the 80s`, `1980s`, `the eighties`. Of those that begin a century nobody can say which are meant. */
function decadeAt(tokens: readonly Token[], at: number): Read<Period> | undefined {
  const the = word(tokens, at) === 'the' ? 1 : 0;
  const token = tokens[at + the];
  const behind = tokens[at + the + 1];
  const isNumber = token?.kind === 'number' && behind?.word === 's' && behind.from === token.to;
  const said = isNumber ? (token.number ?? 0) : 10 * (DECADES.indexOf(token?.text.toLowerCase() ?? '') + 3);
  const year = said < 100 && said > 20 ? 1900 + said : said;
  if (year % 10 !== 0 || year < 1900 || year > 2090) return undefined;
  const from = (each: number): Day => dayOf({ year: each, month: 1, day: 1 });
  return { value: { from: from(year), to: from(year + 10) }, length: the + (isNumber ? 2 : 1) };
}
const DECADES = ['thirties', 'forties', 'fifties', 'sixties', 'seventies', 'eighties', 'nineties'];

/** The number of a day, with or without the letters of its rank: `5`, `5th` */
function dayOfMonth(tokens: readonly Token[], at: number): Read<number> | undefined {
  const day = tokens[at]?.kind === 'number' ? (tokens[at]?.number ?? 0) : 0;
  if (!Number.isInteger(day) || day < 1 || day > 31) return undefined;
  return { value: day, length: /^(st|nd|rd|th)$/.test(word(tokens, at + 1)) ? 2 : 1 };
}

const RANKS = ['first', 'second', 'third', 'fourth'];
/** `Q1`, `the second quarter`, `first half`: with which month it begins, and how many it has. */
function partOfYear(tokens: readonly Token[], at: number): Read<{ readonly month: number; readonly months: number }> | undefined {
  const [quarter, number] = [/^q([1-4])$/.exec(word(tokens, at))?.[1], tokens[at + 1]?.number];
  if (quarter !== undefined) return { value: { month: 3 * Number(quarter) - 2, months: 3 }, length: 1 };
  if (word(tokens, at) === 'q' && number !== undefined && [1, 2, 3, 4].includes(number))
    return { value: { month: 3 * number - 2, months: 3 }, length: 2 };
  const the = word(tokens, at) === 'the' ? 1 : 0;
  const rank = RANKS.indexOf(word(tokens, at + the));
  const what = word(tokens, at + the + 1);
  if (rank < 0) return undefined;
  if (what === 'quarter') return { value: { month: 3 * rank + 1, months: 3 }, length: the + 2 };
  return what === 'half' && rank < 2 ? { value: { month: 6 * rank + 1, months: 6 }, length: the + 2 } : undefined;
}

const BEFORE_MONTH = /^(in|since|during|until|till|before|after|from|by|between|and|through|to|of|last|this)$/;

const quarterPeriod = (day: Day): Period => {
  const { year, month } = calendarDate(day);
  const from = dayOf({ year, month: month - ((month - 1) % 3), day: 1 });
  return { from, to: addToDay(from, 3, 'months') };
};

const THIS: Readonly<Record<string, (day: Day) => Period>> = {
  week: (day) => ({ from: weekOf(day), to: weekOf(day) + 7 }),
  month: (day) => monthPeriod(calendarDate(day).year, calendarDate(day).month),
  quarter: quarterPeriod,
  year: (day) => ({
    from: dayOf({ year: calendarDate(day).year, month: 1, day: 1 }),
    to: dayOf({ year: calendarDate(day).year + 1, month: 1, day: 1 }),
  }),
};

/** The week, month, quarter or year of the calendar in which a day is. */
export const calendarPeriod = (unit: string, day: Day): Period | undefined => THIS[unit]?.(day);

const FIRST = ['start of', 'the start of', 'beginning of', 'the beginning of', 'first day of', 'the first day of'];
const LAST_DAY = ['end of', 'the end of', 'last day of', 'the last day of'];
/** How many weeks, months or years away from this one. */
const AWAY: readonly (readonly [number, readonly string[]])[] = [
  [0, ['this', 'the', 'this current']],
  [-1, ['last', 'the last', 'previous', 'the previous']],
  [1, ['next', 'the next', 'the coming']],
];

/** The first or the last day of a time of the calendar: `start of this month`, `end of last year`, `end of May` */
export function readEdge(tokens: readonly Token[], at: number, today: Today): Read<Day> | undefined {
  const first = taken(tokens, at, FIRST);
  const last = taken(tokens, at, LAST_DAY);
  const begin = at + first + last;
  if (begin === at) return undefined;
  const period = periodAway(tokens, begin, localDay(today.now, today.zone)) ?? readPeriod(tokens, begin, today);
  return period && { value: first > 0 ? period.value.from : period.value.to - 1, length: begin + period.length - at };
}

function periodAway(tokens: readonly Token[], at: number, here: Day): Read<Period> | undefined {
  for (const [away, words] of AWAY) {
    const length = taken(tokens, at, words);
    const unit = word(tokens, at + length);
    const own = length > 0 ? calendarPeriod(unit, here) : undefined;
    const value = own && (away === 0 ? own : calendarPeriod(unit, away < 0 ? own.from - 1 : own.to));
    if (value) return { value, length: length + 1 };
  }
  return undefined;
}
