import { type Window } from '../../time/window.ts';
import { addToDay, calendarDate, dayOf, localDay, readDay, weekOf, writeDay, type Day, type Instant, type Unit } from '../../time/zone.ts';
import { type NumberOp } from '../schema.ts';
import { MONTHS, MULTIPLIERS, NUMBER_WORDS } from './synonyms.ts';
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

const word = (tokens: readonly Token[], at: number): string => tokens[at]?.word ?? '';

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
  const multiplier = Object.hasOwn(MULTIPLIERS, word(tokens, at + 1)) ? MULTIPLIERS[word(tokens, at + 1)] : undefined;
  if (token.kind === 'number') return { value: (token.number ?? 0) * (multiplier ?? 1), length: multiplier === undefined ? 1 : 2 };
  for (const [run, value] of [
    ['a couple of', 2],
    ['couple of', 2],
    ['half a', 0.5],
    ['half an', 0.5],
    ['a half', 0.5],
    ['a dozen', 12],
    ['a hundred', 100],
    ['a thousand', 1000],
  ] as const) {
    const length = taken(tokens, at, [run]);
    if (length > 0) return { value, length };
  }
  if (Object.hasOwn(NUMBER_WORDS, token.word)) return { value: NUMBER_WORDS[token.word] ?? 0, length: 1 };
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
  night: ['days', 1],
  week: ['weeks', 1],
  wk: ['weeks', 1],
  fortnight: ['weeks', 2],
  month: ['months', 1],
  mo: ['months', 1],
  quarter: ['months', 3],
  year: ['years', 1],
  yr: ['years', 1],
};
/** What half of a unit is. */
const HALVES: Partial<Record<Unit, readonly [number, Unit]>> = {
  years: [6, 'months'],
  hours: [30, 'minutes'],
  days: [12, 'hours'],
  months: [15, 'days'],
  weeks: [3, 'days'],
};

export interface Span {
  readonly n: number;
  readonly unit: Unit;
}

/** `30 days`, `a fortnight`, `half a year`, `24h`; with `bare`, also `week` alone. */
export function readSpan(tokens: readonly Token[], at: number, bare = false): Read<Span> | undefined {
  const amount = readAmount(tokens, at);
  const unitAt = at + (amount?.length ?? 0);
  const unit = UNITS[word(tokens, unitAt)];
  if (!unit || (!amount && !bare)) return undefined;
  const n = (amount?.value ?? 1) * unit[1];
  const length = unitAt + 1 - at;
  if (Number.isInteger(n)) return { value: { n, unit: unit[0] }, length };
  const half = HALVES[unit[0]];
  if (half && Number.isInteger(n * 2)) return { value: { n: n * 2 * half[0], unit: half[1] }, length };
  return undefined;
}

/** Days from the first to before the last. */
interface Period {
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
  if (month > 0 && !(token.word === 'may' && !isYear(tokens[at + 1]))) {
    const next = tokens[at + 1];
    if (isYear(next)) return { value: monthPeriod(Number(next?.text), month), length: 2 };
    if (next?.kind === 'number' && (next.number ?? 99) <= 31) {
      const comma = word(tokens, at + 2) === ',' ? 1 : 0;
      const year = tokens[at + 2 + comma];
      if (isYear(year)) return oneDay(dayOf({ year: Number(year?.text), month, day: next.number ?? 1 }), 3 + comma);
    }
    const period = inYear((year) => monthPeriod(year, month));
    return period && { value: period, length: 1 };
  }
  if (isYear(token))
    return {
      value: { from: dayOf({ year: Number(token.text), month: 1, day: 1 }), to: dayOf({ year: Number(token.text) + 1, month: 1, day: 1 }) },
      length: 1,
    };
  return undefined;
}

const THIS: Readonly<Record<string, (day: Day) => Period>> = {
  week: (day) => ({ from: weekOf(day), to: weekOf(day) + 7 }),
  month: (day) => monthPeriod(calendarDate(day).year, calendarDate(day).month),
  year: (day) => ({
    from: dayOf({ year: calendarDate(day).year, month: 1, day: 1 }),
    to: dayOf({ year: calendarDate(day).year + 1, month: 1, day: 1 }),
  }),
};

const LAST = [
  'in the last',
  'in last',
  'within the last',
  'within last',
  'over the last',
  'over last',
  'during the last',
  'during last',
  'for the last',
  'the last',
  'last',
  'in the past',
  'within the past',
  'over the past',
  'during the past',
  'for the past',
  'the past',
  'past',
  'in the previous',
  'the previous',
  'inside the last',
  'these last',
];
const SINCE = ['since', 'after', 'from', 'starting', 'starting in', 'beginning', 'as of', 'since the', 'from the', 'after the'];
const UNTIL = ['until', 'till', 'before', 'up to', 'to', 'by', 'up until', 'before the', 'through'];
const AGO = ['ago', 'back', 'earlier'];
const MORE_THAN = ['more than', 'over', 'longer than', 'at least', 'older than', 'longer ago than', 'above'];

