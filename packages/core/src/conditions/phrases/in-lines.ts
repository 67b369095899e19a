import { type Catalogue } from '../../settings/catalogue.ts';
import { isGroup, type Condition, type LeafOf } from '../schema.ts';
import { type Chunk } from './chunks.ts';
import { isAfterthought, isCutOff } from './cuts.ts';
import { inSeries, joined, type Joint, type Lines } from './joints.ts';
import { countOf, type LineReading, type Phrase } from './lines/phrase.ts';
import { meaningOf } from './meanings.ts';
import { deniedIn, isEither, neitherOf } from './neither.ts';
import { SO_MUCH, SOMEBODY } from './words/language.ts';

/** What another line costs: words that fit into one belong together. */
const ANOTHER_LINE = 1;
/** How much it costs to begin a line with a time that belongs to the line before. */
const AFTERTHOUGHT = 0.4;

interface Parted extends Lines {
  readonly score: number;
  /** what the last line is about, which the next one may leave out: `budget unknown or under 1,000` */
  readonly head?: Chunk | undefined;
  /** whether the last line is a verb and nothing else: when it was may be said behind the next one, for both */
  readonly isBare?: boolean | undefined;
  /** what it happened to in the last line, which the next one may mean by `one`: `looked at kilns but never bought one` */
  readonly object?: readonly Chunk[] | undefined;
  /** what happened in the last line: `bought glaze this month and clay last month` */
  readonly verb?: Chunk | undefined;
  /** what the last line is about, if a “not” before it says no more than that it is not so: `no phone or email` */
  readonly denied?: readonly Chunk[] | undefined;
  /** whether two tests of one thing were put together */
  readonly isPutTogether?: boolean | undefined;
}
/** The best way to cut the pieces into several lines, each of which is read whole. */
export function inLines(
  given: readonly Chunk[],
  phrase: Pick<Phrase, 'catalogue' | 'of'>,
  read: (chunks: readonly Chunk[]) => LineReading | undefined,
): LineReading | undefined {
  const chunks = inSeries(given);
  const isCut = chunks.map((_, start) => isCutOff(chunks, start, phrase));
  const best: (Parted | undefined)[] = [{ score: 0, lines: [], joints: [] }];
  for (let end = 1; end <= chunks.length; end += 1) {
    let chosen: Parted | undefined;
    for (let start = 0; start < end; start += 1) {
      const before = best[start];
      if (!before || isCut[start] === true || isToWhom(chunks, start)) continue;
      const { inner: said, joint } = trimmed(chunks.slice(start, end));
      if (said.length === 0) continue;
      if (start > 0 && isOfNothing(said, before, phrase)) continue;
      const inner = meantByOne(said, before);
      const isOfOthers = chunks.slice(start, end).some(({ text }) => SOMEBODY.test(text));
      const more = chunks[start]?.kind === 'joint' && joint !== 'or' && !isOfOthers ? moreOfIt(before, inner, joint) : undefined;
      if (more) {
        const score = before.score + more.size;
        if (!chosen || score > chosen.score) chosen = { ...before, ...more.lines, isPutTogether: true, score };
        continue;
      }
      const denied = before.verb && before.object?.length && isThatAlone(inner, before.verb) ? read([before.verb, ...inner]) : undefined;
      const another = joint !== 'or' && before.object?.length && isAnotherThing(chunks.slice(start, end));
      const alike = before.verb && another ? read([before.verb, ...inner]) : undefined;
      const own = denied ?? alike ?? sameThing(before.lines.at(-1), read(inner), inner, phrase.catalogue);
      const again = !own && before.head && !isOfOthers && isTestAlone(inner) ? before.head : undefined;
      const elided = !own && !again && before.verb && chunks[start]?.kind === 'joint' && isObjectAndTime(inner) ? before.verb : undefined;
      const line = own ?? (again && read([again, ...inner])) ?? (elided && read([elided, ...inner]));
      if (!line) continue;
      // `missed an event and who ordered in May`, `left the till but we called them in May`: a sentence of its own.
      const isWho = chunks.slice(start, end).some(({ text }) => /^(who|we|i|they)\b/i.test(text));
      const late = start > 0 && isAfterthought(chunks, start) ? AFTERTHOUGHT : 0;
      const neither = isEither(chunks, start, end, joint) ? neitherOf(before, chunks.slice(start, end), line.condition) : undefined;
      const score =
        before.score +
        line.score -
        (again?.size ?? elided?.size ?? ((denied ?? alike) && before.verb?.size) ?? 0) -
        (before.lines.length > 0 ? ANOTHER_LINE : 0) -
        late;
      if (!chosen || score > chosen.score)
        chosen = {
          score,
          head: again ?? headIn(inner),
          object: objectIn(inner, phrase),
          verb: inner.find((chunk) => meaningOf(chunk, 'signal')) ?? elided,
          isBare: inner.every(
            (chunk) => meaningOf(chunk, 'signal') !== undefined || chunk.kind === 'filler' || /^neither$/i.test(chunk.text),
          ),
          isPutTogether: before.isPutTogether || again !== undefined,
          denied: neither ? before.denied : deniedIn(inner),
          ...(neither ??
            (again
              ? withAlso(before, isOneOfSeveral(chunks, end, joint) ? 'or' : joint, line.condition)
              : elided
                ? withLine(atTheTimeBehind(before, line.condition, inner), joint, line.condition)
                : withLine(isWho || joint === 'comma' ? before : within(before, line.condition, inner), joint, line.condition))),
        };
    }
    best.push(chosen);
  }
  const found = atOneTime(best.at(-1), chunks);
  const [first, ...others] = found?.lines ?? [];
  if (!found || !first) return undefined;
  // One line alone is read as it is, unless it was put together.
  if (others.length === 0 && !found.isPutTogether) return undefined;
  return { condition: others.length === 0 ? first : joined(found), score: found.score, unread: [] };
}

