import { type Chunk } from './chunks.ts';
import { type Meaning } from './lexicon.ts';
import { meaningOf } from './meanings.ts';
import { stem } from './tokens.ts';
import { MEASURING } from './words/language.ts';

/** Where a piece stands of which it is asked whether it is a name: of what was bought, visited, started. */
interface Place {
  /** the pieces among which names are looked for */
  readonly within: readonly Chunk[];
  /** the keys of the types of signals that the line is about; none where it is about something else */
  readonly types: readonly string[];
  /** behind a word of the same name */
  readonly isOpen: boolean;
  /** right behind the word of what happened, or another name */
  readonly isDirect: boolean;
  readonly isAfterOr: boolean;
  /** known to be a name of this kind */
  readonly isKnown: boolean;
  /** what was last found to be a name */
  readonly last: Chunk | undefined;
}

/** Whether a piece that might be a name is none, because it says something else where it stands. */
export function isNoName(chunk: Chunk, { within, types, isOpen, isDirect, isAfterOr, isKnown, last }: Place): boolean {
  const before = within[within.indexOf(chunk) - 1];
  if (isMeasure(chunk, isOpen, before) || isSeason(within, chunk) || isOfAnother(within, chunk)) return true;
  if (!isKnown) {
    // Who stands at a stage is not what was bought.
    if (chunk.meanings.some(({ kind }) => kind === 'stage' || (kind === 'band' && !isDirect && types.length > 0))) return true;
    if (isWhere(within, chunk)) return true;
    if ((!isDirect || isAfterOr || (isOpen && meaningOf(chunk, 'answer'))) && isCalledOtherwise(chunk)) return true;
    if (isAfterOr && isAskedOf(within, chunk)) return true;
  }
  if (/^turn(s|ed|ing)?$/i.test(chunk.text) && within[within.indexOf(chunk) + 1]?.kind === 'limit') return true;
  // `clay during Lent`, `clay despite the price`: nothing is called so.
  if (chunk.kind === 'free' && NO_PART_OF_A_NAME.test(chunk.text)) return true;
  if (!isOpen && (isBehindAnother(within, chunk, last) || isWithSomething(within, chunk, types))) return true;
  if (types.length === 0) return false;
  return isDomain(within, chunk) || isFormElsewhere(chunk, types) || isOfAPlanThatEnded(within, chunk, types) || isOfOthers(chunk, types);
}

/** `a wheel for their studio`: what nothing joins to a name before it is not another one. */
function isBehindAnother(within: readonly Chunk[], chunk: Chunk, last: Chunk | undefined): boolean {
  if (!last) return false;
  const between = within.slice(within.indexOf(last) + 1, within.indexOf(chunk));
  return between.some(({ kind }) => kind === 'filler') && !between.some(({ kind }) => kind === 'joint' || kind === 'not');
}

/** Words by which it is said how what follows goes with what stands before. */
export const PREPOSITION = /^(for|with|from|by|at|on|in|about|over|to|of|via|through|during|as|into|because|after|before|without|within)$/i;

const NO_PART_OF_A_NAME =
  /^(in a row|in succession|not before|up to .*|via|through|during|because|despite|against|near|nearby|towards?|among|inside|regarding|concerning|beside|besides|per|versus|instead)$/i;

/** Behind which words the name of something stands, by how the key of its type begins: `came three times to the raku evening` */
const NAMED_BEHIND: Readonly<Record<string, RegExp>> = {
  order: /^(of)$/i,
  checkout: /^(with|of)$/i,
  page: /^(to|of|at|on|about)$/i,
  'event.registered': /^(to|for|at|in|of)$/i,
  event: /^(to|at|in|of)$/i,
  file: /^(of)$/i,
  plan: /^(of|to)$/i,
  course: /^(of|to)$/i,
  role: /^(of|as)$/i,
  group: /^(of|to|into)$/i,
  deal: /^of$/i,
};
/** What happened, as a noun. */
export const NOUN = /\b(orders?|purchases?|visits?|views?|downloads?|registrations?|bookings?)$/i;
/** `orders for clay`, `500 spent on clay` */
const BEHIND_A_NOUN = /^(for|with|of)$/i;
const BEHIND_SPENT = /^(on|of|for)$/i;
/** Behind a time these say where or how something was done: `came in June in a hurry` */
const OF_ALL_OF_IT = /^(at|in|on|for)$/i;
/** Behind a fact something else begins: `no phone for a year` */
const NO_FACT = /^(for|with|about|on|by|without|after|before|because|over)$/i;

