import { type NumberOp } from '../schema.ts';
import { readAmount, taken, word, type Read } from './amounts.ts';
import { type Token } from './tokens.ts';
import { MULTIPLIERS, NUMBER_WORDS } from './words/language.ts';

export interface Limit {
  readonly op: NumberOp;
  readonly value: number | [number, number];
  /** what the number counts, where that is said */
  readonly of?: 'times' | 'days' | 'money' | undefined;
  /** whether how it compares was said: a bare number is taken as the place where it stands suggests */
  readonly isSaid: boolean;
}

const runs = (text: string): readonly string[] => text.split(', ');
/** How numbers are compared, before them. */
const BEFORE: readonly (readonly [NumberOp, readonly string[]])[] = [
  [
    '>=',
    runs(
      'at least, is at least, no less than, not less than, no fewer than, not fewer than, minimum, a minimum of, minimum of, min, from, not under, not below, no under, >=, ≥',
    ),
  ],
  [
    '>',
    runs(
      'older than, more often than, more than, over, above, exceeding, greater than, higher than, bigger than, larger than, upwards of, beyond, exceed, in excess of, >',
    ),
  ],
  ['<=', runs('at most, up to, no more than, not more than, maximum, a maximum of, maximum of, max, not over, not above, <=, ≤')],
  ['<', runs('younger than, less often than, less than, under, below, fewer than, lower than, smaller than, <')],
  ['!=', runs('not exactly, not equal to, other than, anything but, !=, ≠, <>')],
  ['=', runs('exactly, equal to, equal, precisely, only, just, =')],
];
/** And behind them. */
const AFTER: readonly (readonly [NumberOp, readonly string[]])[] = [
  ['>=', runs('or more, and more, and up, or above, and above, or over, and over, upwards, +, or higher, or better, at least, minimum')],
  ['<=', runs('or less, or fewer, or below, and below, or under, and under, at most, maximum, or lower, top')],
];
/** All words by which numbers are compared. */
export const COMPARISON_WORDS: ReadonlySet<string> = new Set(
  [...BEFORE, ...AFTER].flatMap(([, all]) => all.flatMap((run) => run.split(' '))),
);
const CURRENCY = /^(sek|eur|usd|gbp|nok|dkk|kr|kronor|krona|crown|euro|dollar|pound|€|\$|£|jpy|chf|yen)$/;
const TIMES: ReadonlyMap<string, number> = new Map([
  ['once', 1],
  ['twice', 2],
  ['thrice', 3],
]);

/** The longest of these words that stand here. */
function comparedBy(table: typeof BEFORE, tokens: readonly Token[], at: number): Read<NumberOp> | undefined {
  let best: Read<NumberOp> | undefined;
  for (const [value, all] of table) {
    const length = taken(tokens, at, all);
    if (length > (best?.length ?? 0)) best = { value, length };
  }
  return best;
}

/** How it is compared behind a number: `3 or more`, but not `3x and more than 40 seats`. */
function comparedBehind(tokens: readonly Token[], at: number): Read<NumberOp> | undefined {
  const found = comparedBy(AFTER, tokens, at);
  return found && word(tokens, at + found.length) === 'than' ? undefined : found;
}

const currencyAt = (tokens: readonly Token[], at: number): number => (CURRENCY.test(word(tokens, at)) ? 1 : 0);

/** Behind these an article is a number: `more than a year at the wheel`; what comes from a friend is not counted. */
const COMPARES_ONE = /^(at|more|over|less|under|no|not|above|below|fewer)$/;
const oneAt = (tokens: readonly Token[], at: number): Read<number> | undefined =>
  /^an?$/.test(word(tokens, at)) ? { value: 1, length: 1 } : undefined;

/** A number with its currency before it: `€ 20`; "a" is none. */
function bareNumber(tokens: readonly Token[], at: number): Read<number> | undefined {
  const sign = currencyAt(tokens, at);
  const first = word(tokens, at + sign);
  const isArticle = (first === 'a' || first === 'an') && !MULTIPLIERS.has(word(tokens, at + sign + 1));
  const amount = isArticle ? undefined : readAmount(tokens, at + sign);
  return amount && { value: amount.value, length: sign + amount.length };
}

