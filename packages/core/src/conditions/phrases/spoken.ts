import { type Token } from './token.ts';
import { NUMBER_WORDS } from './words/language.ts';

const SHORTENED = new Set('dont doesnt didnt isnt arent wasnt werent hasnt havent hadnt cant wont couldnt wouldnt shouldnt'.split(' '));
const ENDING = /^(\p{L}+)['’](t|ve|re|ll|d|m)$/iu;
const WHOLE: Readonly<Record<string, string>> = { ve: 'have', re: 'are' };
const SOMEONE = /^(they|who|that|people|we|i)$/i;

/** `haven’t` and `havent` as `haven't`, `they've` as `they have`, `forty-five` as 45, `&` as `and`: what is written in short, as it is said. */
export function asSpoken(tokens: readonly Token[], text: string): Token[] {
  const spoken: Token[] = [];
  for (let at = 0; at < tokens.length; at += 1) {
    const token = tokens[at] as Token;
    const number = compoundAt(tokens, at);
    if (number) {
      spoken.push(number);
      at += 2;
    } else if (token.kind === 'word') spoken.push(...inFull(token));
    else spoken.push(isAnd(token, text) ? { ...token, kind: 'word', word: 'and' } : token);
  }
  return spoken;
}

/** `90+ days` is no *and*. */
const isAnd = ({ kind, text: sign, from, to }: Token, text: string): boolean =>
  kind === 'sign' &&
  (sign === '&' || (sign === '+' && from > 0 && /[\p{L})]\s+$/u.test(text.slice(0, from)) && /^\s/.test(text.slice(to))));

function inFull(token: Token): readonly Token[] {
  if (SHORTENED.has(token.word)) {
    const full = `${token.text.slice(0, -1)}'t`;
    return [{ ...token, text: full, word: full.toLowerCase() }];
  }
  const [, who, ending = ''] = ENDING.exec(token.text) ?? [];
  if (who === undefined) return [token];
  const verb = WHOLE[ending.toLowerCase()];
  if (verb === undefined || !SOMEONE.test(who)) return [{ ...token, text: token.text.replace('’', "'") }];
  const middle = token.from + who.length;
  return [
    { ...token, text: who, word: who.toLowerCase(), to: middle },
    { ...token, text: verb, word: verb, from: middle },
  ];
}

/** `forty-five` */
function compoundAt(tokens: readonly Token[], at: number): Token | undefined {
  const [tens, hyphen, ones] = tokens.slice(at, at + 3);
  const [high, low] = [NUMBER_WORDS.get(tens?.word ?? ''), NUMBER_WORDS.get(ones?.word ?? '')];
  if (!tens || !ones || hyphen?.text !== '-' || hyphen.from !== tens.to || ones.from !== hyphen.to) return undefined;
  if (high === undefined || low === undefined || high < 20 || high > 90 || low < 1 || low > 9) return undefined;
  const text = String(high + low);
  return { kind: 'number', text, word: text, number: high + low, from: tens.from, to: ones.to };
}

const DENIED = /^(not|never|no|nothing|none|nobody|without|\w+n't)$/i;
const ALTHOUGH = /^(though|although|albeit|whereas)$/i;

/**
 * `yet not`, `though not` as `but not`: what is said against what stands before; and `not once` as `never`. Not so `not ordered yet`.
 */
export function plainly(tokens: readonly Token[]): readonly Token[] {
  const wordAt = (at: number): string => tokens[at]?.word ?? '';
  return tokens.flatMap((token, at) => {
    if (token.text === '/' && isAndOr(wordAt, at - 1)) return [];
    if (token.kind !== 'word') return [token];
    if (token.word === 'once' && isNotOnce(wordAt, at - 1)) return [];
    if (isNotOnce(wordAt, at)) return [never(token, tokens[at + 1])];
    if (token.word === 'even' && ALTHOUGH.test(wordAt(at + 1))) return [];
    if (isWithUs(wordAt, at) || isWithUs(wordAt, at - 1)) return [];
    if (isNow(wordAt, at) || isNow(wordAt, at - 1) || isHere(wordAt, at)) return [];
    if (isAndOr(wordAt, at) || (token.word === 'ever' && isEverDone(wordAt, at)) || isModal(wordAt, at)) return [];
    // Before all else nothing stands that it could be said against.
    if (ALTHOUGH.test(token.word) && (at === 0 || (at === 1 && wordAt(0) === 'even'))) return [];
    const isYet = token.word === 'yet' && DENIED.test(wordAt(at + 1)) && !DENIED.test(wordAt(at - 1));
    const isAgainst = isYet || (ALTHOUGH.test(token.word) && at + 1 < tokens.length);
    return [isAgainst ? { ...token, text: 'but', word: 'but' } : token];
  });
}

/** `and/or`: either is enough, and both are. */
const isAndOr = (wordAt: (at: number) => string, at: number): boolean =>
  wordAt(at) === 'and' && wordAt(at + 1) === '/' && wordAt(at + 2) === 'or';

/** `eager these days` */
const isNow = (wordAt: (at: number) => string, at: number): boolean => wordAt(at) === 'these' && wordAt(at + 1) === 'day';

/** `ordered glaze here`; not so `new here`, which tells since when somebody has been known. */
const isHere = (wordAt: (at: number) => string, at: number): boolean =>
  wordAt(at) === 'here' &&
  /^(|,|and|or|but|in|this|last|since|today|yesterday)$/.test(wordAt(at + 1)) &&
  !/^(|new|is|are|was|were|came|from|been|not)$/.test(wordAt(at - 1));

const BUYING = /^(order|ordered|purchase|purchased|buy|buying|bought|shop|shopped|spend|spent|paid|pay|booked)$/;

/** `ordered with us`, `spent 500 with us`: with whom else? */
function isWithUs(wordAt: (at: number) => string, at: number): boolean {
  if (wordAt(at) !== 'with' || wordAt(at + 1) !== 'us') return false;
  for (let before = at - 1; before >= 0 && !/^(,|and|or|but|who)$/.test(wordAt(before)); before -= 1)
    if (BUYING.test(wordAt(before))) return true;
  return false;
}

/** `has ever ordered`; not so `has ever been eager`, which tells of what was once. */
const isEverDone = (wordAt: (at: number) => string, at: number): boolean =>
  /^(has|have|had|did)$/.test(wordAt(at - 1)) && !/^(been|be|had|a|an|in|the|)$/.test(wordAt(at + 1));

/** `must have ordered`, `should be in Sweden`: what somebody has to be to be asked for. */
const isModal = (wordAt: (at: number) => string, at: number): boolean =>
  /^(must|should)$/.test(wordAt(at)) &&
  (/^(have|own|live)$/.test(wordAt(at + 1)) || (wordAt(at + 1) === 'be' && /^(in|a|an|at|from|over|under)$/.test(wordAt(at + 2))));

/** `not once but twice` is told otherwise. */
const isNotOnce = (wordAt: (at: number) => string, at: number): boolean =>
  wordAt(at) === 'not' && wordAt(at + 1) === 'once' && !['', 'but', ',', 'or', 'in'].includes(wordAt(at + 2));

const never = (not: Token, once: Token | undefined): Token => ({ ...not, text: 'never', word: 'never', to: once?.to ?? not.to });
