import { type Catalogue } from '../../settings/catalogue.ts';
import { type SubjectKind } from '../../settings/subject-kind.ts';
import { type Instant } from '../../time/zone.ts';
import { normalise } from '../normalise.ts';
import { prepare } from '../prepare/prepare.ts';
import { isGroup, type Condition } from '../schema.ts';
import { chunksOf, type Chunk } from './chunks.ts';
import { inLines } from './in-lines.ts';
import { inOrder } from './in-order.ts';
import { keptParts } from './kept-parts.ts';
import { phraseIn } from './lead-in.ts';
import { happenedWithin, ledByTime } from './led-by-time.ts';
import { lexiconOf, type Meaning } from './lexicon.ts';
import { lineReadings } from './lines/index.ts';
import { type LineReading, type Phrase } from './lines/phrase.ts';
import { meaningOf } from './meanings.ts';
import { withoutYet } from './not-yet.ts';
import { spelt, type UnknownWord } from './spelling.ts';
import { allowedAgain, plainly, unitsAgain } from './spoken.ts';
import { doneByUs, tokensOf, withNobody } from './tokens.ts';

export { type UnknownWord };

/** One way in which a phrase can be meant. */
export interface Reading {
  readonly condition: Condition;
  /** words that it does not account for, by their places in the text */
  readonly unread: readonly { readonly from: number; readonly to: number }[];
  readonly score: number;
}

export interface Readings {
  /** the likeliest first */
  readonly readings: readonly Reading[];
  readonly unknown: readonly UnknownWord[];
  /** where nothing can be read though every word is known: what does not fit in */
  readonly inTheWay: readonly Pick<UnknownWord, 'from' | 'to'>[];
  /** whether the text ends in a word that nobody knows yet, so that it may be half of one */
  readonly isHalfTyped: boolean;
}

export const nothingSaid: Readings = { readings: [], unknown: [], inTheWay: [], isHalfTyped: false };

const MOST_READINGS = 5;
const MOST_CHUNKS = 60;

/**
 * Reads a phrase as people say it: words in any order, by whatever they are called, with small misspellings. Each reading is a whole condition
 * that can be counted.
 *
 * @param now without it, days and months without their year say nothing
 */
export function readPhrase(
  text: string,
  catalogue: Catalogue,
  { of = 'contact', now }: { readonly of?: SubjectKind; readonly now?: Instant } = {},
): Readings {
  // Before anything is typed nobody waits for the words of the workspace to be gathered.
  if (text.trim() === '') return nothingSaid;
  const lexicon = lexiconOf(catalogue);
  const today = now === undefined ? undefined : { now, zone: catalogue.zone };
  const { from: begun, to: ended } = phraseIn(text);
  const said = plainly(tokensOf(text.slice(0, ended)).filter(({ from }) => from >= begun));
  const typed = doneByUs(withNobody(allowedAgain(withoutYet(unitsAgain(said), lexicon))));
  const { tokens, unknown } = spelt(typed, lexicon);
  const last = typed.at(-1);
  const isHalfTyped = last?.kind === 'word' && last.to === text.length && !lexicon.knows(last.word);
  const { chunks, isOneAlone } = withoutBoth(likeTheOther(atItsTime(inOrder(chunksOf(tokens, lexicon, today))), catalogue));
  // So long a text is no line; to read some of it would be to leave out the rest.
  if (chunks.length > MOST_CHUNKS) return { ...nothingSaid, unknown, isHalfTyped };
  const phrase: Phrase = { catalogue, of, today };
  const usable = (readings: readonly LineReading[]): LineReading[] => {
    const seen = new Set<string>();
    return [...readings]
      .sort((a, b) => b.score - a.score)
      .filter(({ condition }) => {
        const written = JSON.stringify(condition);
        if (seen.has(written)) return false;
        seen.add(written);
        return prepare(condition, catalogue, of).ok;
      });
  };
  /** Of those that can be asked the best one: others need not be looked at. */
  const likeliest = (readings: readonly LineReading[]): LineReading | undefined =>
    [...readings].sort((a, b) => b.score - a.score).find(({ condition }) => prepare(condition, catalogue, of).ok);
  const apart = withoutBoth(likeTheOther(atItsTime(inOrder(chunksOf(tokens, lexicon, today, true))), catalogue)).chunks;
  const cuts = apart.length === chunks.length ? [chunks] : [chunks, apart];
  const readWhole = (cut: readonly Chunk[]): LineReading[] => {
    const parted = inLines(
      cut,
      phrase,
      keptParts(phrase, (some) => likeliest(lineReadings(phrase, some).filter(({ unread }) => unread.length === 0))),
    );
    return [...usable(lineReadings(phrase, cut)), ...(parted ? [parted] : [])];
  };
  /** `in the last 60 days, customers who bought glaze`: a time before all else is when what is told happened. */
  const readLed = (cut: readonly Chunk[]): LineReading[] => {
    const led = ledByTime(cut);
    const readings = led ? readWhole(led.told).filter(({ unread }) => unread.length === 0) : [];
    return readings.flatMap((reading) => {
      const condition = led && happenedWithin(reading.condition, led.time);
      return condition ? [{ ...reading, condition, score: reading.score + led.size }] : [];
    });
  };
  const readCut = (cut: readonly Chunk[]): LineReading[] => {
    const none = noneOf(cut);
    if (!none) return [...readLed(cut), ...readWhole(cut)];
    const isWhole = ({ unread }: LineReading): boolean => unread.length === 0;
    const before =
      none.before.length > 0
        ? readWhole(none.before)
            .filter(isWhole)
            .sort((a, b) => b.score - a.score)[0]
        : undefined;
    if (none.before.length > 0 && !before) return [];
    return readWhole(none.listed)
      .filter(isWhole)
      .map((reading) => noneHolds(reading, before));
  };
  const read = cuts.flatMap(readCut);
  const normal = (isOneAlone ? read.flatMap(oneAlone) : read)
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
    .map(({ condition, score, unread }) => ({
      condition: normalise(condition, catalogue),
      score,
      unread: unread.map(({ from, to }) => ({ from, to })),
    }))
    .map((reading) => withLostOr(reading, chunks))
    .sort((a, b) => b.score - a.score);
  const written = normal.map(({ condition }) => JSON.stringify(condition));
  const readings = normal.filter((_, index) => written.indexOf(written[index] ?? '') === index).slice(0, MOST_READINGS);
  const isClear = readings.length > 0 || unknown.length > 0;
  return { readings, unknown, inTheWay: isClear ? [] : notFitting(phrase, chunks), isHalfTyped };
}

