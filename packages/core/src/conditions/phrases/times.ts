import { type Window } from '../../time/window.ts';
import { calendarDate, dayOf, localDay, writeDay, type Day } from '../../time/zone.ts';
import { readSpan, taken, UNITS, word, type Read, type Span } from './amounts.ts';
import { calendarPeriod, readEdge, readPeriod, type Today } from './periods.ts';
import { type Token } from './tokens.ts';
import { NUMBER_WORDS, SOMEBODY } from './words/language.ts';

/** As people begin them: `in the last`, `over the past` */
const LAST = ['last', 'past', 'previous'].flatMap((word) => [
  word,
  ...['the', 'these', 'in', 'within', 'over', 'during'].map((how) => `${how} ${word}`),
  ...['in', 'within', 'over', 'during', 'for', 'inside'].map((how) => `${how} the ${word}`),
]);
const WITHIN_THE = ['within the', 'inside the'];
const EVER = [
  'ever',
  'at any time',
  'at all',
  'at some point',
  'in their life',
  'of all time',
  'all time',
  'at some time',
  'lifetime',
  'in their lifetime',
  'over their lifetime',
];
/** Without how long ago, it is as long as somebody is silent who has gone quiet. */
const RECENTLY = ['recently', 'lately', 'of late', 'more recently'];
const LATELY: Window = { last: 30, unit: 'days' };
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
  'below',
  '<',
  '<=',
];
const MORE_THAN = [
  'more than',
  'over',
  'longer than',
  'at least',
  'older than',
  'longer ago than',
  'above',
  'greater than',
  'exceeding',
  'in excess of',
  'upwards of',
  'beyond',
  '>',
  '>=',
];

/** Periods that have begun, and their letters: `YTD` */
const TO_DATE = [
  ['week', 'wtd'],
  ['month', 'mtd'],
  ['quarter', 'qtd'],
  ['year', 'ytd'],
] as const;

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

