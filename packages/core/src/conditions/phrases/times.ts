import { type Window } from '../../time/window.ts';
import { addToDay, calendarDate, dayOf, localDay, readDay, weekOf, writeDay, type Day, type Instant, type Unit } from '../../time/zone.ts';
import { MONTHS, MULTIPLIERS, NUMBER_WORDS, WEEKDAYS } from './words/language.ts';
import { type Token } from './tokens.ts';

/** Something that was read, and how many tokens it took. */
export interface Read<T> {
  readonly value: T;
  readonly length: number;
}
/** When it is where the workspace is. Without it "since March" says nothing. */
export interface Today {
  readonly now: Instant;
  readonly zone: string;
}

export const word = (tokens: readonly Token[], at: number): string => tokens[at]?.word ?? '';

/** How many tokens of one of these runs of words stand here, the longest; 0 where none does. */
export function taken(tokens: readonly Token[], at: number, runs: readonly string[]): number {
  let longest = 0;
  for (const run of runs) {
    const words = run.split(' ');
    if (words.length > longest && words.every((each, index) => word(tokens, at + index) === each)) longest = words.length;
  }
  return longest;
}

/** `3`, `three`, `a`, `a couple of`, `half a` */
export function readAmount(tokens: readonly Token[], at: number): Read<number> | undefined {
  const token = tokens[at];
  if (!token) return undefined;
  const multiplier = MULTIPLIERS.get(word(tokens, at + 1));
  if (token.kind === 'number') return { value: (token.number ?? 0) * (multiplier ?? 1), length: multiplier === undefined ? 1 : 2 };
  let best: Read<number> | undefined;
  for (const [run, value] of [
    ['a couple of', 2],
    ['couple of', 2],
    ['half', 0.5],
    ['half a', 0.5],
    ['half of a', 0.5],
    ['one and a half', 1.5],
    ['couple', 2],
    ['a couple', 2],
    ['half an', 0.5],
    ['a half', 0.5],
    ['a dozen', 12],
    ['a hundred', 100],
    ['a thousand', 1000],
  ] as const) {
    const length = taken(tokens, at, [run]);
    if (length > (best?.length ?? 0)) best = { value, length };
  }
  if (best) return best;
  const number = NUMBER_WORDS.get(token.word);
  if (number !== undefined) return { value: number, length: 1 };
  return token.word === 'a' || token.word === 'an' ? { value: 1, length: 1 } : undefined;
}

const UNITS: Readonly<Record<string, readonly [unit: Unit, times: number]>> = {
  minute: ['minutes', 1],
  min: ['minutes', 1],
  hour: ['hours', 1],
  hr: ['hours', 1],
  h: ['hours', 1],
  day: ['days', 1],
  d: ['days', 1],
  week: ['weeks', 1],
  wk: ['weeks', 1],
  fortnight: ['weeks', 2],
  month: ['months', 1],
  mo: ['months', 1],
  quarter: ['months', 3],
  year: ['years', 1],
  decade: ['years', 10],
  yr: ['years', 1],
};
/** What half of a unit is. */
const HALVES: Partial<Record<Unit, readonly [number, Unit]>> = { years: [6, 'months'], days: [12, 'hours'], hours: [30, 'minutes'] };

export interface Span {
  readonly n: number;
  readonly unit: Unit;
}

/** `30 days`, `a fortnight`, `half a year`, `a year and a half`, `24h`; with `bare`, also `week` alone. */
export function readSpan(tokens: readonly Token[], at: number, bare = false): Read<Span> | undefined {
  const amount = readAmount(tokens, at);
  const unitAt = at + (amount?.length ?? 0);
  const unit = UNITS[word(tokens, unitAt)];
  if (!unit || (!amount && !bare)) return undefined;
  const andHalf = taken(tokens, unitAt + 1, ['and a half']);
  const n = ((amount?.value ?? 1) + (andHalf > 0 ? 0.5 : 0)) * unit[1];
  const length = unitAt + 1 + andHalf - at;
  if (Number.isInteger(n)) return { value: { n, unit: unit[0] }, length };
  const half = HALVES[unit[0]];
  if (half && Number.isInteger(n * 2)) return { value: { n: n * 2 * half[0], unit: half[1] }, length };
  return undefined;
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
  const weekday = WEEKDAYS.indexOf(token.word);
  // The latest one that has begun.
  if (weekday >= 0 && here !== undefined) return oneDay(here - ((here - weekOf(here) - weekday + 7) % 7), 1);
  if (isYear(token))
    return {
      value: { from: dayOf({ year: Number(token.text), month: 1, day: 1 }), to: dayOf({ year: Number(token.text) + 1, month: 1, day: 1 }) },
      length: 1,
    };
  return undefined;
}

