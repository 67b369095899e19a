import { FILLERS, GENERAL_NOUNS } from './words/language.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type SubjectKind } from '../../settings/subject-kind.ts';
import { type Instant } from '../../time/zone.ts';
import { normalise } from '../normalise.ts';
import { prepare } from '../prepare/prepare.ts';
import { isGroup, type Condition, type LeafOf } from '../schema.ts';
import { chunksOf, type Chunk } from './chunks.ts';
import { lexiconOf, type Lexicon } from './lexicon.ts';
import { lineReadings } from './lines/index.ts';
import { type LineReading, type Phrase } from './lines/phrase.ts';
import { meaningOf } from './segment.ts';
import { distance, stem, tokensOf, type Token } from './tokens.ts';

/** One way in which a phrase can be meant. */
export interface Reading {
  readonly condition: Condition;
  /** words that it does not account for, by their places in the text */
  readonly unread: readonly { readonly from: number; readonly to: number }[];
  readonly score: number;
}

/** A word that is not known, with the nearest ones that are. */
export interface UnknownWord {
  readonly from: number;
  readonly to: number;
  readonly nearest: readonly string[];
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
/** What another line costs: words that fit into one belong together. */
const ANOTHER_LINE = 1;
/** How much it costs to begin a line with a time that belongs to the line before. */
const AFTERTHOUGHT = 0.4;
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
  const typed = tokensOf(text);
  const { tokens, unknown } = spelt(typed, lexicon);
  const last = typed.at(-1);
  const isHalfTyped = last?.kind === 'word' && last.to === text.length && !lexicon.knows(last.word);
  const chunks = chunksOf(tokens, lexicon, today);
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
  const apart = chunksOf(tokens, lexicon, today, true);
  const cuts = apart.length === chunks.length ? [chunks] : [chunks, apart];
  const read = cuts.flatMap((cut) => {
    const parted = inLines(cut, phrase, (some) => usable(lineReadings(phrase, some).filter(({ unread }) => unread.length === 0))[0]);
    return [...usable(lineReadings(phrase, cut)), ...(parted ? [parted] : [])];
  });
  const normal = read
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
    .map(({ condition, score, unread }) => ({
      condition: normalise(condition, catalogue),
      score,
      unread: unread.map(({ from, to }) => ({ from, to })),
    }));
  const written = normal.map(({ condition }) => JSON.stringify(condition));
  const readings = normal.filter((_, index) => written.indexOf(written[index] ?? '') === index).slice(0, MOST_READINGS);
  const isClear = readings.length > 0 || unknown.length > 0;
  return { readings, unknown, inTheWay: isClear ? [] : notFitting(phrase, chunks), isHalfTyped };
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

/** How many letters two words have in common from their beginning. */
function alike(a: string, b: string): number {
  let length = 0;
  while (length < a.length && a[length] === b[length]) length += 1;
  return length;
}

/** `poeple`, but not `Elsa`: short words with another letter are more likely names than anything that says nothing. */
const isMisspelt = (typed: string, word: string): boolean =>
  typed[0] === word[0] && (typed.length > 5 || [...typed].sort().join('') === [...word].sort().join(''));

/** `email contains gmail`: what a text begins, ends or goes on with needs to be no word that is known. */
const isPartOfAText = (tokens: readonly Token[], at: number): boolean => {
  const [verb, before] = [tokens[at - 2]?.word ?? '', tokens[at - 1]?.word ?? ''];
  return (
    /^(contain|containing|include)$/.test(before) ||
    (/^(with|in)$/.test(before) && /^(start|begin|end|starting|beginning|ending)$/.test(verb))
  );
};

/** Words that nobody knows here, but for a letter or two, are taken as the ones that are meant. */
function spelt(
  tokens: readonly Token[],
  lexicon: Lexicon,
): { readonly tokens: readonly Token[]; readonly unknown: readonly UnknownWord[] } {
  const unknown: UnknownWord[] = [];
  const mended = tokens.map((token, index) => {
    if (token.kind !== 'word' || lexicon.knows(token.word) || token.word.length < 4 || isPartOfAText(tokens, index)) return token;
    const most = token.word.length >= 8 ? 2 : 1;
    const near = Array.from({ length: 2 * most + 1 }, (_, index) => lexicon.byLength.get(token.word.length - most + index) ?? [])
      .flat()
      .filter((word) => word.length >= 4)
      // What says nothing must be no more than misspelt: a word of its own would be left out in silence.
      .filter((word) => !FILLERS.has(word) || isMisspelt(token.word, word))
      .map((word) => ({ word, far: distance(token.word, word, most) }))
      // Two letters and the first of them besides make another word.
      .filter(({ word, far }) => far <= most && (far < 2 || word[0] === token.word[0]))
      .sort((a, b) => a.far - b.far || alike(token.word, b.word) - alike(token.word, a.word));
    unknown.push({ from: token.from, to: token.to, nearest: [...new Set(near.map(({ word }) => word))].slice(0, 3) });
    const [first] = near;
    return first ? { ...token, word: first.word } : token;
  });
  return { tokens: mended, unknown };
}

interface Parted {
  readonly score: number;
  /** what the last line is about, which the next one may leave out: `budget unknown or under 1,000` */
  readonly head?: Chunk | undefined;
  /** whether the last line is a verb and nothing else: when it was may be said behind the next one, for both */
  readonly isBare?: boolean | undefined;
  /** what it happened to in the last line, which the next one may mean by `one`: `looked at kilns but never bought one` */
  readonly object?: readonly Chunk[] | undefined;
  /** what happened in the last line: `bought glaze this month and clay last month` */
  readonly verb?: Chunk | undefined;
  /** whether two tests of one thing were put together */
  readonly isPutTogether?: boolean | undefined;
  readonly lines: readonly Condition[];
  readonly joints: readonly ('and' | 'or')[];
}

/** `we emailed this month who did not open`: a time with nothing that joins it to what follows belongs to what stands before it. */
const isAfterthought = (chunks: readonly Chunk[], start: number): boolean =>
  chunks[start]?.kind === 'window' && chunks[start - 1]?.kind !== 'joint' && chunks.slice(start + 1).some(({ kind }) => kind === 'thing');

/** Whether a word says what somebody is: `customer`, `decider` */
const isSomebody = (chunk: Chunk | undefined, { catalogue }: Pick<Phrase, 'catalogue'>): boolean =>
  chunk?.meanings.some(
    (each) =>
      ['stage', 'tag', 'band'].includes(each.kind) || (each.kind === 'option' && catalogue.body('field', each.field)?.of === 'contact'),
  ) ?? false;

const BY = /^(by|via)$/i;
/** `started Find your clay`: what stands right behind a verb is what was started, and no line of its own. */
const isCutOff = (chunks: readonly Chunk[], start: number, phrase: Pick<Phrase, 'catalogue' | 'of'>): boolean => {
  const [verb, name] = [chunks[start - 1], chunks[start]];
  // `a decider who opened a message`: the same person is meant, and not anybody of the company.
  const who = [start - 1, start].find((at) => /^(who|whose)$/i.test(chunks[at]?.text ?? ''));
  if (phrase.of === 'company' && who !== undefined && isSomebody(chunks[who - 1], phrase)) return true;
  const [said, next] = [verb?.text ?? '', chunks[start + 1]?.text ?? ''];
  // `phone consent`, `clicked a link about kilns`, `more than 1,000 at once`: they belong to what stands before them.
  if (/^consent$/i.test(name?.text ?? '') && verb?.kind === 'thing') return true;
  if (/^about$/i.test(said) || /^about$/i.test(name?.text ?? '') || (/^at$/i.test(name?.text ?? '') && /^once$/i.test(next))) return true;
  // `visited wheels not kilns`: it is not the wheels that they did not visit.
  if (verb?.kind === 'not' && /^not$/i.test(said)) return true;
  // `consent by phone`: no channel that there is.
  if (chunks[start - (BY.test(said) ? 2 : 1)]?.cue === 'consent' && (BY.test(said) || BY.test(name?.text ?? ''))) return true;
  // `started a form`: any form, and not how somebody came.
  const isGeneral = GENERAL_NOUNS.has(stem(name?.text.split(' ').at(-1) ?? ''));
  const isName =
    name?.kind === 'thing' && (isGeneral || name.meanings.every(({ kind }) => kind === 'form' || kind === 'message' || kind === 'detail'));
  return isName && verb !== undefined && meaningOf(verb, 'signal') !== undefined && /(ed|bought|got|took)$/i.test(verb.text);
};

/** The best way to cut the pieces into several lines, each of which is read whole. */
function inLines(
  chunks: readonly Chunk[],
  phrase: Pick<Phrase, 'catalogue' | 'of'>,
  read: (chunks: readonly Chunk[]) => LineReading | undefined,
): LineReading | undefined {
  const best: (Parted | undefined)[] = [{ score: 0, lines: [], joints: [] }];
  for (let end = 1; end <= chunks.length; end += 1) {
    let chosen: Parted | undefined;
    for (let start = 0; start < end; start += 1) {
      const before = best[start];
      if (!before || isCutOff(chunks, start, phrase)) continue;
      const { inner: said, joint } = trimmed(chunks.slice(start, end));
      if (said.length === 0) continue;
      const inner = meantByOne(said, before.object);
      const denied = before.verb && before.object?.length && isThatAlone(inner, before.verb) ? read([before.verb, ...inner]) : undefined;
      const another = joint === 'and' && before.object?.length && isAnotherThing(chunks.slice(start, end));
      const alike = before.verb && another ? read([before.verb, ...inner]) : undefined;
      const own = denied ?? alike ?? sameThing(before.lines.at(-1), read(inner), inner, phrase.catalogue);
      const again = !own && before.head && isTestAlone(inner) ? before.head : undefined;
      const elided = !own && !again && before.verb && isObjectAndTime(inner) ? before.verb : undefined;
      const line = own ?? (again && read([again, ...inner])) ?? (elided && read([elided, ...inner]));
      if (!line) continue;
      const late = start > 0 && isAfterthought(chunks, start) ? AFTERTHOUGHT : 0;
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
          object: objectIn(inner),
          verb: inner.find((chunk) => meaningOf(chunk, 'signal')) ?? elided,
          isBare: inner.every((chunk) => meaningOf(chunk, 'signal') !== undefined || chunk.kind === 'filler'),
          isPutTogether: before.isPutTogether || again !== undefined,
          ...(again ? withAlso(before, joint, line.condition) : withLine(within(before, line.condition, inner), joint, line.condition)),
        };
    }
    best.push(chosen);
  }
  const found = best.at(-1);
  const [first, ...others] = found?.lines ?? [];
  if (!found || !first) return undefined;
  // One line alone is read as it is, unless it was put together.
  if (others.length === 0 && !found.isPutTogether) return undefined;
  return { condition: others.length === 0 ? first : joined(found), score: found.score, unread: [] };
}

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
    at === chunks.length - 1 &&
    condition.type !== before.type &&
    (chunks[at - 1]?.kind === 'not' ||
      (chunks.slice(0, at).every(({ kind }) => kind === 'filler') && isAlike(before, condition, catalogue)));
  if (!isBare && !/^(it|them)$/i.test(chunks[at + 1]?.text ?? '')) return line;
  const known = new Set(catalogue.detailsOf(catalogue.signalTypes(condition.type)).map(({ key }) => key));
  const isKnown = before.where.every((each) => known.has('path' in each ? each.path : 'some' in each ? each.some : each.none));
  return isKnown ? { ...line, condition: { ...condition, where: before.where } } : line;
}

