import { type DetailField } from '../../../intake/signal-types.ts';
import { type Window } from '../../../time/window.ts';
import { type Condition, type DetailCondition, type Leaf, type LeafOf, type SignalTypes } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { lexiconOf } from '../lexicon.ts';
import { tokensOf } from '../tokens.ts';
import { meaningOf, type MeaningOf, type Segment } from '../segment.ts';
import { answersIn } from './answers.ts';
import { countOf, detailIs, NEVER, turnedIf, withWithin, type Phrase } from './phrase.ts';

type SignalLeaf = LeafOf<'signal'>;

const detailsOf = ({ catalogue }: Phrase, type: SignalTypes): readonly DetailField[] => catalogue.detailsOf(catalogue.signalTypes(type));

/** What somebody did, or what was done: how often, when, with which details, and what came of it. */
export function signalLine(phrase: Phrase, segment: Segment, head: Chunk, named: MeaningOf<'signal'>): Condition | undefined {
  segment.head(head);
  const meaning = /\bwe( have| had|'ve)?( not| never| ever| n't)?$/i.test(wordsBefore(segment, head)) ? byUs(phrase, named) : named;
  // Who wants to buy has not bought.
  if (/\b(wants?|wish(es)?|hopes?|intends?|plans?|would like|is about|are about|going) to$/i.test(wordsBefore(segment, head)))
    segment.refuse();
  const later = laterLine(phrase, segment, head, meaning);
  if (later) return later;
  const then = thenOf(phrase, segment, head);
  const own = segment.chunks.filter((chunk) => !then?.chunks.includes(chunk));
  const type = alternatives(segment, head, meaning, own);
  // `placed three orders`: the same is said twice.
  for (const chunk of own.slice(own.indexOf(head) + 1)) {
    if (chunk.kind === 'joint') break;
    if (chunk.meanings.some((each) => each.kind === 'signal' && each.type === meaning.type)) segment.head(chunk);
  }
  const except = exceptionOf(phrase, segment, head, type, own);
  const kept = own.filter((chunk) => !except?.chunks.includes(chunk));
  // `said no room`: the answer is called so.
  kept.forEach((chunk, index) => {
    if (index > kept.indexOf(head) && /^no$/i.test(chunk.text) && kept[index + 1]?.meanings.some(({ kind }) => kind === 'answer'))
      segment.use(chunk);
  });
  const isNot = segment.takeNot(kept) !== (head.cue === 'empty');
  const said = windowOf(segment.takeWindow(kept), isNot);
  // Nobody has been silent ever since.
  const within = said ?? (head.cue === 'empty' && typeof type === 'string' ? SILENT_FOR : undefined);
  const base: SignalLeaf = { kind: 'signal', type, ...(then ? { then: then.then } : {}) };
  const where = whereOf(phrase, segment, type, beside(kept, segment));
  // Nothing else was ordered: that is more than one line.
  if (where.length > 0 && kept.slice(kept.indexOf(head)).some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text)))
    segment.refuse();
  const lines = measured(phrase, segment, { ...base, ...withWhere(where), ...withWithin(within) }, kept, meaning.spent === true, isNot);
  segment.passOver(own);
  segment.takeCue('oneOf');
  if (!except) return lines.length === 1 ? lines[0] : { match: 'all', of: lines };
  if (isNot) return undefined;
  const { where: other, within: when = within } = except;
  return { match: 'all', of: [...lines, { ...base, ...withWhere(other ?? where), count: NEVER, ...withWithin(when) }] };
}

/** Whom we never called has not been called by us, whatever they did. */
const BY_US: Readonly<Record<string, string>> = {
  'call.received': 'call.made',
  'message.received': 'message.sent',
  'message.replied': 'message.sent',
};
function byUs({ catalogue }: Phrase, meaning: MeaningOf<'signal'>): MeaningOf<'signal'> {
  if (typeof meaning.type !== 'number') return meaning;
  const other = BY_US[catalogue.get('signalType', meaning.type)?.key ?? ''];
  const type = other === undefined ? undefined : catalogue.find('signalType', other);
  return type ? { ...meaning, type: type.id } : meaning;
}

const wordsBefore = (segment: Segment, head: Chunk): string =>
  segment.chunks
    .slice(0, segment.chunks.indexOf(head))
    .map(({ text }) => text)
    .join(' ');

/** For how long somebody has been silent of whom that is not said. */
const SILENT_FOR: Window = { last: 30, unit: 'days' };

const withWhere = (where: DetailCondition[]): { where?: DetailCondition[] } => (where.length > 0 ? { where } : {});

/** Nothing for more than a month is nothing in the last month. */
const windowOf = (window: Window | undefined, isNot: boolean): Window | undefined =>
  isNot && typeof window === 'object' && 'olderThan' in window ? { last: window.olderThan, unit: window.unit } : window;