/** What a number counts: `2,000 SEK`, `3 times`, `3x`, `3 different days` */
function countedBy(tokens: readonly Token[], at: number): { readonly of?: Limit['of']; readonly length: number } {
  if (currencyAt(tokens, at) > 0) return { of: 'money', length: 1 };
  const times = taken(tokens, at, ['time', 'x', '×', 'time in total', 'separate time']);
  if (times > 0) return { of: 'times', length: times };
  const days = taken(tokens, at, ['day', 'different day', 'separate day', 'distinct day']);
  return days > 0 ? { of: 'days', length: days } : { length: 0 };
}

/** `at least twice`, `over 2,000 SEK`, `3x`, `3 or more times`, `between 2 and 5`, `on 3 days` */
export function readLimit(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  // Twice in one day is not on one day at least.
  if (word(tokens, at - 1) === 'in' && word(tokens, at) === 'one' && word(tokens, at + 1) === 'day') return undefined;
  const range =
    readRange(tokens, at) ?? readBoth(tokens, at) ?? readOneOfTwo(tokens, at) ?? readNearly(tokens, at) ?? readHabit(tokens, at);
  if (range) return range;
  const on = taken(tokens, at, ['on']);
  const compared = comparedBy(BEFORE, tokens, at + on);
  const place = at + on + (compared?.length ?? 0);
  const times = TIMES.get(word(tokens, place));
  // `over 1,000 at once`
  if (times === 1 && word(tokens, place - 1) === 'at') return undefined;
  if (times !== undefined) {
    const after = comparedBehind(tokens, place + 1);
    const op = compared?.value ?? after?.value;
    return {
      value: { op: op ?? '>=', value: times, of: 'times', isSaid: op !== undefined },
      length: place + 1 + (after?.length ?? 0) - at,
    };
  }
  const number = bareNumber(tokens, place) ?? (COMPARES_ONE.test(word(tokens, at + on)) ? oneAt(tokens, place) : undefined);
  if (!number) return undefined;
  const end = place + number.length;
  const counted = countedBy(tokens, end);
  const after = compared ? undefined : comparedBehind(tokens, end + counted.length);
  const late: ReturnType<typeof countedBy> = counted.of === undefined && after ? countedBy(tokens, end + after.length) : { length: 0 };
  const op = compared?.value ?? after?.value;
  return {
    value: {
      op: op ?? '=',
      value: number.value,
      of: counted.of ?? late.of ?? (currencyAt(tokens, place) > 0 ? 'money' : undefined),
      isSaid: op !== undefined,
    },
    length: end + counted.length + (after?.length ?? 0) + late.length - at,
  };
}

/** `between 2 and 5`, `2 to 5 times` */
function readRange(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  const begun = taken(tokens, at, ['between', 'from', 'in between']);
  const low = bareNumber(tokens, at + begun);
  const joint = low ? taken(tokens, at + begun + low.length, begun > 0 ? ['and', 'to', '-', '–', 'until'] : ['to', '-', '–']) : 0;
  const high = low && joint > 0 ? bareNumber(tokens, at + begun + low.length + joint) : undefined;
  if (!low || !high) return undefined;
  // `1 to 5 million`: what multiplies the second is meant for both.
  const times =
    low.length === 1 && low.value < high.value
      ? (MULTIPLIERS.get(word(tokens, at + begun + low.length + joint + high.length - 1)) ?? 1)
      : 1;
  const first = high.length > 1 && low.value * times <= high.value ? low.value * times : low.value;
  const end = at + begun + low.length + joint + high.length;
  const counted = countedBy(tokens, end);
  const of = counted.of ?? (currencyAt(tokens, at + begun) > 0 ? 'money' : undefined);
  return { value: { op: 'between', value: [first, high.value], of, isSaid: true }, length: end + counted.length - at };
}