/** When something was: `in the last 30 days`, `since March`, `more than a year ago`, `between 1 May 2026 and 31 May 2026`, `today`, `ever` */
export function readWindow(tokens: readonly Token[], at: number, today: Today | undefined): Read<ReadWindow> | undefined {
  const made = (window: Window, length: number): Read<ReadWindow> => ({ value: { window }, length });
  const here = today && localDay(today.now, today.zone);
  const ofDay = (day: Day, length: number): Read<ReadWindow> => made({ from: writeDay(day), to: writeDay(day + 1) }, length);
  if (taken(tokens, at, ['today'])) return made({ last: 0, unit: 'days' }, 1);
  const recently = taken(tokens, at, RECENTLY);
  if (recently > 0) return made(LATELY, recently);
  if (taken(tokens, at, ['yesterday']) && here !== undefined) return ofDay(here - 1, 1);
  const ever = taken(tokens, at, EVER);
  if (ever) return made('ever', ever);
  // For so long, and longer: since before then.
  const long = spanBehind(tokens, at, FOR_MORE_THAN);
  if (long) return made({ olderThan: long.value.n, unit: long.value.unit }, long.length);
  const short = spanBehind(tokens, at, FOR_LESS_THAN);
  if (short) return made({ last: short.value.n, unit: short.value.unit }, short.length);
  // `last order older than 6 months`: so old is what is so long ago. Of people that is their age.
  const old =
    (tokens.slice(Math.max(0, at - 3), at).some((each) => /^(last|latest|newest)$/.test(each.word)) ||
      tokens.slice(0, at).some((each) => each.word === 'tag' || /^\p{L}+\.\p{L}/u.test(each.word))) &&
    !SOMEBODY.test(word(tokens, at - 1)) &&
    spanBehind(tokens, at, ['older than']);
  if (old) return made({ olderThan: old.value.n, unit: old.value.unit }, old.length);
  const ago = readAgo(tokens, at);
  if (ago) {
    const { span, isMore } = ago.value;
    if (isMore) return made({ olderThan: span.n, unit: span.unit }, ago.length);
    // So many days ago is that day; what so many months ago means, nobody can say to the day.
    return span.unit === 'days' && here !== undefined ? ofDay(here - span.n, ago.length) : undefined;
  }
  const recent = spanBehind(tokens, at, LESS_THAN);
  const since = recent ? taken(tokens, at + recent.length, AGO) : 0;
  if (recent && since > 0) return made({ last: recent.value.n, unit: recent.value.unit }, recent.length + since);
  const last = readLast(tokens, at, here);
  if (last) return made(last.value, last.length);
  const isThis = taken(
    tokens,
    at,
    ['this', 'in this', 'during this', 'so far this'].flatMap((run) => [run, `${run} calendar`]),
  );
  for (const [unit, short] of TO_DATE) {
    const toDate = taken(tokens, at, [short, `${unit} to date`, `in the ${unit} to date`, `this ${unit} to date`]);
    const begun = toDate > 0 && here !== undefined ? calendarPeriod(unit, here) : undefined;
    if (begun) return made({ from: writeDay(begun.from), to: writeDay(begun.to) }, toDate);
  }
  const period = isThis > 0 && here !== undefined ? calendarPeriod(word(tokens, at + isThis), here) : undefined;
  if (period) return made({ from: writeDay(period.from), to: writeDay(period.to) }, isThis + 1);
  const rate = at > 0 && isRated(tokens, at) ? taken(tokens, at, ['a', 'an', 'per', 'each', 'every']) : 0;
  const each = rate > 0 ? UNITS[word(tokens, at + rate)] : undefined;
  // So many a year are so many in the last year; so many a month for half a year are asked of no single time.
  const isOfAnother = each !== undefined && readWindow(tokens, at + rate + 1, today) !== undefined;
  if (each && !isOfAnother) return made({ last: each[1], unit: each[0] }, rate + 1);
  const open = taken(tokens, at, ['for', 'in', 'within', 'during', 'inside', 'inside of']);
  const during = open > 0 ? readSpan(tokens, at + open) : undefined;
  if (during && isOther(tokens, at, open, during)) return undefined;
  if (during) return { value: { window: { last: during.value.n, unit: during.value.unit }, isOpen: true }, length: open + during.length };
  return readBounds(tokens, at, today);
}

/** `3 months ago`, `more than a year ago`, and so long since their last order, which is so long ago for the latest one. */
function readAgo(tokens: readonly Token[], at: number): Read<{ readonly span: Span; readonly isMore: boolean }> | undefined {
  const more = taken(tokens, at, MORE_THAN);
  const old = readSpan(tokens, at + more);
  if (!old) return undefined;
  const behind = at + more + old.length;
  const said = tokens.slice(behind, behind + 3).map((each) => each.word);
  const isSinceLast = /^since( the| their| his| her)? (last|latest)( |$)/.test(said.join(' '));
  const ago = isSinceLast ? 1 : taken(tokens, behind, AGO);
  // `30+ days ago`
  const isMore = more > 0 || tokens.slice(at, behind).some((each) => each.word === '+');
  return ago > 0 ? { value: { span: old.value, isMore }, length: more + old.length + ago } : undefined;
}

/** `in the last 30 days`, `last month`, `within the hour` */
function readLast(tokens: readonly Token[], at: number, here: Day | undefined): Read<Window> | undefined {
  const last = taken(tokens, at, LAST);
  const begun = last > 0 ? last : taken(tokens, at, WITHIN_THE);
  const span = begun > 0 ? (readSpan(tokens, at + begun, true) ?? alike(tokens, at + begun)) : undefined;
  if (!span) return undefined;
  const unit = word(tokens, at + begun);
  const own = last > 0 && span.length === 1 && here !== undefined ? calendarPeriod(unit, here) : undefined;
  // Beside this month the last one is that of the calendar; in the last month is a month until now, but for `in the last year but not this year`.
  const isUntilNow = tokens.slice(at, at + begun).some((each) => each.word === 'the');
  const isBesideThis = tokens.some(
    (each, index) => each.word === 'this' && word(tokens, index + 1) === unit && (!isUntilNow || word(tokens, index - 1) === 'not'),
  );
  const before = own && isBesideThis ? calendarPeriod(unit, own.from - 1) : undefined;
  const window: Window = before ? { from: writeDay(before.from), to: writeDay(before.to) } : { last: span.value.n, unit: span.value.unit };
  return { value: window, length: begun + span.length };
}

