import { type Window } from '../../time/window.ts';
import { type Lexicon, type Meaning } from './lexicon.ts';
import { readLimit, readSpan, readWindow, taken, type Limit, type Read, type Span, type Today } from './pieces.ts';
import { FILLERS, isNegation, NOTHING_WORDS } from './synonyms.ts';
import { tokensOf, type Token } from './tokens.ts';

/** A piece of a phrase with a part to play in a line. */
export interface Chunk {
  readonly kind: 'thing' | 'window' | 'next' | 'limit' | 'not' | 'joint' | 'cue' | 'filler' | 'free';
  /** of the text */
  readonly from: number;
  readonly to: number;
  /** as it was typed */
  readonly text: string;
  /** how many words it is made of: so much it counts for */
  readonly size: number;
  readonly meanings: readonly Meaning[];
  readonly cue: Cue | undefined;
  readonly window: Window | undefined;
  readonly span: Span | undefined;
  readonly limit: Limit | undefined;
  readonly joint: 'and' | 'or' | undefined;
}

/** Words that say of what a phrase speaks, or how. */
const CUES = {
  stage: ['stage', 'the ladder', 'ladder', 'at stage', 'in stage', 'on the ladder'],
  owner: [
    'owner',
    'owned by',
    'belong to',
    'belongs to',
    'looked after by',
    'owned',
    'whose owner is',
    'in the hand of',
    'with owner',
    'assigned to',
    'handled by',
  ],
  tag: ['tag', 'tagged', 'tagged with', 'tagged as', 'label', 'labelled', 'with tag', 'marked as'],
  score: ['score', 'point', 'scored'],
  audience: [
    'in audience',
    'audience',
    'list',
    'on the list',
    'in the list',
    'member of',
    'part of',
    'on list',
    'segment',
    'in segment',
    'belonging to',
    'joined',
    'entered',
    'came into',
    'on the audience',
  ],
  consent: [
    'consent',
    'consent to',
    'consented',
    'consented to',
    'permission',
    'opted in',
    'opted in to',
    'subscribed',
    'subscribed to',
    'agreed to',
    'reachable',
    'reachable by',
    'can be reached by',
    'may be written to',
    'allowed',
    'marketing consent',
    'opt in',
    'we may',
    'we can',
    'can be emailed',
    'may be emailed',
    'contactable',
    'contactable by',
    'mailable',
    'emailable',
    'gave consent to',
    'can be contacted by',
    'gave consent for',
    'who we may',
    'we may write to',
    'we can write to',
    'we can email',
    'we may email',
  ],
  withdrawn: [
    'withdrawn',
    'opted out',
    'opted out of',
    'withdrew',
    'withdrew consent to',
    'withdrew their consent to',
    'revoked',
    'opt out',
    'took back',
    'unsubscribed from',
  ],
  undeliverable: ['undeliverable', 'bouncing', 'bounce', 'invalid', 'dead'],
  email: ['email', 'e-mail', 'mail', 'by email', 'by mail', 'newsletter', 'email address'],
  textChannel: ['text message', 'sms', 'by text', 'texting', 'text'],
  chat: ['chat', 'by chat', 'whats app'],
  deal: ['deal', 'open deal', 'a deal', 'opportunity'],
  changed: [
    'changed',
    'change',
    'moved',
    'went',
    'switched',
    'turned',
    'crossed',
    'rose',
    'climbed',
    'fell',
    'dropped',
    'rise',
    'fall',
    'became',
    'become',
    'turned into',
    'grew',
    'moved up',
    'moved down',
    'became a',
    'changed to',
    'moved to',
    'just became',
    'reached',
    'new',
  ],
  from: ['from'],
  to: ['to', 'into'],
  atLeast: [
    'at least',
    'or later',
    'or beyond',
    'or further',
    'or higher',
    'or above',
    'or better',
    'and up',
    'and above',
    'or more',
    'and beyond',
    'and higher',
    'and later',
    'or further on',
    'at or beyond',
    'past',
    'and better',
    'from',
  ],
  below: [
    'before',
    'earlier than',
    'not yet',
    'below',
    'under',
    'less than',
    'lower than',
    'short of',
    'or lower',
    'or below',
    'or less',
    'yet to be',
    'yet to become',
  ],
  above: ['above', 'over', 'higher than', 'beyond', 'more than', 'better than'],
  empty: [
    'unknown',
    'empty',
    'blank',
    'not known',
    'not set',
    'unset',
    'not filled',
    'not filled in',
    'nothing',
    'missing',
    'not given',
    'no value',
    'undefined',
    'not there',
    'is not known',
  ],
  filled: [
    'known',
    'filled',
    'filled in',
    'set',
    'given',
    'present',
    'has a value',
    'is there',
    'not empty',
    'not blank',
    'not unknown',
    'not missing',
  ],
  ever: [
    'had',
    'once had',
    'used to have',
    'used to be',
    'has ever had',
    'ever had',
    'has had',
    'ever been',
    'ever',
    'previously',
    'at some point',
  ],
  lost: [
    'lost',
    'no longer',
    'not any more',
    'no more',
    'any more',
    'lost tag',
    'lost the tag',
    'no longer has',
    'stopped having',
    'not any longer',
  ],
  left: ['left', 'has left', 'dropped out of', 'fell out of', 'no longer in', 'not in any more', 'went out of', 'gone from'],
  first: ['first', 'the first', 'very first', 'only the first', 'first ever'],
  latest: ['latest', 'the latest', 'newest', 'most recent', 'the most recent', 'only the latest', 'last'],
  anniversary: ['anniversary', 'has its anniversary', 'year ago', 'a year ago', 'year since', 'a year since', 'anniversaries'],
  tomorrow: ['tomorrow'],
  contains: ['contains', 'contain', 'containing', 'includes', 'include', 'like', 'matches', 'mention', 'mentions'],
  starts: ['starts with', 'start with', 'begins with', 'begin with', 'beginning with', 'starting with'],
  ends: ['ends with', 'end with', 'ending with', 'ends in', 'ending in', 'end in'],
  company: ['company', "company's", 'their company', 'firm', 'business', 'works at', 'work at', 'work for', 'works for', 'from a'],
  product: ['product', 'the product'],
  line: ['line', 'from line', 'product line', 'of line', 'from the line', 'whose line is', 'from product line', 'item whose line is'],
  yes: ['yes', 'true'],
  no: ['no', 'false'],
  then: ['then', 'followed by', 'and then', 'afterwards', 'after that', 'later', 'but then', 'since then', 'followed'],
  oneOf: ['one of', 'any of', 'either', 'any one of'],
  allOf: ['all of', 'both'],
  days: ['day', 'different day', 'separate day'],
} as const;
export type Cue = keyof typeof CUES;
/** As tokens are compared. */
const CUE_RUNS: readonly (readonly [Cue, readonly string[]])[] = (Object.entries(CUES) as [Cue, readonly string[]][]).map(([cue, runs]) => [
  cue,
  runs.map((run) =>
    tokensOf(run)
      .map((token) => token.word)
      .join(' '),
  ),
]);
/** All words of which cues are made. */
export const CUE_WORDS: ReadonlySet<string> = new Set(CUE_RUNS.flatMap(([, runs]) => runs.flatMap((run) => run.split(' '))));
const JOINTS: ReadonlySet<string> = new Set(['and', 'or', 'but']);
const FILLER_WORDS: ReadonlySet<string> = new Set([...FILLERS].flatMap((each) => tokensOf(each).map((token) => token.word)));