/** `wrote to them or called`: with that no line begins. */
const isToWhom = (chunks: readonly Chunk[], start: number): boolean =>
  /^to$/i.test(chunks[start]?.text ?? '') && /^(them|him|her|us|me)$/i.test(chunks[start + 1]?.text ?? '');

/** Behind what happened: how often, `orders over 500, at least 2`, and when it did last, `bought glaze three times, last time in May`. */
function moreOfIt(before: Parted, chunks: readonly Chunk[], joint: Joint): { readonly lines: Lines; readonly size: number } | undefined {
  const last = before.lines.at(-1);
  const [said, when, ...others] = chunks.filter(({ kind }) => kind !== 'filler');
  if (!last || isGroup(last) || last.kind !== 'signal' || last.pick || last.then || !said || others.length > 0) return undefined;
  // `and younger than 30`: of somebody, and not of how often.
  if (chunks.some(({ text }) => /\b(older|younger)\b/i.test(text))) return undefined;
  const size = said.size + (when?.size ?? 0);
  // `emailed but not opened, last 30 days`: when all of it was.
  if (joint === 'comma' && when === undefined && said.kind === 'window' && said.window !== undefined && last.within === undefined) {
    const { window: within } = said;
    const lines = before.lines.map((line) =>
      !isGroup(line) && line.kind === 'signal' && line.within === undefined ? { ...line, within } : line,
    );
    return { lines: { lines, joints: before.joints }, size };
  }
  const pick = said.kind === 'cue' && TIME_OF_IT.test(said.text) && (said.cue === 'first' || said.cue === 'latest') ? said.cue : undefined;
  if (pick && when?.kind === 'window' && when.window !== undefined && !isNever(last)) {
    const { type, where } = last;
    return {
      lines: withLine(before, 'and', { kind: 'signal', type, ...(where ? { where } : {}), pick, within: when.window }),
      size: size - ANOTHER_LINE,
    };
  }
  const limit = when === undefined && said.kind === 'limit' ? said.limit : undefined;
  const isCount =
    limit &&
    (limit.of === 'times' ||
      (limit.of === undefined && limit.isSaid && [limit.value].flat().every((n) => Number.isInteger(n) && n < COUNTED_TO)));
  if (!isCount || last.count || last.days || last.sum) return undefined;
  return { lines: { lines: before.lines.with(-1, { ...last, count: countOf(limit) }), joints: before.joints }, size };
}
const TIME_OF_IT = /\b(time|one)$|^most recently$/i;
/** From here on a bare number is rather what something is worth. */
const COUNTED_TO = 100;
const isNever = ({ count }: LeafOf<'signal'>): boolean => count?.op === '=' && count.value === 0;