/** Where somebody said “or”, what asks for all of it has left a word out. What is denied is no alternative: `no phone or email` */
function withLostOr(reading: Reading, chunks: readonly Chunk[]): Reading {
  const or = chunks.find(({ joint }) => joint === 'or');
  if (!or || chunks.some(({ kind }) => kind === 'not') || reading.unread.length > 0 || isEither(reading.condition)) return reading;
  return { ...reading, score: reading.score - LOST_OR, unread: [{ from: or.from, to: or.to }] };
}
const LOST_OR = 0.5;

/** Whether it is enough for something in a condition that one of several holds. */
function isEither(part: unknown, name = ''): boolean {
  if (Array.isArray(part)) return (part.length > 1 && name !== 'of' && name !== 'where') || part.some((each) => isEither(each));
  if (typeof part !== 'object' || part === null) return false;
  const { match } = part as { readonly match?: unknown };
  return match === 'any' || match === 'none' || Object.entries(part).some(([key, each]) => isEither(each, key));
}

/** `customers in none of Glaze keepers, Price-shy and keen`: what is said before it, and what is listed, whatever parts that. */
function noneOf(chunks: readonly Chunk[]): { readonly before: readonly Chunk[]; readonly listed: readonly Chunk[] } | undefined {
  const at = chunks.findIndex(({ text }, index) => /^none$/i.test(text) && /^of$/i.test(chunks[index + 1]?.text ?? ''));
  const listed = chunks.slice(at + 2).map((chunk): Chunk => (chunk.joint === 'and' ? { ...chunk, joint: 'or', text: 'or' } : chunk));
  // `opened none of our messages`: nothing is listed.
  if (at < 0 || !listed.some(({ joint }) => joint === 'or')) return undefined;
  const isSaid = chunks.slice(0, at).some(({ kind }) => kind !== 'filler' && kind !== 'cue');
  return isSaid ? { before: chunks.slice(0, at), listed } : { before: [], listed: [...chunks.slice(0, at), ...listed] };
}

/** All of them, none of which holds. */
function noneHolds({ condition, ...reading }: LineReading, before: LineReading | undefined): LineReading {
  const none: Condition = { match: 'none', of: isGroup(condition) && condition.match === 'any' ? condition.of : [condition] };
  if (!before) return { ...reading, condition: none };
  return { ...reading, score: reading.score + before.score, condition: { match: 'all', of: [before.condition, none] } };
}

/** `started but never finished a course`: a verb alone, which is said of several things, is said of what the other one is. */
function likeTheOther(chunks: readonly Chunk[], catalogue: Catalogue): readonly Chunk[] {
  const kindOf = (meaning: Meaning): string | undefined =>
    meaning.kind === 'signal' && typeof meaning.type === 'number'
      ? catalogue.get('signalType', meaning.type)?.key.split('.')[0]
      : undefined;
  return chunks.map((chunk, at) => {
    // `decider but not buyer`: the part of both in the purchase, where nothing is said of what was bought.
    const next = chunks.slice(at + 1).find(({ kind }) => kind !== 'filler');
    const isBare = next === undefined || next.kind === 'joint';
    const choice = meaningOf(chunk, 'option');
    if (
      isBare &&
      choice &&
      meaningOf(chunk, 'signal') &&
      chunks.some((each) => each !== chunk && meaningOf(each, 'option')?.field === choice.field)
    )
      return { ...chunk, meanings: [choice] };
    if (isForAnother(chunks, at)) {
      const meanings = chunk.meanings.filter(({ kind }) => kind !== 'audience');
      return { ...chunk, kind: meanings.length > 0 ? 'thing' : 'free', meanings };
    }
    const kinds = new Set(chunk.meanings.flatMap((each) => kindOf(each) ?? []));
    const behind = chunks.slice(at + 1).filter(({ kind }) => kind !== 'filler' && kind !== 'not');
    if (kinds.size < 2 || behind[0]?.kind !== 'joint') return chunk;
    // `started, but never finished a course`
    const told = behind.find(({ kind }) => kind !== 'joint');
    const other = told?.meanings.flatMap((each) => kindOf(each) ?? []) ?? [];
    const [same, ...more] = [...new Set(other)].filter((kind) => kinds.has(kind));
    if (same === undefined || more.length > 0) return chunk;
    return { ...chunk, meanings: chunk.meanings.filter((each) => kindOf(each) === undefined || kindOf(each) === same) };
  });
}