/** When something was: `in the last 30 days`, `since March`, `more than a year ago`, `between 1 May 2026 and 31 May 2026`, `today`, `ever` */
export function readWindow(tokens: readonly Token[], at: number, today: Today | undefined): Read<Window> | undefined {
  const made = (value: Window, length: number): Read<Window> => ({ value, length });
  if (taken(tokens, at, ['today', 'to-day'])) return made({ last: 0, unit: 'days' }, 1);
  if (taken(tokens, at, ['yesterday'])) return made({ last: 1, unit: 'days' }, 1);
  const ever = taken(tokens, at, [
    'ever',
    'at any time',
    'at all',
    'at some point',
    'in their life',
    'of all time',
    'all time',
    'at some time',
  ]);
  if (ever) return made('ever', ever);
  // For so long, and longer: since before then.
  const longer = taken(
    tokens,
    at,
    MORE_THAN.map((run) => `for ${run}`),
  );
  const long = longer > 0 ? readSpan(tokens, at + longer) : undefined;
  if (long) return made({ olderThan: long.value.n, unit: long.value.unit }, longer + long.length);
  const more = taken(tokens, at, MORE_THAN);
  const old = readSpan(tokens, at + more);
  const ago = old ? taken(tokens, at + more + old.length, AGO) : 0;
  if (old && ago > 0) {
    const length = more + old.length + ago;
    return more > 0
      ? made({ olderThan: old.value.n, unit: old.value.unit }, length)
      : made({ last: old.value.n, unit: old.value.unit }, length);
  }
  const last = taken(tokens, at, LAST);
  if (last > 0) {
    const span = readSpan(tokens, at + last, true);
    if (span) return made({ last: span.value.n, unit: span.value.unit }, last + span.length);
  }
  const here = today && localDay(today.now, today.zone);
  const isThis = taken(tokens, at, ['this', 'in this', 'during this', 'so far this']);
  const period = isThis > 0 && here !== undefined ? THIS[word(tokens, at + isThis)]?.(here) : undefined;
  if (period) return made({ from: writeDay(period.from), to: writeDay(period.to) }, isThis + 1);
  for (const run of ['for', 'in', 'within', 'during']) {
    const span = taken(tokens, at, [run]) ? readSpan(tokens, at + 1) : undefined;
    if (span) return made({ last: span.value.n, unit: span.value.unit }, 1 + span.length);
  }
  const between = taken(tokens, at, ['between', 'from', 'in between']);
  if (between > 0) {
    const low = readPeriod(tokens, at + between, today);
    const joint = low ? taken(tokens, at + between + low.length, ['and', 'to', 'until', 'till', '-', '–', 'through']) : 0;
    const high = low && joint > 0 ? readPeriod(tokens, at + between + low.length + joint, today) : undefined;
    if (low && high)
      return made({ from: writeDay(low.value.from), to: writeDay(high.value.to) }, between + low.length + joint + high.length);
  }
  const since = taken(tokens, at, SINCE);
  if (since > 0) {
    const from = readPeriod(tokens, at + since, today);
    const isAfter = word(tokens, at) === 'after';
    if (from) return made({ from: writeDay(isAfter ? from.value.to : from.value.from) }, since + from.length);
  }
  const until = taken(tokens, at, UNTIL);
  if (until > 0) {
    const to = readPeriod(tokens, at + until, today);
    const isBefore = word(tokens, at) === 'before';
    if (to) return made({ to: writeDay(isBefore ? to.value.from : to.value.to) }, until + to.length);
  }
  const during = taken(tokens, at, ['in', 'during', 'on', 'within', 'in the year']);
  const then = during > 0 ? readPeriod(tokens, at + during, today) : undefined;
  if (then) return made({ from: writeDay(then.value.from), to: writeDay(then.value.to) }, during + then.length);
  return undefined;
}

export interface Limit {
  readonly op: NumberOp;
  readonly value: number | [number, number];
  /** what the number counts, where that is said */
  readonly of?: 'times' | 'days' | 'money' | undefined;
  /** whether how it compares was said: a bare number is taken as the place where it stands suggests */
  readonly isSaid: boolean;
}