/** `got Your glaze shelf but did not open it`: what the line before is about is meant by the next one, too. */
function sameThing(
  before: Condition | undefined,
  line: LineReading | undefined,
  chunks: readonly Chunk[],
  catalogue: Catalogue,
): LineReading | undefined {
  if (!line || !before || isGroup(before) || isGroup(line.condition)) return line;
  const { condition } = line;
  if (before.kind !== 'signal' || condition.kind !== 'signal' || !before.where || condition.where) return line;
  const at = chunks.findIndex((chunk) => meaningOf(chunk, 'signal'));
  // `booked a class but did not come`: nothing else is spoken of, so that it is the class.
  const isBare =
    at >= 0 &&
    // `but did not attend any event`: not that one alone.
    !/\b(an?|any) /i.test(chunks[at]?.text ?? '') &&
    // `opened Your glaze shelf but did not click anything`: in it.
    chunks
      .slice(at + 1)
      .every(({ text }) => /^yet$/i.test(text) || (/^anything$/i.test(text) && hasDetail(condition, 'campaign', catalogue))) &&
    condition.type !== before.type &&
    (chunks[at - 1]?.kind === 'not' ||
      (chunks.slice(0, at).every(({ kind }) => kind === 'filler') && isAlike(before, condition, catalogue)));
  // `we wrote to them`, `we called them`: those are people.
  const isToThem = / (to|with)$/i.test(chunks[at]?.text ?? '') || isByUs(condition, catalogue);
  const isMeant = /^(it|them)$/i.test(chunks[at + 1]?.text ?? '') && !isToThem;
  if (!isBare && !isMeant) return line;
  const isKnown = before.where.every((each) =>
    hasDetail(condition, 'path' in each ? each.path : 'some' in each ? each.some : each.none, catalogue),
  );
  return isKnown ? { ...line, condition: { ...condition, where: before.where } } : line;
}

const isByUs = ({ type }: LeafOf<'signal'>, catalogue: Catalogue): boolean =>
  typeof type === 'number' && catalogue.body('signalType', type)?.direction === 'from us';

const hasDetail = ({ type }: LeafOf<'signal'>, detail: string, catalogue: Catalogue): boolean =>
  catalogue.detailsOf(catalogue.signalTypes(type)).some(({ key }) => key === detail);

/** `registered for First bowl but did not come`, in words that are one thing: both are of evenings, of plans, of messages. */
const isAlike = (one: LeafOf<'signal'>, other: LeafOf<'signal'>, catalogue: Catalogue): boolean => {
  const [kinds, others] = [one, other].map(({ type }) =>
    catalogue.signalTypes(type).map((id) => catalogue.get('signalType', id)?.key.split('.')[0]),
  );
  return others?.length === 1 && kinds?.every((each) => each === others[0]) === true;
};

const IN_SO_LONG = new RegExp(`^in ${SO_MUCH}`, 'i');