/** How many, on how many days, for how much, or which one alone. Clay and glaze need not have come in one order: they are two lines. */
function measured(phrase: Phrase, segment: Segment, leaf: SignalLeaf, own: readonly Chunk[], isSpent: boolean, isNot: boolean): Leaf[] {
  const amountOf = amountSaid(segment, own);
  const said = segment.takeLimit(own);
  // `only bought once`: no more than that.
  const isOnly = said?.of === 'times' && !said.isSaid && own.some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text));
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
  const items = (leaf.where ?? []).filter((each) => 'some' in each && each.some === 'items');
  if (items.length > 1) {
    const others = (leaf.where ?? []).filter((each) => !items.includes(each));
    return items.flatMap((item) => counted({ ...leaf, where: [...others, item] }, limit, pick, isNot));
  }
  return counted(leaf, limit, pick, isNot);
}

const ONE = /^(an|one|single|any|something|anything)$/i;
const ONE_THING = /^(order|purchase|refund|basket|cart|checkout)$/i;
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
  const isLarge = typeof limit.value !== 'number' || limit.value >= WORTH_FROM;
  const isThing = (word: string): boolean => ONE_THING.test(word) || /^(something|anything)$/i.test(word);
  const isOne = words.some((word) => ONE.test(word)) && words.some(isThing);
  const besides = isFor || /^of$/i.test(last) || isLarge;
  const behind = own
    .slice(at + 1)
    .map(({ text }) => text)
    .join(' ');
  if (/^(in|on|with|by) (a|one|just one|a single|one single) (order|purchase)\b/i.test(behind)) return 'one';
  if ((isOne || words.some((word) => THINGS.test(word))) && besides && (limit.isSaid || isFor)) return 'one';
  return isFor || (isLarge && limit.isSaid) ? 'all' : undefined;
}

function counted(leaf: SignalLeaf, limit: Chunk['limit'], pick: 'first' | 'latest' | undefined, isNot: boolean): Leaf[] {
  if (limit) {
    const count = countOf(limit, isNot);
    return [limit.of === 'days' ? { ...leaf, days: count } : { ...leaf, count }];
  }
  // What the first one was not is asked of the first one.
  if (pick) return isNot ? [] : [{ ...leaf, pick }];
  return [isNot ? { ...leaf, count: NEVER } : leaf];
}

interface Exception {
  /** left out where the same is asked */
  readonly where: DetailCondition[] | undefined;
  readonly within: Window | undefined;
  readonly chunks: readonly Chunk[];
}

/** What is left out behind a "not": `bought glaze but not clay`, `ordered, but not in the last 30 days` */
function exceptionOf(phrase: Phrase, segment: Segment, head: Chunk, type: SignalTypes, own: readonly Chunk[]): Exception | undefined {
  const isContent = (chunk: Chunk): boolean =>
    chunk.kind === 'free' ||
    chunk.kind === 'window' ||
    (chunk.kind === 'limit' && chunk.limit?.of === 'times') ||
    (chunk.kind === 'thing' && !segment.isUsed(chunk));
  const at = own.findIndex((chunk, index) => chunk.kind === 'not' && own.slice(own.indexOf(head), index).some(isContent));
  const not = own[at];
  if (at < 0 || not === undefined || own.slice(at + 1).some((chunk) => chunk.kind === 'not')) return undefined;
  const rest = own.slice(at + 1);
  const where = whereOf(phrase, segment, type, rest);
  const hasWindow = own.slice(0, at).some((chunk) => chunk.kind === 'window');
  // One window behind both is meant for both.
  const within = where.length > 0 && !hasWindow ? undefined : segment.takeWindow(rest);
  if (where.length === 0 && within === undefined) return undefined;
  segment.use(not, ...own.slice(0, at).filter((chunk, index) => chunk.kind === 'joint' && index === at - 1));
  return { where: where.length > 0 ? where : undefined, within, chunks: [not, ...rest.filter((chunk) => segment.isUsed(chunk))] };
}

/** `opened or clicked`: either of them counts. */
function alternatives(segment: Segment, head: Chunk, meaning: MeaningOf<'signal'>, own: readonly Chunk[]): SignalTypes {
  if (typeof meaning.type !== 'number') return meaning.type;
  const types = [meaning.type];
  const heads = [head];
  const words = own.slice(own.indexOf(head) + 1).filter((chunk) => chunk.kind !== 'filler');
  for (let at = 0; words[at]?.joint === 'or'; at += 2) {
    const chunk = words[at + 1];
    const other = chunk && meaningOf(chunk, 'signal');
    if (!chunk || typeof other?.type !== 'number') break;
    types.push(other.type);
    heads.push(chunk);
    segment.head(chunk);
  }
  segment.join(heads);
  return types.length > 1 ? types : meaning.type;
}

