import { type Chunk } from '../chunks.ts';
import { meaningOf, type MeaningOf } from '../meanings.ts';
import { isByAColleague } from '../names.ts';
import { type Segment } from '../segment.ts';
import { stem } from '../tokens.ts';
import { GENERAL_NOUNS } from '../words/language.ts';
import { isCompanySaid, wordsBefore, type Phrase } from './phrase.ts';

/** What is said where something happened, and by which it is no line about that: it asks for what nobody can answer, or for something else. */
interface Said {
  readonly phrase: Phrase;
  readonly chunks: readonly Chunk[];
  /** the word of what happened */
  readonly head: Chunk;
  readonly meaning: MeaningOf<'signal'>;
  readonly before: string;
  readonly text: string;
}

const has = (chunks: readonly Chunk[], ...kinds: readonly Chunk['kind'][]): boolean => chunks.some(({ kind }) => kinds.includes(kind));

const HOW = 'have|has|had|did|do|not|never|ever|just|last|first|only|also|both|all|once|recently|lately|already';
/** What comes after it was done by us, or by none of us. */
export const BY_US = new RegExp(`\\b(we|i|nobody|no one|noone|none of us)('ve| ?n't| (${HOW}))*$`, 'i');
const WE = new RegExp(BY_US.source.replace('|nobody|no one|noone|none of us', ''), 'i');