/** `opened but not clicked in the last 30 days`: of what is no more than two verbs the time is said once, at the end. */
function within(before: Parted, condition: Condition, chunks: readonly Chunk[]): Lines {
  const last = before.lines.at(-1);
  const isOfBoth =
    before.isBare && last !== undefined && !isGroup(last) && last.kind === 'signal' && !isGroup(condition) && condition.kind === 'signal';
  const isTimed =
    chunks.at(-1)?.kind === 'window' &&
    // `unsubscribed and inactive for 45 days`: how it is today.
    // `unsubscribed but hasn't bought anything in a year`, `but no orders in a year`: said of the one alone.
    !chunks.some(({ cue, text }) => cue === 'empty' || /^for\b/i.test(text) || /^(has|have|hasn't|haven't|no|without)$/i.test(text)) &&
    !(IN_SO_LONG.test(chunks.at(-1)?.text ?? '') && chunks.some(({ text }) => /^not$/i.test(text))) &&
    chunks.every((chunk) => ['filler', 'not', 'window'].includes(chunk.kind) || chunk.text === ',' || meaningOf(chunk, 'signal'));
  if (!isOfBoth || !isTimed || condition.within === undefined || last.within !== undefined) return before;
  if (typeof condition.type === 'string') return before;
  return { ...before, lines: before.lines.with(-1, { ...last, within: condition.within }) };
}

/** `but bought none`, and behind what somebody likes `but never bought it`: of what the line before speaks. */
function meantByOne(chunks: readonly Chunk[], { object, verb }: Pick<Parted, 'object' | 'verb'>): readonly Chunk[] {
  const [head, one] = chunks.slice(-2);
  if (!object || object.length === 0 || !head || !meaningOf(head, 'signal')) return chunks;
  if (!/^(one|none|any)$/i.test(one?.text ?? '') && (verb || !IT.test(one?.text ?? ''))) return chunks;
  return [...chunks.filter((chunk) => chunk !== one || chunk.kind === 'not'), ...object];
}
const IT = /^(it|them)$/i;

/** `is a customer but never bought it`: of no thing was spoken that could be meant. */
function isOfNothing(
  chunks: readonly Chunk[],
  { object, verb }: Pick<Parted, 'object' | 'verb'>,
  { catalogue }: Pick<Phrase, 'catalogue'>,
) {
  const at = chunks.findIndex((chunk) => meaningOf(chunk, 'signal'));
  const { type } = (chunks[at] && meaningOf(chunks[at], 'signal')) ?? {};
  const isOfThings = typeof type === 'number' && /^(order|checkout|page|file)\./.test(catalogue.get('signalType', type)?.key ?? '');
  return isOfThings && !verb && !object?.length && IT.test(chunks[at + 1]?.text ?? '');
}

/** What it happened to: the words right behind what happened. Where nothing happened, what somebody is fond of. */
function objectIn(chunks: readonly Chunk[], { catalogue }: Pick<Phrase, 'catalogue'>): readonly Chunk[] {
  const at = chunks.findIndex((chunk) => meaningOf(chunk, 'signal'));
  if (at < 0)
    return chunks.flatMap((chunk) => {
      const tag = meaningOf(chunk, 'tag');
      const last = chunk.text.split(/[ .]/).at(-1) ?? '';
      const isCalledSo = tag && catalogue.get('tag', tag.tag)?.key.split('.').at(-1) === last.toLowerCase();
      return isCalledSo ? [{ ...chunk, kind: 'free' as const, text: last, typed: last, size: 1, meanings: [] }] : [];
    });
  // `bought neither glaze nor clay`
  const behind = chunks.slice(chunks[at + 1]?.kind === 'not' ? at + 2 : at + 1);
  const end = behind.findIndex(({ kind, text }) => !(kind === 'free' || kind === 'thing' || ARTICLE.test(text)));
  return (end < 0 ? behind : behind.slice(0, end)).filter(({ kind }) => kind !== 'filler');
}
const ARTICLE = /^(an?|the|some|any|at|our)$/i;

const withLine = ({ lines, joints }: Lines, joint: Joint, line: Condition): Lines => ({
  lines: [...lines, line],
  joints: lines.length > 0 ? [...joints, joint] : [],
});

/** `in May, June or July`: a comma before another one with an “or” */
const isOneOfSeveral = (chunks: readonly Chunk[], end: number, joint: Joint): boolean =>
  joint === 'comma' &&
  chunks[end]?.kind === 'joint' &&
  chunks.slice(end).find(({ kind, text }) => kind === 'joint' && text !== ',')?.joint === 'or';