const NOTHING: ReadonlySet<string> = new Set(
  Object.values(NOTHING_WORDS)
    .flat()
    .map((run) =>
      tokensOf(run)
        .map((token) => token.word)
        .join(' '),
    ),
);

const NEXT = [
  'in the next',
  'within the next',
  'in next',
  'the next',
  'next',
  'in the coming',
  'within the coming',
  'the coming',
  'over the next',
  'during the next',
  'coming',
  'coming up in',
  'coming up within',
  'less than',
];

/** What is still to come: `in the next 7 days`, `next week` */
function readNext(tokens: readonly Token[], at: number): Read<Span> | undefined {
  const next = taken(tokens, at, NEXT);
  const span = next > 0 ? readSpan(tokens, at + next, true) : undefined;
  if (span) return tokens[at]?.word === 'less' ? undefined : { value: span.value, length: next + span.length };
  return undefined;
}

function readCue(tokens: readonly Token[], at: number): Read<Cue> | undefined {
  let best: Read<Cue> | undefined;
  for (const [cue, runs] of CUE_RUNS) {
    const length = taken(tokens, at, runs);
    if (length > 0 && (!best || length > best.length)) best = { value: cue, length };
  }
  return best;
}

/** Words that say more as what they are in this workspace than as a cue. */
const STRONG_CUES: ReadonlySet<Cue> = new Set(['stage', 'owner', 'tag', 'consent', 'withdrawn', 'undeliverable', 'deal', 'company']);

