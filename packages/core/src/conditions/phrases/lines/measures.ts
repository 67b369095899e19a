import { type Window } from '../../../time/window.ts';
import { type Leaf, type LeafOf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { detailsOf } from './details.ts';
import { countOf, isOfSomebody, NEVER, turnedIf, type Phrase } from './phrase.ts';

type SignalLeaf = LeafOf<'signal'>;

/** For how long somebody has been silent of whom that is not said. */
export const SILENT_FOR: Window = { last: 30, unit: 'days' };

/** That nothing else was, or no more often. */
export const saysOnly = (chunks: readonly Chunk[]): boolean =>
  chunks.some(({ kind, text }) => kind === 'filler' && /^(only|nothing but)$/i.test(text));

/** How many, on how many days, for how much, or which one alone. Clay and glaze need not have come in one order: they are two lines. */
export function measured(
  phrase: Phrase,
  segment: Segment,
  leaf: SignalLeaf,
  own: readonly Chunk[],
  isSpent: boolean,
  isNot: boolean,
): Leaf[] {
  // `lapsed members and younger than 30`: people are, and not how often.
  if (segment.unused(own).some((chunk) => chunk.kind === 'limit' && isOfSomebody(own, chunk))) segment.refuse();
  // `registered for two people`, `ordered for two`: for how many it was done.
  if (segment.unused(own).some((chunk) => isForSoMany(own, chunk))) segment.refuse();
  const amountOf = amountSaid(segment, own);
  const days = leaf.within === undefined || leaf.within === SILENT_FOR ? bareDays(segment, own, isNot) : undefined;
  if (days !== undefined) return counted({ ...leaf, within: { last: days, unit: 'days' } }, undefined, undefined, true);
  const said = orMore(segment, own, segment.takeLimit(own));
  // How many things were ordered is not how often.
  if (said && said.of !== 'times' && own.some(({ kind }, at) => kind === 'limit' && AMOUNTS.test(own[at + 1]?.text ?? '')))
    segment.refuse();
  // `only bought once`: no more than that.
  const isOnly = said?.of === 'times' && !said.isSaid && saysOnly(own);
  const limit = isOnly ? { ...said, op: '=' as const, isSaid: true } : said;
  // `at least 2 orders over 500`: how many, and what each of them is worth
  const each = limit && amountOf === undefined && amountSaid(segment, own) === 'one' ? segment.takeLimit(own) : undefined;
  const pick = pickOf(segment, own);
  const hasAmount = detailsOf(phrase, leaf.type).some(({ key }) => key === 'amount');
  const worth = amountOf === 'one' || (pick && amountOf === 'all') ? limit : each;
  if (worth && hasAmount) {
    const where = [...(leaf.where ?? []), { path: 'amount', op: worth.isSaid ? worth.op : ('>=' as const), value: worth.value }];
    return counted({ ...leaf, where }, each && limit, pick, isNot);
  }
  const isMoney = (isSpent || amountOf === 'all' || limit?.of === 'money') && hasAmount;
  if (limit && isMoney) {
    const { op, value } = limit;
    return [{ ...leaf, sum: { path: 'amount', op: turnedIf(isNot, limit.isSaid ? op : '>='), value } }];
  }
  const items = (leaf.where ?? []).filter((each) => ('some' in each && each.some === 'items') || ('path' in each && each.path === 'path'));
  if (items.length > 1 && !isAtOnce(segment, own)) {
    const others = (leaf.where ?? []).filter((each) => !items.includes(each));
    return items.flatMap((item) => counted({ ...leaf, where: [...others, item] }, limit, pick, isNot));
  }
  // Nothing is opened twenty thousand times.
  if (limit && limit.of === undefined && !hasAmount && Math.max(...[limit.value].flat()) >= MOST_TIMES) segment.refuse();
  // `at least 3 times, last time over 60 days ago` are two lines.
  if (limit && pick) segment.refuse();
  return counted(leaf, limit, pick, isNot).flatMap((line) => ofLongAgo(line, own));
}

/** `registered with three people`, `ordered for two` */
function isForSoMany(own: readonly Chunk[], chunk: Chunk): boolean {
  const { limit } = chunk;
  const at = own.indexOf(chunk);
  if (!limit || limit.of !== undefined || !/\b(for|with)$/i.test(own[at - 1]?.text ?? '')) return false;
  const behind = own[at + 1];
  const isPeople = /^(people|persons?|contacts?|guests?|others?|friends?|kids|children|adults|colleagues)$/i.test(behind?.text ?? '');
  return isPeople || (!limit.isSaid && Math.max(...[limit.value].flat()) < 10 && (behind === undefined || behind.kind === 'window'));
}

/** `ordered exactly once, more than a year ago`: so often at all, and all of it so long ago. */
function ofLongAgo(line: Leaf, own: readonly Chunk[]): Leaf[] {
  const at = own.findIndex(({ kind, window }) => kind === 'window' && typeof window === 'object' && 'olderThan' in window);
  const isApart = own[at - 1]?.text === ',';
  if (!isApart || line.kind !== 'signal' || line.count?.op !== '=' || line.count.value === 0) return [line];
  const { within, ...ever } = line;
  return [ever, { ...line, count: { op: '>=', value: line.count.value }, ...(within === undefined ? {} : { within }) }];
}

/** `clay and glaze in the same order`, `in one order`: all of it came at once. */
function isAtOnce(segment: Segment, own: readonly Chunk[]): boolean {
  const at = own.findLastIndex(({ text }) => /^(orders?|purchase|basket|cart|checkout)$/i.test(text));
  const [how, said] = [own[at - 1], own[at]];
  if (!/^(same|one|a single|single|1)$/i.test(how?.text ?? '') || !own.slice(0, at - 1).some(({ text }) => /^in$/i.test(text)))
    return false;
  segment.use(how, said);
  return true;
}

/** `no opens 30 days`, `silent > 30 days`: for so long, and not on so many days. */
function bareDays(segment: Segment, own: readonly Chunk[], isNot: boolean): number | undefined {
  const said = segment.unused(own).find(({ limit, text }) => limit?.of === 'days' && !/^on\b/i.test(text));
  const limit = said?.limit;
  if (!limit || (limit.isSaid && !isNot) || typeof limit.value !== 'number' || !Number.isInteger(limit.value)) return undefined;
  // `lapsed 60 days`: on so many, or so long ago? And nobody has not done something for less than so long.
  if (!isNot || (limit.isSaid && !limit.op.startsWith('>'))) segment.refuse();
  segment.use(said);
  return limit.value;
}

const MOST_TIMES = 5_000;

/** `five orders or more`: behind what is counted. */
function orMore(segment: Segment, own: readonly Chunk[], limit: Chunk['limit']): Chunk['limit'] {
  const behind =
    limit && !limit.isSaid ? segment.unused(own).find(({ text }) => /^(or|and) (more|up|above|less|fewer)$/i.test(text)) : undefined;
  segment.use(behind);
  return limit && behind ? { ...limit, op: /(less|fewer)$/i.test(behind.text) ? '<=' : '>=', isSaid: true } : limit;
}

/** Things and measures: how much of something was ordered. */
const AMOUNTS =
  /^(items?|products?|pieces?|articles?|goods|litres?|liters?|kilos?|kilograms?|kg|grams?|bags?|packs?|packets?|boxes|box|bottles?|pairs?|met(re|er)s?)$/i;
const ONE = /^(an|one|single|any|something|anything)$/i;
const ONE_THING = /^(order|purchase|refund|((abandoned|left) ((an?|the|their) )?)?(basket|cart|checkout))$/i;
const THINGS = /^(orders|purchases|refunds)$/i;
/** A bare number from here on is rather what something is worth than how often it happened. */
const WORTH_FROM = 100;

/** Whether a number is the worth of each one of what happened, or of all of it: `an order over 1,000`, `ordered for more than 2,000`. */
function amountSaid(segment: Segment, own: readonly Chunk[]): 'one' | 'all' | undefined {
  const at = own.findIndex((chunk) => chunk.kind === 'limit' && !segment.isUsed(chunk));
  const limit = own[at]?.limit;
  if (!limit || limit.of === 'times' || limit.of === 'days') return undefined;
  const words = own.slice(0, at).flatMap(({ text }) => text.split(' '));
  const last = words.at(-1) ?? '';
  const isFor = /^(for|worth)$/i.test(last);
  // `more than 100 orders` are so many.
  if (limit.of === undefined && THINGS.test(own[at + 1]?.text ?? '') && meaningOf(own[at + 1] as Chunk, 'signal')) return undefined;
  // `orders that add up to more than 5,000`
  if (/\b(add(ing)?|sum) up to$|\b(amount|come) to$|\btotal$/i.test(own.find((chunk) => meaningOf(chunk, 'signal'))?.text ?? ''))
    return 'all';
  const isLarge = Math.max(...[limit.value].flat()) >= WORTH_FROM;
  const isThing = (word: string): boolean => ONE_THING.test(word) || /^(something|anything)$/i.test(word);
  const head = own.find((chunk) => meaningOf(chunk, 'signal'));
  // `order over 500`: one, unless somebody did order.
  const isNoun =
    head !== undefined &&
    ONE_THING.test(head.text.replace(/ worth$/i, '')) &&
    !/^(did|do|does|to|n't|not)$/i.test(segment.chunks[segment.chunks.indexOf(head) - 1]?.text ?? '');
  const most = own.find(({ text }) => /^(big|bigger|biggest|large|larger|largest|high|highest)$/i.test(text));
  if (isNoun || (most && words.some((word) => THINGS.test(word)))) segment.use(most);
  // `left the checkout with more than 1,000 in the basket`
  const isLeft = /^(left|abandoned)\b/i.test(head?.text ?? '') && /^with$/i.test(last);
  const isOne =
    isLeft ||
    isNoun ||
    (head !== undefined && /\ba deal$|^deals? (won|lost)$|^(won|lost) deal$/i.test(head.text)) ||
    (words.some((word) => ONE.test(word)) && words.some(isThing));
  const besides = isFor || /^of$/i.test(last) || isLarge;
  const behind = own
    .slice(at + 1)
    .map(({ text }) => text)
    .join(' ');
  if (/^(in|on|with|by) (a|one|just one|a single|one single) (order|purchase|go)\b/i.test(behind)) {
    segment.use(own.slice(at + 1).find(({ text }) => /^one$/i.test(text)));
    return 'one';
  }
  // `for more than 1,000 at once`
  if (/^at once\b/i.test(behind)) {
    segment.use(own.slice(at + 1).find(({ text }) => /^(at )?once$/i.test(text)));
    return 'one';
  }
  // `orders worth 5,000 in total`
  if (/^(in total|altogether|in all|together|in sum)\b/i.test(behind)) return 'all';
  if ((isOne || words.some((word) => THINGS.test(word))) && besides && (limit.isSaid || isFor)) return 'one';
  return isFor || (isLarge && limit.isSaid) ? 'all' : undefined;
}

function counted(leaf: SignalLeaf, limit: Chunk['limit'], pick: 'first' | 'latest' | undefined, isNot: boolean): Leaf[] {
  if (limit) {
    // Nothing happens half a time: `at least half of our messages`
    if (![limit.value].flat().every(Number.isInteger)) return [];
    const count = countOf(limit, isNot);
    return [limit.of === 'days' ? { ...leaf, days: count } : { ...leaf, count }];
  }
  // What the first one was not is asked of the first one.
  // Of the first one alone, without a time or a thing, only that there was one is asked.
  if (pick && !leaf.where && !leaf.within && !leaf.then) return [];
  if (pick) return isNot ? [] : [{ ...leaf, pick }];
  return [isNot ? { ...leaf, count: NEVER } : leaf];
}

/** `first order`, `the latest plan renewed` */
function pickOf(segment: Segment, own: readonly Chunk[]): 'first' | 'latest' | undefined {
  const head = segment.chunks.findIndex((chunk) => meaningOf(chunk, 'signal'));
  const chunk = segment
    .unused(own)
    .find(
      (each) => (each.cue === 'first' || each.cue === 'latest') && (segment.chunks.indexOf(each) < head + 2 || / time$/i.test(each.text)),
    );
  segment.use(chunk);
  return chunk?.cue === 'first' || chunk?.cue === 'latest' ? chunk.cue : undefined;
}