/** The number of a day, with or without the letters of its rank: `5`, `5th` */
function dayOfMonth(tokens: readonly Token[], at: number): Read<number> | undefined {
  const day = tokens[at]?.kind === 'number' ? (tokens[at]?.number ?? 0) : 0;
  if (!Number.isInteger(day) || day < 1 || day > 31) return undefined;
  return { value: day, length: /^(st|nd|rd|th)$/.test(word(tokens, at + 1)) ? 2 : 1 };
}

const BEFORE_MONTH = /^(in|since|during|until|till|before|after|from|by|between|to|of|last|this)$/;

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

/** As people begin them: `in the last`, `over the past` */
const LAST = ['last', 'past', 'previous'].flatMap((word) => [
  word,
  ...['the', 'these', 'in', 'within', 'over', 'during'].map((how) => `${how} ${word}`),
  ...['in', 'within', 'over', 'during', 'for', 'inside'].map((how) => `${how} the ${word}`),
]);
const EVER = ['ever', 'at any time', 'at all', 'at some point', 'in their life', 'of all time', 'all time', 'at some time'];
const BETWEEN = ['between', 'from', 'in between'];
const SINCE = ['since', 'after', 'from', 'starting', 'starting in', 'beginning', 'as of', 'since the', 'from the', 'after the'];
const UNTIL = ['until', 'till', 'before', 'up to', 'to', 'by', 'up until', 'up to and including', 'before the', 'through'];
const AGO = ['ago', 'back', 'earlier'];
const LESS_THAN = [
  'less than',
  'under',
  'not more than',
  'no more than',
  'at most',
  'within',
  'fewer than',
  'up to',
  'not longer than',
  'no longer than',
  'not even',
];
const MORE_THAN = ['more than', 'over', 'longer than', 'at least', 'older than', 'longer ago than', 'above'];

const FOR_MORE_THAN = MORE_THAN.map((run) => `for ${run}`);
const FOR_LESS_THAN = LESS_THAN.map((run) => `for ${run}`);

/** A span with one of these runs of words before it: `for more than 3 months` */
function spanBehind(tokens: readonly Token[], at: number, runs: readonly string[]): Read<Span> | undefined {
  const said = taken(tokens, at, runs);
  const span = said > 0 ? readSpan(tokens, at + said) : undefined;
  return span && { value: span.value, length: said + span.length };
}

/** A window, and whether its words would do for what is still to come as well: `in 7 days`. */
export interface ReadWindow {
  readonly window: Window;
  readonly isOpen?: true;
}

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

/** When something was: `in the last 30 days`, `since March`, `more than a year ago`, `between 1 May 2026 and 31 May 2026`, `today`, `ever` */
export function readWindow(tokens: readonly Token[], at: number, today: Today | undefined): Read<ReadWindow> | undefined {
  const made = (window: Window, length: number): Read<ReadWindow> => ({ value: { window }, length });
  const here = today && localDay(today.now, today.zone);
  const ofDay = (day: Day, length: number): Read<ReadWindow> => made({ from: writeDay(day), to: writeDay(day + 1) }, length);
  if (taken(tokens, at, ['today'])) return made({ last: 0, unit: 'days' }, 1);
  if (taken(tokens, at, ['yesterday']) && here !== undefined) return ofDay(here - 1, 1);
  const ever = taken(tokens, at, EVER);
  if (ever) return made('ever', ever);
  // For so long, and longer: since before then.
  const long = spanBehind(tokens, at, FOR_MORE_THAN);
  if (long) return made({ olderThan: long.value.n, unit: long.value.unit }, long.length);
  const short = spanBehind(tokens, at, FOR_LESS_THAN);
  if (short) return made({ last: short.value.n, unit: short.value.unit }, short.length);
  const more = taken(tokens, at, MORE_THAN);
  const old = readSpan(tokens, at + more);
  const ago = old ? taken(tokens, at + more + old.length, AGO) : 0;
  if (old && ago > 0) {
    const length = more + old.length + ago;
    if (more > 0) return made({ olderThan: old.value.n, unit: old.value.unit }, length);
    // So many days ago is that day; what so many months ago means, nobody can say to the day.
    return old.value.unit === 'days' && here !== undefined ? ofDay(here - old.value.n, length) : undefined;
  }
  const recent = spanBehind(tokens, at, LESS_THAN);
  const since = recent ? taken(tokens, at + recent.length, AGO) : 0;
  if (recent && since > 0) return made({ last: recent.value.n, unit: recent.value.unit }, recent.length + since);
  const last = taken(tokens, at, LAST);
  const span = last > 0 ? readSpan(tokens, at + last, true) : undefined;
  if (span) return made({ last: span.value.n, unit: span.value.unit }, last + span.length);
  const isThis = taken(tokens, at, ['this', 'in this', 'during this', 'so far this']);
  const period = isThis > 0 && here !== undefined ? THIS[word(tokens, at + isThis)]?.(here) : undefined;
  if (period) return made({ from: writeDay(period.from), to: writeDay(period.to) }, isThis + 1);
  const rate = at > 0 && isCounted(tokens[at - 1]) ? taken(tokens, at, ['a', 'an', 'per', 'each', 'every']) : 0;
  const each = rate > 0 ? UNITS[word(tokens, at + rate)] : undefined;
  // So many a year are so many in the last year.
  if (each) return made({ last: each[1], unit: each[0] }, rate + 1);
  const open = taken(tokens, at, ['for', 'in', 'within', 'during', 'inside', 'inside of']);
  const during = open > 0 ? readSpan(tokens, at + open) : undefined;
  if (during) return { value: { window: { last: during.value.n, unit: during.value.unit }, isOpen: true }, length: open + during.length };
  return readBounds(tokens, at, today);
}