const isPlaced = ({ kind, cue }: Chunk): boolean => kind !== 'filler' && cue !== 'from' && cue !== 'to';

/** The prepositions that stand right before a piece. */
export function prepositionsBefore(within: readonly Chunk[], chunk: Chunk): readonly string[] {
  const at = within.indexOf(chunk);
  const head = within.slice(0, at).findLastIndex(isPlaced);
  return within.slice(head + 1, at).flatMap(({ text }) => (PREPOSITION.test(text) ? [text] : []));
}

/** `ordered with a voucher`, `ordered twice for a neighbour`: with what, for whom or why something was done. */
function isWithSomething(within: readonly Chunk[], chunk: Chunk, types: readonly string[]): boolean {
  const prepositions = prepositionsBefore(within, chunk);
  if (prepositions.length === 0) return false;
  const [type = ''] = types;
  if (type === '') return prepositions.some((text) => NO_FACT.test(text));
  const said = within.slice(0, within.indexOf(chunk)).findLast(isPlaced);
  const named = NAMED_BEHIND[type] ?? NAMED_BEHIND[type.split('.')[0] ?? ''];
  if (!named) return false;
  const isSpent = within.some((each) => meaningOf(each, 'signal')?.spent);
  const isNoun = said && meaningOf(said, 'signal') && NOUN.test(said.text);
  const mayStand = (text: string): boolean => {
    if (isSpent) return BEHIND_SPENT.test(text) && !(said?.kind === 'window' && !/^on$/i.test(text));
    if (said?.kind === 'window' && OF_ALL_OF_IT.test(text) && type !== 'event.registered') return false;
    return named.test(text) || (isNoun === true && BEHIND_A_NOUN.test(text));
  };
  return !prepositions.every(mayStand);
}

/** `people Wren called`, `called by Wren`: which colleague did it, told of the piece that says what was done. `Wren's people called us` has another word between. */
export function isByAColleague(chunks: readonly Chunk[], done: Chunk): boolean {
  const at = chunks.indexOf(done);
  const isPerson = (chunk: Chunk | undefined): boolean => chunk !== undefined && meaningOf(chunk, 'person') !== undefined;
  return isPerson(chunks[at - 1]) || (/^by$/i.test(chunks[at + 1]?.text ?? '') && isPerson(chunks[at + 2]));
}

/** Which types of signals some nouns belong to, by how their keys begin. */
const NOUNS_OF: Readonly<Record<string, readonly string[]>> = {
  form: ['form'],
  questionnaire: ['form'],
  quiz: ['form'],
  survey: ['form'],
  course: ['course', 'event'],
  plan: ['plan'],
  membership: ['plan'],
};

/** Whether a noun belongs to other types of signals: nobody finishes a form where a course is meant. */
export function isOfOthers({ text }: Chunk, types: readonly string[]): boolean {
  const kinds = NOUNS_OF[stem(text)];
  return kinds !== undefined && types.length > 0 && !types.some((key) => kinds.includes(key.split('.')[0] ?? ''));
}

/** Whether a chunk is the name of a form where nothing of a form, nor of what is booked by one, is meant. */
const isFormElsewhere = ({ meanings, size }: Chunk, types: readonly string[]): boolean =>
  size > 1 && meanings.length > 0 && meanings.every(({ kind }) => kind === 'form') && !types.some((key) => /^(form|event)\./.test(key));

/** `attended the raku evening and their bench ran out`: of what is not about plans, a plan that ended is no name. */
function isOfAPlanThatEnded(within: readonly Chunk[], chunk: Chunk, types: readonly string[]): boolean {
  if (types.some((key) => key.startsWith('plan.'))) return false;
  const at = within.indexOf(chunk);
  return [at, at + 1].some((each) => /^(ran|expired|ended)$/i.test(within[each]?.text ?? '') && within[each]?.kind === 'free');
}