/** Another test of what the last line is about belongs to that line alone: `in Sweden, and budget unknown or under 1,000` */
function withAlso({ lines, joints }: Lines, joint: Joint, also: Condition): Lines {
  const last = lines.at(-1);
  if (!last) return { lines: [also], joints };
  const match = joint === 'or' ? 'any' : 'all';
  const those = isGroup(last) && last.match === match ? last.of : [last];
  return { lines: [...lines.slice(0, -1), { match, of: [...those, also] }], joints };
}

/** The fact or the score that a line is about, or what happened, if nothing more is said of it. */
const headIn = (chunks: readonly Chunk[]): Chunk | undefined =>
  chunks.find(({ meanings, cue }) => cue === 'score' || meanings.some(({ kind }) => kind === 'field' || kind === 'scorecard')) ??
  chunks.find((chunk) => meaningOf(chunk, 'signal') && isTestAlone(chunks.filter((each) => each !== chunk && each.kind !== 'not')));

const isTimes = ({ limit }: Chunk): boolean => limit?.of === 'times';

/** `clay last month`, `clay twice`: a thing, and when or how often, of what was said before. */
const isObjectAndTime = (chunks: readonly Chunk[]): boolean => {
  const words = chunks.filter((chunk) => chunk.kind !== 'filler' && chunk.kind !== 'window' && !isTimes(chunk));
  // How often is asked of no fact: `visited wheels twice and kilns once`
  const kinds = chunks.some(isTimes) ? OBJECTS : NAMES;
  const isThing = ({ kind, meanings }: Chunk): boolean =>
    kind === 'free' || (kind === 'thing' && meanings.every((each) => kinds.has(each.kind)));
  const last = chunks.at(-1);
  return last !== undefined && (last.kind === 'window' || isTimes(last)) && words.length > 0 && words.every(isThing);
};

/** `clay twice and glaze once in the last year`: the time behind how often is that of both. */
function atTheTimeBehind(before: Parted, line: Condition, chunks: readonly Chunk[]): Lines {
  const last = before.lines.at(-1);
  const isSaidOnce = chunks.some(isTimes) && last !== undefined && !isGroup(last) && last.kind === 'signal' && last.within === undefined;
  if (!isSaidOnce || isGroup(line) || line.kind !== 'signal' || line.within === undefined) return before;
  return { ...before, lines: before.lines.with(-1, { ...last, within: line.within }) };
}

/** `visited wheels but not kilns`: a thing that it was not, of what was said before. What is called so by its details is one, too. */
const isThatAlone = (chunks: readonly Chunk[], verb: Chunk): boolean => {
  const [not, thing, ...more] = chunks.filter(({ kind }) => kind !== 'filler');
  if (!thing || more.length > 0 || not?.kind !== 'not' || !/^n(ot|or)$/i.test(not.text)) return false;
  if (thing.kind === 'free') return !thing.text.includes(' ');
  const types = verb.meanings.flatMap((each) => (each.kind === 'signal' ? [each.type].flat() : []));
  const isDetail = thing.meanings.some((each) => each.kind === 'detail' && types.includes(each.type));
  return thing.kind === 'thing' && (isDetail || (!thing.text.includes(' ') && thing.meanings.every(({ kind }) => OBJECTS.has(kind))));
};
/** `ordered porcelain and stoneware`: a thing that may be another one of the same, whatever else has it in its name. */
const isAnotherThing = (chunks: readonly Chunk[]): boolean => {
  const [thing, ...more] = chunks.filter(({ kind, text }) => kind !== 'filler' && kind !== 'joint' && !ARTICLE.test(text));
  return (
    thing?.kind === 'thing' &&
    !chunks.some(({ text }) => SAYS_WHAT.test(text)) &&
    more.length === 0 &&
    !thing.text.includes(' ') &&
    thing.meanings.every((each) => OBJECTS.has(each.kind) || (each.kind === 'tag' && each.isPart))
  );
};
/** `both bought clay and attended a class in the last 30 days`: the time is that of both. */
function atOneTime(found: Parted | undefined, chunks: readonly Chunk[]): Parted | undefined {
  const said = chunks.filter(({ kind }) => kind !== 'filler');
  const isBoth = said[0]?.cue === 'allOf' && said.at(-1)?.kind === 'window' && said.filter(({ kind }) => kind === 'window').length === 1;
  const last = found?.lines.at(-1);
  if (!found || !isBoth || !last || isGroup(last) || last.kind !== 'signal' || last.within === undefined) return found;
  const { within: time } = last;
  return {
    ...found,
    lines: found.lines.map((line) =>
      !isGroup(line) && line.kind === 'signal' && line.within === undefined ? { ...line, within: time } : line,
    ),
  };
}