/** What has to come, or not to come, after it: `and did not order within 2 hours` */
function thenOf(
  phrase: Phrase,
  segment: Segment,
  head: Chunk,
): { readonly then: NonNullable<SignalLeaf['then']>; readonly chunks: readonly Chunk[] } | undefined {
  const behind = segment.chunks.slice(segment.chunks.indexOf(head) + 1);
  const second = behind.find((chunk) => meaningOf(chunk, 'signal'));
  const meaning = second && meaningOf(second, 'signal');
  const between = second ? behind.slice(0, behind.indexOf(second)) : [];
  const begin = between.findIndex((chunk) => chunk.joint === 'and' || chunk.cue === 'then' || /^without$/i.test(chunk.text));
  if (!meaning || begin < 0 || between.some((chunk) => chunk.joint === 'or')) return undefined;
  const own = behind.slice(begin);
  // Only what comes soon after, or is said to come after, belongs together; otherwise these are two lines.
  const soon = own.find((chunk) => chunk.isOpen);
  const after = own.filter((chunk) => chunk.cue === 'then' || /^after$/i.test(chunk.text));
  if (!soon && after.length === 0) return undefined;
  segment.head(second);
  segment.use(soon, ...after, ...own.slice(0, 1));
  const isNot = segment.takeNot(own.filter((chunk) => chunk !== soon));
  const chunks = own.filter((chunk) => chunk !== soon && chunk.kind !== 'window' && chunk.kind !== 'limit');
  const where = whereOf(phrase, segment, meaning.type, chunks);
  const within = typeof soon?.window === 'object' && 'last' in soon.window ? { n: soon.window.last, unit: soon.window.unit } : undefined;
  return { then: { type: meaning.type, ...withWhere(where), happens: !isNot, ...(within ? { within } : {}) }, chunks };
}

/** The other way round: `ordered within 7 days of opening Your glaze shelf`, `did not order after a class` */
function laterLine(phrase: Phrase, segment: Segment, head: Chunk, meaning: MeaningOf<'signal'>): Condition | undefined {
  const { chunks } = segment;
  const at = chunks.findIndex((chunk, index) => index > chunks.indexOf(head) && /^(of|after)$/i.test(chunk.text));
  const mark = chunks[at];
  const soon = chunks[at - 1]?.isOpen ? chunks[at - 1] : undefined;
  const second = chunks.slice(at + 1).find(({ kind }) => kind !== 'filler');
  const first = second && signalIn(phrase, second);
  if (!mark || !second || !first || typeof meaning.type !== 'number' || typeof first.type !== 'number') return undefined;
  if (!soon && /^of$/i.test(mark.text)) return undefined;
  segment.head(second);
  segment.use(mark, soon);
  const before = chunks.slice(0, at).filter((chunk) => chunk !== soon);
  const behind = chunks.slice(chunks.indexOf(second));
  const isNot = segment.takeNot(before);
  const then = whereOf(phrase, segment, meaning.type, before.slice(before.indexOf(head)));
  const within = withWithin(segment.takeWindow(behind));
  const where = whereOf(phrase, segment, first.type, behind);
  const soonest =
    typeof soon?.window === 'object' && 'last' in soon.window ? { within: { n: soon.window.last, unit: soon.window.unit } } : {};
  segment.passOver(chunks);
  return {
    kind: 'signal',
    type: first.type,
    ...withWhere(where),
    ...within,
    then: { type: meaning.type, ...withWhere(then), happens: !isNot, ...soonest },
  };
}

/** What a word tells of that happened, in the form in which it stands behind "after": `opening` */
function signalIn({ catalogue }: Phrase, chunk: Chunk): MeaningOf<'signal'> | undefined {
  const named = meaningOf(chunk, 'signal');
  const stem = /^(\w{2,})ing$/i.exec(chunk.text)?.[1]?.toLowerCase();
  if (named || stem === undefined) return named;
  const lexicon = lexiconOf(catalogue);
  for (const form of [`${stem}ed`, `${stem}d`, stem]) {
    const found = lexicon.find(tokensOf(form), 0)?.meanings.find((each): each is MeaningOf<'signal'> => each.kind === 'signal');
    if (found) return found;
  }
  return undefined;
}

/** `first order`, `the latest plan renewed` */
function pickOf(segment: Segment, own: readonly Chunk[]): 'first' | 'latest' | undefined {
  const head = segment.chunks.findIndex((chunk) => meaningOf(chunk, 'signal'));
  const chunk = segment
    .unused(own)
    .find((each) => (each.cue === 'first' || each.cue === 'latest') && segment.chunks.indexOf(each) < head + 2);
  segment.use(chunk);
  return chunk?.cue === 'first' || chunk?.cue === 'latest' ? chunk.cue : undefined;
}