/** `registered for the raku evening but not for the kiln opening`: for that event, whatever list is called so. */
function isForAnother(chunks: readonly Chunk[], at: number): boolean {
  const isArticle = ({ kind, text }: Chunk): boolean => kind === 'filler' && /^(an?|the|our)$/i.test(text);
  const preposition = chunks.slice(0, at).findLastIndex((chunk) => !isArticle(chunk));
  const word = chunks[preposition]?.text.toLowerCase() ?? '';
  if (!/^(for|to)$/.test(word) || chunks[preposition - 1]?.kind !== 'not' || !meaningOf(chunks[at] as Chunk, 'audience')) return false;
  return chunks.slice(0, preposition).some((chunk) => meaningOf(chunk, 'signal') && chunk.text.toLowerCase().endsWith(` ${word}`));
}

/** `recently ordered in May`: when it was is said more exactly. */
function atItsTime(chunks: readonly Chunk[]): readonly Chunk[] {
  return chunks.map((chunk, at) => {
    if (chunk.kind !== 'window' || !RECENTLY.test(chunk.text)) return chunk;
    const end = chunks.findIndex(({ kind }, behind) => behind > at && kind === 'joint');
    const isExact = chunks.slice(at + 1, end < 0 ? undefined : end).some(({ kind }) => kind === 'window');
    return isExact ? { ...chunk, kind: 'filler' } : chunk;
  });
}
const RECENTLY = /^(recently|lately|of late)$/i;

/** `throws or builds by hand, but not both`: what stands before, and whether only one of the two is to hold. */
function withoutBoth(chunks: readonly Chunk[]): { readonly chunks: readonly Chunk[]; readonly isOneAlone: boolean } {
  const said = chunks.filter(({ kind }) => kind !== 'filler').slice(-2);
  const isOneAlone = said[0]?.kind === 'not' && /^both$/i.test(said[1]?.text ?? '') && chunks.some(({ joint }) => joint === 'or');
  if (!isOneAlone) return { chunks, isOneAlone };
  const before = chunks.slice(0, chunks.indexOf(said[0] as Chunk));
  const end = before.findLastIndex(({ kind }) => kind !== 'joint' && kind !== 'filler');
  return { chunks: before.slice(0, end + 1), isOneAlone };
}

function oneAlone(reading: LineReading): LineReading[] {
  const two = reading.unread.length === 0 ? twoOf(reading.condition) : undefined;
  if (!two) return [];
  return [
    {
      ...reading,
      condition: {
        match: 'all',
        of: [
          { match: 'any', of: two },
          { match: 'none', of: [{ match: 'all', of: two }] },
        ],
      },
    },
  ];
}

/** The two that stand for each other: `throws or builds by hand`, and `ordered clay or glaze`, which is one line. */
function twoOf(condition: Condition): Condition[] | undefined {
  if (isGroup(condition)) return condition.match === 'any' && condition.of.length === 2 ? [...condition.of] : undefined;
  const [where, ...others] = condition.kind === 'signal' ? (condition.where ?? []) : [];
  const [test, ...more] = where && 'some' in where ? where.of : [];
  if (condition.kind !== 'signal' || !where || !('some' in where) || !test || !('op' in test) || others.length + more.length > 0)
    return undefined;
  if (test.op !== 'is one of' || !Array.isArray(test.value) || test.value.length !== 2) return undefined;
  return test.value.map((value) => ({ ...condition, where: [{ ...where, of: [{ ...test, op: 'is' as const, value }] }] }));
}

/** Known words by which a phrase says nothing that can be asked: what the best attempt leaves out, or all that should have meant something. */
function notFitting(phrase: Phrase, chunks: readonly Chunk[]): Readings['inTheWay'] {
  const [best] = [...lineReadings(phrase, chunks)].sort((a, b) => b.score - a.score);
  const [left = chunks] = [
    best?.unread ?? [],
    chunks.filter(({ kind }) => kind === 'free'),
    chunks.filter(({ kind }) => kind !== 'filler'),
  ].filter((some) => some.length > 0);
  return left.map(({ from, to }) => ({ from, to }));
}