/** `and has a kiln`: something is said of somebody. */
const SAYS_WHAT = /^(is|are|was|were|has|have|had|owns?|with|who|whose|in|from)$/i;
/** What names a thing and nothing that people are. */
const NAMES: ReadonlySet<string> = new Set(['detail', 'family']);
/** What a thing may mean that somebody bought, looked at or opened: others are what people are. */
const OBJECTS: ReadonlySet<string> = new Set(['detail', 'family', 'field', 'form', 'message', 'pipeline']);

/** Whether it is said only how something is: by a number, a time, or that nothing is known. */
const isTestAlone = (chunks: readonly Chunk[]): boolean =>
  chunks.every(
    ({ kind, cue }) =>
      ['limit', 'window', 'next', 'not', 'filler'].includes(kind) || (kind === 'cue' && (cue === 'empty' || cue === 'filled')),
  ) && chunks.some(({ kind }) => kind !== 'filler' && kind !== 'not');

/** `bought glaze from us or …`: a preposition with nothing of its own, before the joint, belongs to what stands before. */
const endsWhatWasSaid = (chunks: readonly Chunk[], at: number): boolean =>
  (chunks[at]?.cue === 'from' || chunks[at]?.cue === 'to') && chunks.slice(at + 1).find(({ kind }) => kind !== 'filler')?.kind === 'joint';

/** Without what joins it to the line before, and what that is. */
function trimmed(chunks: readonly Chunk[]): { readonly inner: readonly Chunk[]; readonly joint: Joint } {
  let start = 0;
  // A noun that says nothing may stand before it: `eager people, ordered clay or no phone`.
  let joint: Joint = chunks.find(({ kind }) => kind !== 'filler')?.text === ',' ? 'comma' : 'and';
  while (chunks[start]?.kind === 'joint' || chunks[start]?.kind === 'filler' || endsWhatWasSaid(chunks, start)) {
    if (chunks[start]?.joint === 'or') joint = 'or';
    else if (chunks[start]?.kind === 'joint' && chunks[start]?.text !== ',' && joint === 'comma')
      joint = /^(and|but)$/i.test(chunks[start]?.text ?? '') ? 'apart' : 'and';
    // Whether we did it or they did is part of what is said, and so is that it was, and nothing else.
    if (/^(we|i|was|were|only|nothing but)$/i.test(chunks[start]?.text ?? '')) break;
    // `customers, do not email`
    if (/^do$/i.test(chunks[start]?.text ?? '') && chunks[start + 1]?.kind === 'not') break;
    // `keen and in gone quiet`: who is in something is in an audience.
    if (/^in$/i.test(chunks[start]?.text ?? '') && chunks[start + 1] && meaningOf(chunks[start + 1] as Chunk, 'audience')) break;
    start += 1;
  }
  let end = chunks.length;
  while (end > start && chunks[end - 1]?.kind === 'filler') end -= 1;
  // A joint at the end belongs to the line that follows.
  return chunks[end - 1]?.kind === 'joint' ? { inner: [], joint } : { inner: chunks.slice(start), joint };
}