const COMPARED: readonly (readonly [NumberOp, readonly string[]])[] = [
  [
    '>=',
    [
      'at least',
      'no less than',
      'not less than',
      'no fewer than',
      'not fewer than',
      'minimum',
      'a minimum of',
      'minimum of',
      'min',
      '>=',
      '≥',
      'from',
      'is at least',
      'not under',
      'not below',
      'no under',
      '= >',
    ],
  ],
  [
    '>',
    [
      'more than',
      'over',
      'above',
      'exceeding',
      'greater than',
      'higher than',
      'bigger than',
      'larger than',
      'upwards of',
      '>',
      'beyond',
      'exceed',
      'in excess of',
    ],
  ],
  [
    '<=',
    [
      'at most',
      'up to',
      'no more than',
      'not more than',
      'maximum',
      'a maximum of',
      'maximum of',
      'max',
      '<=',
      '≤',
      'not over',
      'not above',
      '= <',
    ],
  ],
  ['<', ['less than', 'under', 'below', 'fewer than', 'lower than', 'smaller than', '<']],
  ['!=', ['not exactly', 'not equal to', '!=', '≠', '<>', 'other than', 'anything but']],
  ['=', ['exactly', 'equal to', 'equal', '=', 'precisely', 'only', 'just']],
];
const AFTER: readonly (readonly [NumberOp, readonly string[]])[] = [
  [
    '>=',
    [
      'or more',
      'and more',
      'and up',
      'or above',
      'and above',
      'or over',
      'and over',
      'upwards',
      '+',
      'or higher',
      'or better',
      'at least',
      'minimum',
    ],
  ],
  ['<=', ['or less', 'or fewer', 'or below', 'and below', 'or under', 'and under', 'at most', 'maximum', 'or lower', 'tops']],
];
/** All words by which numbers are compared. */
export const COMPARISON_WORDS: ReadonlySet<string> = new Set(
  [...COMPARED, ...AFTER].flatMap(([, runs]) => runs.flatMap((run) => run.split(' '))),
);
const CURRENCY = /^(sek|eur|usd|gbp|nok|dkk|kr|kronor|krona|crown|euro|dollar|pound|€|\$|£|jpy|chf|yen)$/;

/** `at least twice`, `over 2,000 SEK`, `3x`, `3 or more times`, `between 2 and 5`, `on 3 days` */
export function readLimit(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  const between = taken(tokens, at, ['between', 'from', 'in between']);
  const currencyAt = (place: number): number => (CURRENCY.test(word(tokens, place)) ? 1 : 0);
  const of = (place: number): { of?: Limit['of']; length: number } => {
    const currency = currencyAt(place);
    if (currency > 0) return { of: 'money', length: 1 };
    const times = taken(tokens, place, ['time', 'x', '×', 'time in total', 'separate time']);
    if (times > 0) return { of: 'times', length: times };
    const days = taken(tokens, place, ['day', 'different day', 'separate day', 'distinct day', 'days']);
    return days > 0 ? { of: 'days', length: days } : { length: 0 };
  };
  const bare = (place: number): Read<number> | undefined => {
    const sign = currencyAt(place);
    const token = tokens[place + sign];
    const amount = token && token.word !== 'a' && token.word !== 'an' ? readAmount(tokens, place + sign) : undefined;
    return amount && { value: amount.value, length: sign + amount.length };
  };
  const lowAt = between > 0 ? at + between : at;
  const low = bare(lowAt);
  if (low) {
    const joint = taken(tokens, lowAt + low.length, between > 0 ? ['and', 'to', '-', '–', 'until'] : ['to', '-', '–']);
    const high = joint > 0 ? bare(lowAt + low.length + joint) : undefined;
    if (high) {
      const end = lowAt + low.length + joint + high.length;
      const after = of(end);
      return {
        value: { op: 'between', value: [low.value, high.value], of: after.of ?? (currencyAt(lowAt) ? 'money' : undefined), isSaid: true },
        length: end + after.length - at,
      };
    }
  }
  let op: NumberOp | undefined;
  let begun = taken(tokens, at, ['on']);
  for (const [each, runs] of COMPARED) {
    const length = taken(tokens, at + begun, runs);
    if (length > 0 && (op === undefined || length > begun)) {
      op = each;
      begun += length;
      break;
    }
  }
  const place = at + begun;
  const word_ = word(tokens, place);
  if (word_ === 'once' || word_ === 'twice' || word_ === 'thrice') {
    const value = { once: 1, twice: 2, thrice: 3 }[word_];
    const more = afterWords(tokens, place + 1);
    return {
      value: { op: op ?? more?.value ?? '>=', value, of: 'times', isSaid: op !== undefined || more !== undefined },
      length: begun + 1 + (more?.length ?? 0),
    };
  }
  const number = bare(place);
  if (!number) return undefined;
  const end = place + number.length;
  const first = of(end);
  const more = op === undefined ? afterWords(tokens, end + first.length) : undefined;
  const second = first.of === undefined && more ? of(end + more.length) : { length: 0, of: undefined };
  return {
    value: {
      op: op ?? more?.value ?? '=',
      value: number.value,
      of: first.of ?? second.of ?? (currencyAt(place) ? 'money' : undefined),
      isSaid: op !== undefined || more !== undefined,
    },
    length: begun + number.length + first.length + (more?.length ?? 0) + second.length,
  };
}

function afterWords(tokens: readonly Token[], at: number): Read<NumberOp> | undefined {
  for (const [op, runs] of AFTER) {
    const length = taken(tokens, at, runs);
    if (length > 0) return { value: op, length };
  }
  return undefined;
}