const RULES: readonly ((said: Said) => boolean)[] = [
  // `people to call`: nobody says that they were.
  ({ before }) =>
    /\b(people|persons?|contacts?|customers?|leads?|prospects?|clients?|those|ones|list|everyone|anyone|somebody) to$/i.test(before),
  // The buyer of a company has that part in the purchase.
  ({ phrase, head }) => phrase.of === 'company' && /^buyers?$/i.test(head.text),
  // Who wants to buy has not bought, nor had a call who wants one.
  ({ before }) => /\b(wants?|wish(es)?|hopes?|intends?|plans?|would like|about|going|due|expected|supposed) to( be)?$/i.test(before),
  // Who can't be called, is to be or should be may have been.
  ({ before, head }) => /^be /i.test(head.text) || /\b(can|can't|cannot|could|couldn't|may|must|should|shouldn't)( not)? be$/i.test(before),
  // `something other than clay`: clay may have been ordered, too.
  ({ text }) => /\b(something|anything|things?|items?|goods|products?) other than\b/i.test(text),
  ({ before }) => /\b(wants?|needs?|would like|expects?|waits? for|waiting for|due) (an?|another|our|the)$/i.test(before),
  // `we visited them`, `called by them`: that is nothing that they did, or that we did.
  ({ phrase, meaning, before }) => WE.test(before) && isOfTheirs(phrase, meaning),
  ({ text }) => /\bby (them|him|her)\b/i.test(text),
  // `under 25, ordered this month`: how old they are.
  ({ chunks, head }) => isLimitBeforeAJoint(chunks.slice(0, chunks.indexOf(head))),
  // Which of us called them is not known of a call.
  ({ chunks, head }) => isByAColleague(chunks, head),
  // `a member or spent over 2,000`: who is meant by the one is not said by the other.
  ({ chunks }) => saysNothingBeside(chunks),
  // `at least 3 people opened it`: that is asked of a company, and how often one of them did nobody said.
  ({ phrase, text }) =>
    phrase.of === 'contact' &&
    /\b(\d+|two|three|four|five|six|ten) (or more )?(people|persons|contacts|customers|members|leads)\b/i.test(text),
  // `fewer than 2 hours left this month`: how much a tag tells is no number of times.
  ({ phrase, chunks }) =>
    chunks.some((chunk, at) => {
      const tag = chunks[at - 1]?.limit && meaningOf(chunk, 'tag')?.tag;
      return tag !== undefined && phrase.catalogue.body('tag', tag)?.value === 'number';
    }),
  // Who spends much is a spender: how much, nobody said.
  ({ head, chunks }) => /\bspenders?$/i.test(head.text) && !has(chunks, 'limit'),
  // `bought not glaze but clay`: what stands behind is so.
  ({ text }) => /\bnot \S+ but (?!not\b|never\b)/i.test(text),
  // `one order only` is once, which is not asked in that order of words.
  ({ text }) => /\b(one|1|single) \S+ only\b/i.test(text),
  // `order number 5` was preceded by others, and `the number of orders is 3` is not at least three.
  ({ text }) => /\bnumber \d/i.test(text),
  ({ text }) => /\bnumber of \S+ (is|equals|=) \d/i.test(text),
  // What renews within a week has not renewed.
  ({ head, chunks }) => /^renews$/i.test(head.text) && has(chunks, 'window', 'next'),
  // Who never came back has been here: since when they have not, nobody said.
  ({ text }) => /\b(not|never|n't) (came|come) back( to us)?$/i.test(text),
  // Everybody who is here came at some time: back from where is said by what they did before.
  ({ head, chunks }) => /\b(came|come) back\b/i.test(head.text) && !has(chunks, 'window'),
  // `deals that are still open` were not opened.
  ({ head, chunks }) => /^open$/i.test(head.text) && chunks.some(({ cue }) => cue === 'deal'),
  // `never bought one`: of what, nobody said.
  ({ text }) => /\b(not|never|n't) \S+ one$/i.test(text),
  // On which days something was done twice is not asked of anything.
  ({ text }) => /\b((in|on|within) (one|the same|a single)|in a) day\b/i.test(text),
  // Who came back after 90 days did nothing for so long, and within so many days of something is no number of days either.
  ({ chunks }) => chunks.some(({ limit }, at) => limit?.of === 'days' && /^(after|within)$/i.test(chunks[at - 1]?.text ?? '')),
  // `opened all messages`: one is not enough.
  ({ chunks, head }) => /^(all|each|every)$/i.test(chunks[chunks.indexOf(head) + 1]?.text ?? ''),
  // When an event takes place is not told by who registers for it.
  ({ text }) => /\b((still|yet) to come|coming up|upcoming)\b/i.test(text),
  // `bought glaze but deal in quote`: a deal is no thing that was bought.
  ({ phrase, chunks, head, meaning }) => chunks.some((chunk) => chunk.cue === 'deal' && chunk !== head) && !isOfDeals(phrase, meaning),
  ({ chunks }) => isCompanySaid(chunks),
  // `came to Kiln opening and email contains gmail`: a fact contains that, and no evening.
  ({ chunks }) => chunks.some(({ cue }, at) => cue === 'contains' && chunks[at - 1] && meaningOf(chunks[at - 1] as Chunk, 'field')),
];

export function isNoSignalLine(phrase: Phrase, { chunks }: Segment, head: Chunk, meaning: MeaningOf<'signal'>): boolean {
  const said: Said = {
    phrase,
    chunks,
    head,
    meaning,
    before: wordsBefore(chunks, head),
    text: chunks.map((chunk) => chunk.text).join(' '),
  };
  return RULES.some((rule) => rule(said));
}

/** `for two hours`, `for an hour`: how long something took. `for the last two weeks` is when it was. */
export const lastsFor = (chunks: readonly Chunk[]): boolean =>
  chunks.some(({ kind, text }) => kind === 'window' && /^for (?!(the )?(last|past|previous)\b)/i.test(text));

const isOfDeals = ({ catalogue }: Phrase, { type }: MeaningOf<'signal'>): boolean =>
  typeof type === 'number' && /^deal\./.test(catalogue.get('signalType', type)?.key ?? '');

const isLimitBeforeAJoint = (chunks: readonly Chunk[]): boolean =>
  chunks.some(({ kind, text }, at) => kind === 'limit' && /^(over|under|below|above)\b/i.test(text) && has(chunks.slice(at), 'joint'));

const isOfTheirs = ({ catalogue }: Phrase, { type }: MeaningOf<'signal'>): boolean =>
  typeof type === 'number' && catalogue.body('signalType', type)?.direction === 'from them';

/** Whether one side of an `or` is a noun that names nothing in particular. */
function saysNothingBeside(chunks: readonly Chunk[]): boolean {
  const at = chunks.findIndex(({ kind, text }) => kind === 'joint' && /^or$/i.test(text));
  if (at < 0) return false;
  return [chunks.slice(0, at), chunks.slice(at + 1)].some((side) => {
    const said = side.filter(({ kind, cue }) => kind !== 'filler' && cue !== 'oneOf');
    return said.length > 0 && said.every(({ text, meanings }) => meanings.length === 0 && GENERAL_NOUNS.has(stem(text)));
  });
}