/** `registered for First bowl but did not come`, in words that are one thing: both are of evenings, of plans, of messages. */
const isAlike = (one: LeafOf<'signal'>, other: LeafOf<'signal'>, catalogue: Catalogue): boolean => {
  const [kinds, others] = [one, other].map(({ type }) =>
    catalogue.signalTypes(type).map((id) => catalogue.get('signalType', id)?.key.split('.')[0]),
  );
  return others?.length === 1 && kinds?.every((each) => each === others[0]) === true;
};

/** `opened but not clicked in the last 30 days`: of what is no more than two verbs the time is said once, at the end. */
function within(before: Parted, condition: Condition, chunks: readonly Chunk[]): Lines {
  const last = before.lines.at(-1);
  const isOfBoth =
    before.isBare && last !== undefined && !isGroup(last) && last.kind === 'signal' && !isGroup(condition) && condition.kind === 'signal';
  const isTimed =
    chunks.at(-1)?.kind === 'window' &&
    chunks.every((chunk) => ['filler', 'not', 'window'].includes(chunk.kind) || meaningOf(chunk, 'signal'));
  if (!isOfBoth || !isTimed || condition.within === undefined || last.within !== undefined) return before;
  return { ...before, lines: before.lines.with(-1, { ...last, within: condition.within }) };
}