/** What follows the word of what happened, and what stands just before it: `glaze orders`, `ordered glaze`. */
export function beside(own: readonly Chunk[], segment: Segment): readonly Chunk[] {
  const at = own.findIndex((chunk) => segment.isUsed(chunk) && (meaningOf(chunk, 'signal') || meaningOf(chunk, 'planEnd')));
  const before = own[at - 1];
  return own.slice(before && (before.kind === 'free' || meaningOf(before, 'family') || meaningOf(before, 'detail')) ? at - 1 : at);
}

/** What is known to stand in a detail of these signals: which of several details is meant is said, or the first that has it. */
function knownIn(
  phrase: Phrase,
  segment: Segment,
  type: Exclude<SignalTypes, 'from them' | 'from us'>,
  own: readonly Chunk[],
): DetailCondition[] {
  const types = new Set(phrase.catalogue.signalTypes(type));
  const mark = segment.unused(own).find((chunk) => chunk.cue === 'product' || chunk.cue === 'line');
  const isMeant = ({ type: of, path }: MeaningOf<'detail'>): boolean =>
    types.has(of) && path !== 'path' && (!mark?.cue || path === `items.${mark.cue}`);
  const valuesByPath = new Map<string, string[]>();
  let hasUnknown = false;
  for (const chunk of segment.unused(own)) {
    const meanings = chunk.meanings.filter((each): each is MeaningOf<'detail'> => each.kind === 'detail' && isMeant(each));
    const [meaning] = meanings.sort((a, b) => placeOf(a.path) - placeOf(b.path));
    if (meaning) valuesByPath.set(meaning.path, [...(valuesByPath.get(meaning.path) ?? []), meaning.value]);
    else hasUnknown ||= chunk.kind === 'free';
  }
  // What stands beside a word that is not known may belong to it.
  if (valuesByPath.size === 0 || hasUnknown) return [];
  segment.use(mark);
  segment.takeAll('detail', isMeant, own);
  const isBoth = segment.isJoinedBy('and') && !segment.isJoinedBy('or');
  return [...valuesByPath].flatMap(([path, values]): DetailCondition[] => {
    const [list, inner] = path.split('.');
    if (list === undefined || inner === undefined) return [detailIs(path, values)];
    return (isBoth ? values.map((value) => [value]) : [values]).map((some) => ({ some: list, of: [detailIs(inner, some)] }));
  });
}
/** By which detail a value is meant that stands in several. */
const placeOf = (path: string): number => (path === 'items.line' ? 0 : path === 'items.product' ? 1 : 2);

/** The detail by which a signal is spoken of, where it has no list of things. */
const MAIN_DETAILS = ['campaign', 'plan', 'event', 'file', 'course', 'group', 'role', 'subject', 'deal', 'network', 'channel'];

/** What else is said of a signal: which line or product, plan, page, form and answer. */
export function whereOf(phrase: Phrase, segment: Segment, type: SignalTypes, own: readonly Chunk[]): DetailCondition[] {
  if (type === 'from them' || type === 'from us') return [];
  const keys = new Set(detailsOf(phrase, type).map((field) => field.key));
  if (keys.has('answers')) return answersIn(phrase, segment, own);
  const messages = keys.has('campaign') ? segment.takeAll('message', () => true, own).map(({ key }) => key) : [];
  if (messages.length > 0) return [detailIs('campaign', messages)];
  const known = knownIn(phrase, segment, type, own);
  if (known.length > 0) return known;
  // Messages are all known: another word names none.
  if (keys.has('campaign')) return [];
  const marks = segment.unused(own).filter((chunk) => chunk.cue === 'product' || chunk.cue === 'line');
  const texts = segment.takeTexts(own);
  if (texts.length === 0) return [];
  if (keys.has('items')) {
    segment.use(...marks);
    const path = marks.some((chunk) => chunk.cue === 'product') ? 'product' : 'line';
    const isBoth = texts.length > 1 && segment.isJoinedBy('and') && !segment.isJoinedBy('or');
    return (isBoth ? texts.map((text) => [text]) : [texts]).map((values) => ({ some: 'items', of: [detailIs(path, values)] }));
  }
  if (keys.has('path'))
    return [
      texts.length > 1 ? { path: 'path', op: 'contains any of', value: texts } : { path: 'path', op: 'contains', value: texts[0] ?? '' },
    ];
  const main = MAIN_DETAILS.find((key) => keys.has(key));
  return main ? [detailIs(main, texts)] : [];
}
