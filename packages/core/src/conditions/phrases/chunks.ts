import { type Window } from '../../time/window.ts';
import { type Lexicon, type Meaning } from './lexicon.ts';
import { readLimit, type Limit } from './limits.ts';
import { taken, type Read, type Span } from './amounts.ts';
import { type Today } from './periods.ts';
import { readNext, readWindow } from './times.ts';
import { runOf, type Token } from './tokens.ts';
import { CUES, type Cue } from './words/cues.ts';
import { FILLERS, isNegation, JOINTS } from './words/language.ts';
import { monthAgain, yearAgain } from './times-again.ts';
import { NOTHING_WORDS } from './words/signals.ts';

/** A piece of a phrase with a part to play in a line. */
export interface Chunk {
  readonly kind: 'thing' | 'window' | 'next' | 'limit' | 'not' | 'joint' | 'cue' | 'filler' | 'free';
  /** of the text */
  readonly from: number;
  readonly to: number;
  /** as it was typed, but for misspelt words */
  readonly text: string;
  readonly typed: string;
  /** how many words it is made of: so much it counts for */
  readonly size: number;
  readonly meanings: readonly Meaning[];
  readonly cue?: Cue | undefined;
  readonly window?: Window | undefined;
  /** the words of the window would do for what is still to come as well: `in 7 days` */
  readonly isOpen?: true | undefined;
  readonly span?: Span | undefined;
  readonly limit?: Limit | undefined;
  readonly joint?: 'and' | 'or' | undefined;
}
/** What a chunk is, besides where it stands. */
type Part = Omit<Chunk, 'from' | 'to' | 'text' | 'typed' | 'size' | 'meanings'> & { readonly meanings?: readonly Meaning[] };

const FILLER_WORDS: ReadonlySet<string> = new Set([...FILLERS].map(runOf));
const NOTHING: ReadonlySet<string> = new Set(Object.values(NOTHING_WORDS).flat().map(runOf));
const BOTH = [
  ', who',
  'who also',
  'that also',
  'and who also',
  'who have also',
  'who has also',
  'who are also',
  'who is also',
  'that are also',
  'as well as',
  'in addition to',
  'along with',
].map(runOf);
/** Words that say more by what they are in the language than by what they are called in a workspace. */
const STRONG_CUES: ReadonlySet<Cue> = new Set(['stage', 'owner', 'tag', 'consent', 'withdrawn', 'undeliverable', 'deal', 'company']);

/** Runs of words that say nothing by themselves. */
const FILLER_RUNS = [
  'right now',
  'at the moment',
  'at present',
  'as of now',
  'as of today',
  'these days',
  'by now',
  'in our database',
  'so far',
  'at once',
  'to date',
  'thus far',
  'up to now',
  'until now',
  'how many',
  'in the basket',
  'in the cart',
  'in their basket',
  'in their cart',
];
const EVERYONE: ReadonlySet<string> = new Set(['everyone', 'everybody', 'anyone', 'anybody', 'all']);

/** How many messages somebody got: `no email`, `more than 5 emails` */
const OF_MESSAGES =
  /^(no( new| other)?|any|an|a|one|((more|fewer|less) than |at (least|most) |over |under )?(\d+|two|three|four|five|six|ten)|several|many) (e-?mail|mail|message|newsletter)\b/;
const OF_CALLS = /^(call|called|phone|phoned|rang|rung|ring|telephoned)$/;

/** Whether a word is one of the language and no name. */
const isOfTheLanguage = (word: string): boolean => FILLER_WORDS.has(word) || isNegation(word) || JOINTS.has(word) || word.length < 2;

function readCue(tokens: readonly Token[], at: number): Read<Cue> | undefined {
  let best: Read<Cue> | undefined;
  for (const [value, runs] of CUES) {
    const length = taken(tokens, at, runs);
    if (length > (best?.length ?? 0)) best = { value, length };
  }
  return best;
}