/** `at least 2 but at most 4`: from the one to the other, both included. */
function readBoth(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  const low = comparedBy(BEFORE, tokens, at);
  const first = low?.value === '>=' ? bareNumber(tokens, at + low.length) : undefined;
  const joint = low && first ? at + low.length + first.length : at;
  if (!first || !/^(and|but)$/.test(word(tokens, joint))) return undefined;
  const high = comparedBy(BEFORE, tokens, joint + 1);
  const second = high?.value === '<=' ? bareNumber(tokens, joint + 1 + high.length) : undefined;
  if (!high || !second) return undefined;
  const end = joint + 1 + high.length + second.length;
  const counted = countedBy(tokens, end);
  return { value: { op: 'between', value: [first.value, second.value], of: counted.of, isSaid: true }, length: end + counted.length - at };
}

/** `once or twice`, `two or three times`: the one or the other. */
function readOneOfTwo(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  const timesAt = (place: number): Read<number> | undefined => {
    const times = TIMES.get(word(tokens, place));
    return times === undefined ? bareNumber(tokens, place) : { value: times, length: 1 };
  };
  const first = timesAt(at);
  const second = first && word(tokens, at + first.length) === 'or' ? timesAt(at + first.length + 1) : undefined;
  if (!first || second?.value !== first.value + 1) return undefined;
  const end = at + first.length + 1 + second.length;
  const counted = TIMES.has(word(tokens, end - 1)) ? { of: 'times' as const, length: 0 } : countedBy(tokens, end);
  const isCount = counted.of === 'times' || counted.of === 'days';
  if (!isCount && !THINGS_DONE.test(word(tokens, end))) return undefined;
  return {
    value: { op: 'between', value: [first.value, second.value], of: counted.of ?? 'times', isSaid: true },
    length: end + counted.length - at,
  };
}
/** What is counted by how often it happened. */
const THINGS_DONE = /^(order|purchase|visit|message|email|mail|event|class|call|meeting|refund|download|click)$/;

const NEARLY = ['around', 'about', 'roughly', 'approximately', 'circa'];
const NEARLY_PART = 0.1;

/** `around 3,000`: a tenth more or less; of whole numbers to the next one, `around 3 times` from 2 to 4. */
function readNearly(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  const said = taken(tokens, at, NEARLY);
  const number = said > 0 ? bareNumber(tokens, at + said) : undefined;
  if (!number) return undefined;
  const counted = countedBy(tokens, at + said + number.length);
  const step = Number.isInteger(number.value) ? 1 : 100;
  const low = Math.floor(number.value * (1 - NEARLY_PART) * step) / step;
  const high = Math.ceil(Number((number.value * (1 + NEARLY_PART) * step).toFixed(6))) / step;
  return { value: { op: 'between', value: [low, high], of: counted.of, isSaid: true }, length: said + number.length + counted.length };
}

/** `one-time buyers`, `repeat buyers`: exactly once, and at least twice. */
function readHabit(tokens: readonly Token[], at: number): Read<Limit> | undefined {
  if (/^(repeat|returning)$/.test(word(tokens, at)) && /^(buyer|order|purchase|shopper|visitor|visit|customer)$/.test(word(tokens, at + 1)))
    return { value: { op: '>=', value: 2, of: 'times', isSaid: true }, length: 1 };
  // Who buys for the first time has bought once; so has a one time buyer.
  const hyphen = word(tokens, at + 1) === '-' ? 1 : 0;
  const isTime = word(tokens, at + 1 + hyphen) === 'time' && /^(buyer|shopper|purchaser|visitor)$/.test(word(tokens, at + 2 + hyphen));
  const times = word(tokens, at) === 'first' ? 1 : NUMBER_WORDS.get(word(tokens, at));
  if (isTime && times !== undefined) return { value: { op: '=', value: times, of: 'times', isSaid: true }, length: 2 + hyphen };
  const number = NUMBER_WORDS.get(word(tokens, at));
  if (number === undefined || word(tokens, at + 1) !== '-' || word(tokens, at + 2) !== 'time') return undefined;
  return { value: { op: '=', value: number, of: 'times', isSaid: true }, length: 3 };
}