/** `in the last 90 days but not in the last 30`: the unit is said once. */
function alike(tokens: readonly Token[], at: number): Read<Span> | undefined {
  const n = tokens[at]?.kind === 'number' ? tokens[at].number : undefined;
  if (n === undefined || !Number.isInteger(n) || n < 1 || /^(word|number)$/.test(tokens[at + 1]?.kind ?? '')) return undefined;
  for (let before = at - 2; before > 0; before -= 1) {
    const span = tokens[before - 1]?.word.match(/^(last|past|previous)$/) ? readSpan(tokens, before) : undefined;
    if (span) return { value: { n, unit: span.value.unit }, length: 1 };
  }
  return undefined;
}

const HAPPENING = /^(\w{2,}ing|visit|order|purchase|click|reply|refund|download|registration)$/;

/** What lies within a month of something else, or comes twice in one day, is in no time that ends now. */
function isOther(tokens: readonly Token[], at: number, open: number, { value, length }: Read<Span>): boolean {
  const next = word(tokens, at + open + length);
  if (/^(within|inside)$/.test(word(tokens, at)) && next === 'of' && open === 1) {
    const behind = at + open + length + 1;
    const what = word(tokens, behind + taken(tokens, behind, ['a', 'an', 'the', 'their', 'their first', 'their last']));
    // From something that happened it is reckoned: `within 7 days of opening a message`.
    return !/^(today|now)$/.test(what) && !HAPPENING.test(what);
  }
  const isOneDay = value.unit === 'days' && value.n === 1 && word(tokens, at) === 'in';
  return isOneDay && (word(tokens, at + open) === 'one' || isRated(tokens, at));
}

/** Whether so many of something are said before this: `3 times`, `2 orders` */
const isRated = (tokens: readonly Token[], at: number): boolean =>
  isCounted(tokens[at - 1]) ||
  (/^(order|purchase|visit|click|call|message|email|refund|answer)$/.test(word(tokens, at - 1)) && isCounted(tokens[at - 2]));

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
  const unit = back > 0 && today ? word(tokens, at + since + back) : undefined;
  const begun = unit !== undefined && today ? calendarPeriod(unit, localDay(today.now, today.zone)) : undefined;
  const before = unit !== undefined && begun ? calendarPeriod(unit, begun.from - 1) : undefined;
  // Since last year is since it began; who is from last year is of that year.
  if (before && /^from$/.test(word(tokens, at)) && !/^on(ward|wards)?$/.test(word(tokens, at + since + back + 1)))
    return made({ from: writeDay(before.from), to: writeDay(before.to) }, since + back + 1);
  if (before) return made({ from: writeDay(before.from) }, since + back + 1);
  if (since > 0 && today && word(tokens, at) !== 'after' && /^(yesterday|today)$/.test(word(tokens, at + since)))
    return made({ from: writeDay(localDay(today.now, today.zone) - (word(tokens, at + since) === 'today' ? 0 : 1)) }, since + 1);
  const from = since > 0 ? readPeriod(tokens, at + since, today) : undefined;
  if (from) return made({ from: writeDay(word(tokens, at) === 'after' ? from.value.to : from.value.from) }, since + from.length);
  const whole = taken(tokens, at, ['before this']);
  const current = whole > 0 && today ? calendarPeriod(word(tokens, at + whole), localDay(today.now, today.zone)) : undefined;
  if (current) return made({ to: writeDay(current.from) }, whole + 1);
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