/** What was bought in the evening is no evening; the raku evening is one, and a campaign may be called so: `campaign is spring` */
const isMeasure = ({ kind, typed: text }: Chunk, isBehindAName: boolean, before: Chunk | undefined): boolean =>
  (MEASURING.has(stem(text)) || (kind === 'free' && ADVERB.test(text))) &&
  !SAYS_SO.test(before?.text ?? '') &&
  !(isBehindAName && /^(morning|afternoon|evening|night)$/i.test(text));

/** How something was done: `ordered cheaply`. What is written with a capital may be called so. */
const ADVERB = /(^| )(?!family|supply|assembly|butterfly|dragonfly|firefly)\p{Ll}{4,}ly$/u;

export const SAYS_SO = /^(is|=|:|contains?|containing|starts with|called)$/i;

/** `in the spring`: a time of the year, of which nobody knows from when to when it is; the spring fair is none. */
function isSeason(chunks: readonly Chunk[], chunk: Chunk): boolean {
  if (!/^(spring|summer|autumn|winter)$/i.test(chunk.text)) return false;
  const at = chunks.indexOf(chunk);
  const [before, behind] = [chunks[at - 1], chunks[at + 1]];
  return /^(in|the|this|last|next|during|since)$/i.test(before?.text ?? '') && behind?.kind !== 'free' && behind?.kind !== 'thing';
}

/** `orders in Norway`: of whom a place is known, that is where they are, and nothing that they bought. */
function isWhere(chunks: readonly Chunk[], chunk: Chunk): boolean {
  const before = chunks[chunks.indexOf(chunk) - 1];
  return /^in$/i.test(before?.text ?? '') && chunk.meanings.some(({ kind }) => kind === 'option' || kind === 'value');
}

/** `last order over 500, fires in their own kiln`: several words by which something else is known are no name of what was bought. */
const isCalledOtherwise = ({ kind, text, meanings }: Chunk): boolean =>
  kind === 'thing' && text.includes(' ') && meanings.every(({ kind: each }) => OTHERWISE.has(each));
const OTHERWISE: ReadonlySet<Meaning['kind']> = new Set(['answer', 'option', 'field', 'tag', 'scorecard', 'band']);

/** `registered for the raku evening or keenness over 60`, `bought glaze or eager`: what is asked of people is no name. */
function isAskedOf(chunks: readonly Chunk[], chunk: Chunk): boolean {
  const { meanings } = chunk;
  if (meanings.some(({ kind }) => kind === 'band' || kind === 'audience')) return true;
  const next = chunks[chunks.indexOf(chunk) + 1];
  const isTested = next !== undefined && (['limit', 'window', 'next'].includes(next.kind) || /^(is|are|=|:)$/i.test(next.text));
  return isTested && meanings.some(({ kind }) => kind === 'field' || kind === 'scorecard');
}

/** `email at guild.example`: that is no evening and no plan. */
const isDomain = (chunks: readonly Chunk[], chunk: Chunk): boolean =>
  /^[\p{L}\d-]+(\.[\p{L}\d-]+)+$/u.test(chunk.text) &&
  chunk.kind === 'free' &&
  /^at$/i.test(chunks[chunks.indexOf(chunk) - 1]?.text ?? '') &&
  /^e-?mails?$/i.test(chunks[chunks.indexOf(chunk) - 2]?.text ?? '');

/** `looked at wheels and is a beginner`: what is said of somebody is nothing that they looked at. */
function isOfAnother(chunks: readonly Chunk[], chunk: Chunk): boolean {
  const before = chunks.slice(0, chunks.indexOf(chunk));
  const at = before.findLastIndex(({ kind }) => kind !== 'filler');
  return (
    before[at]?.kind === 'joint' &&
    before.slice(at + 1).some(({ text }) => /^(is|are|was|were|has|have|does|do|gave|give|their|his|her|whose)$/i.test(text))
  );
}