/**
 * Cuts a phrase into its pieces: at each place the longest that can be read, and of equal ones a time before a thing, a thing before a number.
 */
export function chunksOf(tokens: readonly Token[], lexicon: Lexicon, today: Today | undefined): readonly Chunk[] {
  const chunks: Chunk[] = [];
  for (let at = 0; at < tokens.length;) {
    const token = tokens[at];
    if (!token) break;
    const next = readNext(tokens, at);
    const window = readWindow(tokens, at, today);
    const limit = readLimit(tokens, at);
    const thing = lexicon.find(tokens, at);
    const cue = readCue(tokens, at);
    // A choice called “no” or “A” is meant only where its field is spoken of: by itself the word is one of the language.
    const isPlain =
      thing?.length === 1 && (FILLER_WORDS.has(token.word) || isNegation(token.word) || JOINTS.has(token.word) || token.word.length < 2);
    const longest = Math.max(next?.length ?? 0, window?.length ?? 0, limit?.length ?? 0, thing?.length ?? 0, cue?.length ?? 0);
    const base = {
      meanings: isPlain ? thing.meanings : ([] as readonly Meaning[]),
      cue: undefined,
      window: undefined,
      span: undefined,
      limit: undefined,
      joint: undefined,
    };
    const put = (length: number, chunk: Partial<Chunk> & Pick<Chunk, 'kind'>): void => {
      const last = tokens[at + length - 1] ?? token;
      const text =
        length === 1
          ? token.text
          : tokens
              .slice(at, at + length)
              .map((each) => each.text)
              .join(' ');
      chunks.push({ ...base, text, from: token.from, to: last.to, size: length, ...chunk });
      at += length;
    };
    if (token.kind === 'sign' && (token.text === ',' || token.text === ';' || token.text === '&')) put(1, { kind: 'joint', joint: 'and' });
    else if (token.kind === 'sign' && token.text === '/') put(1, { kind: 'joint', joint: 'or' });
    else if (next && next.length === longest) put(next.length, { kind: 'next', span: next.value });
    else if (window && window.length === longest) put(window.length, { kind: 'window', window: window.value });
    else if (thing && !isPlain && thing.length === longest && !(cue?.length === longest && STRONG_CUES.has(cue.value))) {
      const words = tokens
        .slice(at, at + thing.length)
        .map((each) => each.word)
        .join(' ');
      put(thing.length, {
        kind: 'thing',
        meanings: thing.meanings,
        ...(NOTHING.has(words) ? { cue: 'empty' as const } : {}),
        ...(cue?.length === longest ? { cue: cue.value } : {}),
      });
    } else if (limit && limit.length === longest) put(limit.length, { kind: 'limit', limit: limit.value });
    else if (cue && cue.length > 1)
      put(cue.length, {
        kind: 'cue',
        cue: cue.value,
        ...(isNegation(token.word) && cue.value !== 'lost' && cue.value !== 'empty' && cue.value !== 'filled' ? {} : {}),
      });
    else if (isNegation(token.word)) put(1, { kind: 'not', ...(cue ? { cue: cue.value } : {}) });
    else if (token.word === 'or') put(1, { kind: 'joint', joint: 'or' });
    else if (token.word === 'and' || token.word === 'but' || token.word === 'plus') put(1, { kind: 'joint', joint: 'and' });
    else if (cue) put(cue.length, { kind: 'cue', cue: cue.value });
    else if (token.kind === 'sign' || FILLER_WORDS.has(token.word)) put(1, { kind: 'filler' });
    else put(1, { kind: 'free' });
  }
  return chunks;
}