/** `but bought none`: of what the line before speaks. */
function meantByOne(chunks: readonly Chunk[], object: readonly Chunk[] | undefined): readonly Chunk[] {
  const [head, one] = chunks.slice(-2);
  if (!object || object.length === 0 || !head || !meaningOf(head, 'signal') || !/^(one|none|any)$/i.test(one?.text ?? '')) return chunks;
  return [...chunks.filter((chunk) => chunk !== one || chunk.kind === 'not'), ...object];
}

/** What it happened to: the words right behind what happened. */
function objectIn(chunks: readonly Chunk[]): readonly Chunk[] {
  const behind = chunks.slice(chunks.findIndex((chunk) => meaningOf(chunk, 'signal')) + 1);
  const end = behind.findIndex(({ kind, text }) => !(kind === 'free' || kind === 'thing' || ARTICLE.test(text)));
  return (end < 0 ? behind : behind.slice(0, end)).filter(({ kind }) => kind !== 'filler');
}
const ARTICLE = /^(an?|the|some|any|at|our)$/i;

type Lines = Pick<Parted, 'lines' | 'joints'>;
const withLine = ({ lines, joints }: Lines, joint: 'and' | 'or', line: Condition): Lines => ({
  lines: [...lines, line],
  joints: lines.length > 0 ? [...joints, joint] : [],
});