/** `has not filled in any form`: no field is empty by that. */
const isAboutAForm = (tokens: readonly Token[], at: number): boolean =>
  /^not filled (in|out) (an?|any|our|the|this|that|one) /.test(wordsFrom(tokens, at, 5));

const wordsFrom = (tokens: readonly Token[], at: number, most: number): string =>
  tokens
    .slice(at, at + most)
    .map(({ word }) => word)
    .join(' ');

/** The piece that begins here: the longest that can be read, and of equal ones a time before a thing, a thing before a number. */
function partAt(tokens: readonly Token[], at: number, lexicon: Lexicon, today: Today | undefined, isApart: boolean): Read<Part> {
  const token = tokens[at] as Token;
  const made = (value: Part, length: number): Read<Part> => ({ value, length });
  // `who also`, `as well as`: both hold.
  const both = at > 0 ? taken(tokens, at, BOTH) : 0;
  if (both > 0) return made({ kind: 'joint', joint: 'and' }, both);
  const joint = JOINTS.get(token.word);
  // Everyone but customers are those who are none.
  if (token.word === 'but' && EVERYONE.has(tokens[at - 1]?.word ?? '') && tokens[at - 2]?.word !== 'at') return made({ kind: 'not' }, 1);
  // Nothing but clay is clay alone.
  if (token.word === 'nothing' && tokens[at + 1]?.word === 'but') return made({ kind: 'filler' }, 2);
  // `below 10 or above 60`: behind an "or" another limit begins.
  if (joint && (token.kind === 'sign' || (joint === 'or' && readLimit(tokens, at + 1)))) return made({ kind: 'joint', joint }, 1);
  // `country known or below keen`: before a place another line begins.
  const isPlace = (found: ReturnType<Lexicon['find']>): boolean =>
    found?.meanings.some(({ kind }) => kind === 'stage' || kind === 'band') === true;
  if (joint === 'or' && /^(below|above|at|beyond)$/.test(tokens[at + 1]?.word ?? '') && isPlace(lexicon.find(tokens, at + 2)))
    return made({ kind: 'joint', joint }, 1);
  // `list of people with consent`: what is asked for is a list.
  if (at === 0 && token.word === 'list' && /^(of|all|every|everyone|everybody|people|person|contact|customer)$/.test(tokens[1]?.word ?? ''))
    return made({ kind: 'filler' }, 1);
  // `a page with kiln in it`
  if (token.word === 'with' && /^in (it|them|the (name|title|address|path))( |$)/.test(wordsFrom(tokens, at + 2, 4)))
    return made({ kind: 'cue', cue: 'contains' }, 1);
  const filler = taken(tokens, at, FILLER_RUNS);
  if (filler > 0) return made({ kind: 'filler' }, filler);
  if (isOurs(tokens, at)) return made({ kind: 'filler' }, 2);
  // `ex-members`
  if (token.word === 'ex' && tokens[at + 1]?.text === '-') return made({ kind: 'cue', cue: 'ever' }, 2);
  // Who stopped doing something has done it, and for how long they have not, nobody said.
  if (/^(stopped|stop|quit|ceased)$/.test(token.word) && lexicon.find(tokens, at + 1)?.meanings.some(({ kind }) => kind === 'signal'))
    return made({ kind: 'free' }, 1);
  // `missed two classes in a row`: no class is called so.
  if (/^in (a row|succession)\b/.test(wordsFrom(tokens, at, 3))) return made({ kind: 'free' }, tokens[at + 1]?.word === 'a' ? 3 : 2);
  // `members about to renew`: they have not yet.
  if (
    token.word === 'about' &&
    tokens[at + 1]?.word === 'to' &&
    lexicon.find(tokens, at + 2)?.meanings.some(({ kind }) => kind === 'signal')
  )
    return made({ kind: 'free' }, 2);
  // `first-time buyers this month` ordered for the first time then; without a time they have ordered once.
  const firstTime =
    /^first( -)? time (buyer|shopper|purchaser|visitor)$/.exec(wordsFrom(tokens, at, 3)) ??
    /^first - time (buyer|shopper|purchaser|visitor)$/.exec(wordsFrom(tokens, at, 4));
  if (firstTime && tokens.some((_, index) => index > at && readWindow(tokens, index, today)))
    return made({ kind: 'cue', cue: 'first' }, firstTime[0].split(' ').length - 1);
  // `wants texts but no email`: to what somebody agreed.
  if (/^wants?$/.test(token.word) && isOfAChannel(tokens, at + 1)) return made({ kind: 'cue', cue: 'consent' }, 1);
  // `nobody's customers`, `customers of nobody`
  if (/^nobody['’]s$/i.test(token.text) || (token.word === 'nobody' && tokens[at - 1]?.word === 'of'))
    return made({ kind: 'cue', cue: 'unowned' }, 1);
  // `ordered not before June`: since then. `ordered up to last week`: until then.
  const isBound = wordsFrom(tokens, at, 2) === 'not before' && lexicon.find(tokens, at - 1)?.meanings.some(({ kind }) => kind === 'signal');
  if (isBound || wordsFrom(tokens, at, 2) === 'up to') {
    const bound = readWindow(tokens, at + (isBound ? 1 : 2), today);
    if (bound) return made({ kind: 'free' }, isBound ? 2 : 2 + bound.length);
  }
  const again = monthAgain(tokens, at, today);
  if (again) return made({ kind: 'window', ...again.value }, again.length);
  const year = yearAgain(tokens, at);
  if (year !== undefined) return made({ kind: 'window', window: { from: `${year}-01-01`, to: `${year + 1}-01-01` } }, 1);
  // `unopened Your glaze shelf`
  const undone = /^un(opened|read|clicked)$/.exec(token.word)?.[1];
  const done = undone === undefined ? undefined : lexicon.find([{ ...token, word: undone }], 0);
  if (done) return made({ kind: 'thing', meanings: done.meanings, cue: 'empty' }, 1);
  const next = readNext(tokens, at);
  const window = readWindow(tokens, at, today);
  const limit = readLimit(tokens, at);
  const known = knownAt(tokens, at, lexicon, today);
  const found = known && (isNamed(tokens, at, known) || (known.length === 1 && isAdjective(tokens, at, lexicon))) ? undefined : known;
  // Who registered and came was there.
  const isThere =
    !found &&
    /^(came|come|appeared)$/.test(token.word) &&
    (isLast(tokens, at) || readWindow(tokens, at + 1, today) !== undefined) &&
    (JOINTS.has(tokens[at - 1]?.word ?? '') || isNegation(tokens[at - 1]?.word ?? ''));
  // `got no email` says what `received no email` says.
  const isGot =
    !found &&
    /^(got|sent)$/.test(token.word) &&
    !/^(we|that)$/.test(tokens[at - 1]?.word ?? '') &&
    OF_MESSAGES.test(wordsFrom(tokens, at + 1, 5));
  // `repeat customers` bought again, whatever stage they are at.
  const isBuyer = token.word === 'customer' && /^(repeat|returning)$/.test(tokens[at - 1]?.word ?? '');
  const meant = isThere ? 'attended' : isGot ? 'received' : isBuyer ? 'buyer' : undefined;
  const there = meant === undefined ? undefined : lexicon.find([{ ...token, word: meant }], 0);
  const thing = there ?? (isApart && found && isDone(found, lexicon, tokens, at) ? lexicon.find([token], 0) : found);
  const said = isAboutAForm(tokens, at) ? undefined : readCue(tokens, at);
  // Only a call goes unanswered: who wrote to us and got no answer heard nothing from us.
  const cue =
    said?.value === 'unanswered' && tokens[at + said.length - 2]?.word === 'no' && !tokens.some(({ word }) => OF_CALLS.test(word))
      ? undefined
      : said;
  const longest = Math.max(...[next, window, limit, thing, cue].map((each) => each?.length ?? 0));
  if (next?.length === longest) return made({ kind: 'next', span: next.value }, longest);
  if (window?.length === longest) return made({ kind: 'window', ...window.value }, longest);
  const isCue = cue?.length === longest;
  // A choice called “no” or “A” is meant only where its field is spoken of: by itself the word is one of the language.
  const isPlain = thing?.length === 1 && !there && isOfTheLanguage(token.word) && !isTheirs(tokens, at, thing.meanings);
  // `show me`: nothing is said of whoever asks.
  const isAsking = token.word === 'me' && /^(show|give|list|find|get|tell|let)$/.test(tokens[at - 1]?.word ?? '');
  const meanings = isPlain && !isAsking ? thing.meanings : undefined;
  if (thing?.length === longest && !isPlain && !(isCue && STRONG_CUES.has(cue.value))) {
    const words = tokens
      .slice(at, at + longest)
      .map((each) => each.word)
      .join(' ');
    return made({ kind: 'thing', meanings: thing.meanings, cue: NOTHING.has(words) ? 'empty' : isCue ? cue.value : undefined }, longest);
  }
  if (limit?.length === longest) return made({ kind: 'limit', limit: limit.value }, longest);
  const alsoMeant = cue?.value === 'withdrawn' && thing?.length === cue.length ? thing.meanings : undefined;
  if (cue && cue.length > 1) return made({ kind: 'cue', cue: cue.value, meanings: alsoMeant }, cue.length);
  if (/^(!=|<>|≠)$/.test(token.text)) return made({ kind: 'not' }, 1);
  // `stage >= suited`: before a place as before a number.
  if (token.kind === 'sign' && COMPARING.test(token.text)) {
    const how = COMPARED[token.text];
    return made(how === undefined ? { kind: 'free' } : { kind: 'cue', cue: how }, 1);
  }
  if (token.word === 'other' && tokens[at + 1]?.word === 'than') return made({ kind: 'not' }, 2);
  if (isNegation(token.word)) return made({ kind: 'not', meanings, cue: cue?.value }, 1);
  if (joint) return made({ kind: 'joint', joint, meanings }, 1);
  if (cue) return made({ kind: 'cue', cue: cue.value, meanings }, 1);
  const isFiller = (token.kind === 'sign' && token.text !== '%') || FILLER_WORDS.has(token.word);
  return made({ kind: isFiller ? 'filler' : 'free', meanings }, 1);
}

const COMPARING = /^[<>]=?$|^[≤≥]$/;
const COMPARED: Readonly<Record<string, Cue>> = { '>=': 'atLeast', '≥': 'atLeast', '>': 'above', '<': 'below' };

/** `replied to anything we sent`: what comes to them is ours anyway. When it was sent would be more. */
const isOurs = (tokens: readonly Token[], at: number): boolean =>
  /^we sent$/.test(wordsFrom(tokens, at, 2)) &&
  /^(anything|something|message|messages|email|emails|mail|mails|newsletter|newsletters)$/.test(tokens[at - 1]?.word ?? '') &&
  (isLast(tokens, at + 1) || JOINTS.has(tokens[at + 2]?.word ?? ''));

/** `came to Open studio`: a verb with a capital letter, where a name is to be expected, begins one. */
const isNamed = (
  tokens: readonly Token[],
  at: number,
  { meanings, length }: { readonly meanings: readonly Meaning[]; readonly length: number },
): boolean =>
  length === 1 &&
  /^\p{Lu}/u.test(tokens[at]?.text ?? '') &&
  /^(to|for|at|in|of)$/i.test(tokens[at - 1]?.text ?? '') &&
  // Where all is written in capitals they say nothing by themselves.
  (!/^\p{Lu}+$/u.test(tokens[at - 1]?.text ?? '') || tokens[at + 1]?.kind === 'word') &&
  meanings.every(({ kind }) => kind === 'signal');

/** `an open studio`: behind an article it says what kind of thing is meant. */
const isAdjective = (tokens: readonly Token[], at: number, lexicon: Lexicon): boolean => {
  const behind = tokens[at + 1];
  // `attended the raku evening but not open studio`
  const isInsteadOf =
    tokens[at - 1]?.word === 'not' && JOINTS.has(tokens[at - 2]?.word ?? '') && behind !== undefined && !FILLER_WORDS.has(behind.word);
  return (
    tokens[at]?.word === 'open' &&
    (/^(an?|the|our)$/.test(tokens[at - 1]?.word ?? '') || isInsteadOf) &&
    behind?.kind === 'word' &&
    !lexicon.find([behind], 0)?.meanings.some(({ kind }) => kind !== 'detail')
  );
};

const isOfAChannel = (tokens: readonly Token[], at: number): boolean => {
  const cue = readCue(tokens, at + (/^(our|no|to)$/.test(tokens[at]?.word ?? '') ? 1 : 0));
  return cue?.value === 'email' || cue?.value === 'textChannel' || cue?.value === 'chat';
};

/** Whether nothing more is said behind it. */
const isLast = (tokens: readonly Token[], at: number): boolean =>
  tokens.slice(at + 1).every(({ kind, word }) => kind === 'sign' || word === 'yet');

/** `called in 30 days`: the word belongs to the time, and nobody called in. */
const isBeforeATime = (tokens: readonly Token[], at: number, length: number, today: Today | undefined): boolean =>
  length > 1 &&
  /^(in|on|for|within)$/.test(tokens[at + length - 1]?.word ?? '') &&
  readWindow(tokens, at + length - 1, today) !== undefined;

/** What is known by the words that begin here. Who never came to an evening did not miss it: what is denied says more than both together. */
function knownAt(tokens: readonly Token[], at: number, lexicon: Lexicon, today: Today | undefined): ReturnType<Lexicon['find']> {
  const whole = lexicon.find(tokens, at);
  const found = whole && isBeforeATime(tokens, at, whole.length, today) ? lexicon.find(tokens.slice(0, at + whole.length - 1), at) : whole;
  const behind = isNegation(tokens[at]?.word ?? '') && found && found.length > 1 ? lexicon.find(tokens, at + 1) : undefined;
  if (found && behind && behind.length >= found.length && behind.meanings.some(({ kind }) => kind === 'signal')) return undefined;
  // `been at the wheel`: what is known by more words is meant, where the first of these say nothing by themselves.
  if (found?.length === 2 && FILLER_WORDS.has(tokens[at]?.word ?? '') && (lexicon.find(tokens, at + 1)?.length ?? 0) > 2) return undefined;
  return found;
}

/** Whether a tag is called by what somebody did: `has bought glaze` */
function isDone(
  { meanings, length }: { readonly meanings: readonly Meaning[]; readonly length: number },
  lexicon: Lexicon,
  tokens: readonly Token[],
  at: number,
): boolean {
  const verb = tokens.slice(at, at + 2).find(({ word }) => word !== 'has' && word !== 'have');
  const isSignal = verb !== undefined && lexicon.find([verb], 0)?.meanings.some(({ kind }) => kind === 'signal');
  const isPast = /(ed|bought|came|went|got|took|spent|made|left)$/.test(verb?.word ?? '');
  return length > 1 && isPast && isSignal === true && meanings.every(({ kind }) => kind === 'tag');
}

/** `my customers`, `mine`: those that whoever asks looks after. */
const isTheirs = (tokens: readonly Token[], at: number, meanings: readonly Meaning[]): boolean =>
  meanings.some(({ kind }) => kind === 'person') &&
  (tokens[at]?.word === 'mine' ||
    (tokens[at]?.word === 'my' &&
      /^(contact|person|people|customer|lead|prospect|client|account|folk|regular|one|list)$/.test(tokens[at + 1]?.word ?? '')));

/** Whether nothing but a hyphen parts a token from the one before it. */
const isHyphened = (tokens: readonly Token[], at: number): boolean =>
  tokens[at - 1]?.to === tokens[at]?.from && (tokens[at]?.text === '-' || tokens[at - 1]?.text === '-');

const NO_MORE_SAID: Read<Part> = { value: { kind: 'filler' }, length: 1 };

/** `took at least two classes`: what is called by a verb with its noun, with a number between the two. @returns also where the noun is */
function countedVerb(tokens: readonly Token[], at: number, lexicon: Lexicon): (Read<Part> & { readonly noun: number }) | undefined {
  const verb = tokens[at];
  const limit = verb?.kind === 'word' ? readLimit(tokens, at + 1) : undefined;
  const noun = limit && tokens[at + 1 + limit.length];
  if (!verb || !noun || noun.kind !== 'word' || limit.value.of !== undefined) return undefined;
  if (lexicon.find([verb], 0)?.meanings.some(({ kind }) => kind === 'signal')) return undefined;
  const one = { ...noun, word: noun.word.replace(/sse$/, 'ss') };
  const found = lexicon.find([verb, { ...noun, text: 'a', word: 'a' }, one], 0);
  const isWhole = found?.length === 3 && found.meanings.some(({ kind }) => kind === 'signal');
  return isWhole ? { value: { kind: 'thing', meanings: found.meanings }, length: 1, noun: at + 1 + limit.length } : undefined;
}

/** Cuts a phrase into its pieces. @param isApart takes the name of a tag apart that says what somebody did */
export function chunksOf(tokens: readonly Token[], lexicon: Lexicon, today: Today | undefined, isApart = false): readonly Chunk[] {
  const chunks: Chunk[] = [];
  const nouns = new Set<number>();
  for (let at = 0; at < tokens.length;) {
    const counted = countedVerb(tokens, at, lexicon);
    if (counted) nouns.add(counted.noun);
    const { value, length } = counted ?? (nouns.has(at) ? NO_MORE_SAID : partAt(tokens, at, lexicon, today, isApart));
    const own = tokens.slice(at, at + length);
    const [first, last] = [own[0] as Token, own.at(-1) as Token];
    chunks.push({
      ...value,
      meanings: value.meanings ?? [],
      from: first.from,
      to: last.to,
      text: joined(own, ({ text }) => text),
      typed: joined(own, ({ text, misspelt = text }) => misspelt),
      size: length,
    });
    at += length;
  }
  return chunks.map((chunk, index) => {
    if (isArticle(chunk, chunks[index - 1], chunks[index + 1])) return { ...chunk, meanings: [] };
    return isEarlier(chunks, index) ? { ...chunk, cue: 'ever' } : chunk;
  });
}

const joined = (tokens: readonly Token[], textOf: (token: Token) => string): string =>
  tokens.map((token, at) => (at > 0 && !isHyphened(tokens, at) ? ` ${textOf(token)}` : textOf(token))).join('');

/** `was keen before, now quiet`: before now, since nothing stands behind it. */
const isEarlier = (chunks: readonly Chunk[], at: number): boolean =>
  /^before$/i.test(chunks[at]?.text ?? '') &&
  (chunks[at + 1] === undefined || chunks[at + 1]?.kind === 'joint') &&
  chunks.slice(0, at).some(({ text }) => /^(was|were|has|have|had)\b/i.test(text));

/** `at a place with grade B`: of a choice that is called A nothing is said. */
const isArticle = (chunk: Chunk, before: Chunk | undefined, behind: Chunk | undefined): boolean =>
  chunk.text === 'a' &&
  behind !== undefined &&
  behind.kind !== 'joint' &&
  before?.kind !== 'joint' &&
  !before?.meanings.some(({ kind }) => kind === 'field' || kind === 'option');