/** Whether it is a number, or what a number counts: `3 times`, `5,000 SEK` */
const isCounted = (token: Token | undefined): boolean =>
  token?.kind === 'number' ||
  NUMBER_WORDS.has(token?.word ?? '') ||
  /^(once|twice|time|sek|eur|usd|gbp|kr|kronor|euro|dollar)$/.test(token?.word ?? '');

/** From a day, until one, or both. */
function readBounds(tokens: readonly Token[], at: number, today: Today | undefined): Read<ReadWindow> | undefined {
  const made = (window: Window, length: number): Read<ReadWindow> => ({ value: { window }, length });
  const between = taken(tokens, at, BETWEEN);
  const low = between > 0 ? readPeriod(tokens, at + between, today) : undefined;
  const joint = low
    ? taken(tokens, at + between + low.length, ['and', 'to', 'until', 'till', 'up to', 'up to and including', '-', '–', 'through'])
    : 0;
  const high = low && joint > 0 ? readPeriod(tokens, at + between + low.length + joint, today) : undefined;
  // `between 1 and 15 November`: the month is said once.
  const day = between > 0 && !low ? tokens[at + between] : undefined;
  const till = day?.kind === 'number' ? taken(tokens, at + between + 1, ['and', 'to', 'until', 'till', 'up to', '-', '–', 'through']) : 0;
  const last = till > 0 ? readPeriod(tokens, at + between + 1 + till, today) : undefined;
  if (day && last && last.value.to - last.value.from === 1) {
    const { year, month } = calendarDate(last.value.from);
    const from = dayOf({ year, month, day: day.number ?? 0 });
    if (from <= last.value.from) return made({ from: writeDay(from), to: writeDay(last.value.to) }, between + 1 + till + last.length);
  }
  if (low && high) return made({ from: writeDay(low.value.from), to: writeDay(high.value.to) }, between + low.length + joint + high.length);
  const since = taken(tokens, at, SINCE);
  const edge = since > 0 && today ? readEdge(tokens, at + since, today) : undefined;
  if (edge) return made({ from: writeDay(word(tokens, at) === 'after' ? edge.value + 1 : edge.value) }, since + edge.length);
  const back = since > 0 ? taken(tokens, at + since, ['last', 'the last', 'previous']) : 0;
  const period = back > 0 && today ? THIS[word(tokens, at + since + back)] : undefined;
  // Since last year is since it began.
  if (period && today) {
    const begun = period(localDay(today.now, today.zone)).from;
    return made({ from: writeDay(period(begun - 1).from) }, since + back + 1);
  }
  if (since > 0 && today && word(tokens, at) !== 'after' && /^(yesterday|today)$/.test(word(tokens, at + since)))
    return made({ from: writeDay(localDay(today.now, today.zone) - (word(tokens, at + since) === 'today' ? 0 : 1)) }, since + 1);
  const from = since > 0 ? readPeriod(tokens, at + since, today) : undefined;
  if (from) return made({ from: writeDay(word(tokens, at) === 'after' ? from.value.to : from.value.from) }, since + from.length);
  const until = taken(tokens, at, UNTIL);
  const to = until > 0 ? readPeriod(tokens, at + until, today) : undefined;
  if (to) return made({ to: writeDay(word(tokens, at) === 'before' ? to.value.from : to.value.to) }, until + to.length);
  const on = taken(tokens, at, ['in', 'during', 'on', 'within', 'in the year']);
  const then = on > 0 ? readPeriod(tokens, at + on, today) : undefined;
  return then && made({ from: writeDay(then.value.from), to: writeDay(then.value.to) }, on + then.length);
}

const NEXT = [
  ...['next', 'coming'].flatMap((word) => [
    word,
    `the ${word}`,
    `in ${word}`,
    ...['in', 'within', 'over', 'during'].map((how) => `${how} the ${word}`),
  ]),
  'coming up in',
  'coming up within',
];

/** What is still to come: `in the next 7 days`, `next week` */
export function readNext(tokens: readonly Token[], at: number): Read<Span> | undefined {
  const next = taken(tokens, at, NEXT);
  const span = next > 0 ? readSpan(tokens, at + next, true) : undefined;
  return span && { value: span.value, length: next + span.length };
}