/** Another test of what the last line is about belongs to that line alone: `in Sweden, and budget unknown or under 1,000` */
function withAlso({ lines, joints }: Lines, joint: 'and' | 'or', also: Condition): Lines {
  const last = lines.at(-1);
  return last
    ? { lines: [...lines.slice(0, -1), { match: joint === 'or' ? 'any' : 'all', of: [last, also] }], joints }
    : { lines: [also], joints };
}

/** The fact or the score that a line is about, or what happened, if nothing more is said of it. */
const headIn = (chunks: readonly Chunk[]): Chunk | undefined =>
  chunks.find(({ meanings }) => meanings.some(({ kind }) => kind === 'field' || kind === 'scorecard')) ??
  chunks.find((chunk) => meaningOf(chunk, 'signal') && isTestAlone(chunks.filter((each) => each !== chunk && each.kind !== 'not')));

/** `clay last month`: a thing and a time, of what was said before. */
const isObjectAndTime = (chunks: readonly Chunk[]): boolean => {
  const words = chunks.filter(({ kind }) => kind !== 'filler' && kind !== 'window');
  const isThing = ({ kind, meanings }: Chunk): boolean =>
    kind === 'free' || (kind === 'thing' && meanings.every((each) => each.kind === 'detail' || each.kind === 'family'));
  return chunks.at(-1)?.kind === 'window' && words.length > 0 && words.every(isThing);
};

/** `visited wheels but not kilns`: a thing that it was not, of what was said before. What is called so by its details is one, too. */
const isThatAlone = (chunks: readonly Chunk[], verb: Chunk): boolean => {
  const [not, thing, ...more] = chunks.filter(({ kind }) => kind !== 'filler');
  if (!thing || more.length > 0 || not?.kind !== 'not' || !/^not$/i.test(not.text)) return false;
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
/** `and has a kiln`: something is said of somebody. */
const SAYS_WHAT = /^(is|are|was|were|has|have|had|owns?|with|who|whose|in|from)$/i;
/** What a thing may mean that somebody bought, looked at or opened: others are what people are. */
const OBJECTS: ReadonlySet<string> = new Set(['detail', 'family', 'field', 'form', 'message']);

/** Whether it is said only how something is: by a number, a time, or that nothing is known. */
const isTestAlone = (chunks: readonly Chunk[]): boolean =>
  chunks.every(
    ({ kind, cue }) =>
      ['limit', 'window', 'next', 'not', 'filler'].includes(kind) || (kind === 'cue' && (cue === 'empty' || cue === 'filled')),
  ) && chunks.some(({ kind }) => kind !== 'filler' && kind !== 'not');

/** Without what joins it to the line before, and whether that is an "or". */
function trimmed(chunks: readonly Chunk[]): { readonly inner: readonly Chunk[]; readonly joint: 'and' | 'or' } {
  let start = 0;
  let joint: 'and' | 'or' = 'and';
  while (chunks[start]?.kind === 'joint' || chunks[start]?.kind === 'filler') {
    if (chunks[start]?.joint === 'or') joint = 'or';
    // Whether we did it or they did is part of what is said.
    if (/^we$/i.test(chunks[start]?.text ?? '')) break;
    start += 1;
  }
  let end = chunks.length;
  while (end > start && chunks[end - 1]?.kind === 'filler') end -= 1;
  // A joint at the end belongs to the line that follows.
  return chunks[end - 1]?.kind === 'joint' ? { inner: [], joint } : { inner: chunks.slice(start), joint };
}

/** "And" binds closer than "or". */
function joined({ lines, joints }: Parted): Condition {
  const alternatives: Condition[][] = [[]];
  for (const [index, line] of lines.entries()) {
    if (index > 0 && joints[index - 1] === 'or') alternatives.push([]);
    alternatives.at(-1)?.push(line);
  }
  const all = (of: readonly Condition[]): Condition => (of.length === 1 && of[0] ? of[0] : { match: 'all', of: [...of] });
  return alternatives.length === 1 ? { match: 'all', of: alternatives[0] ?? [] } : { match: 'any', of: alternatives.map(all) };
}
