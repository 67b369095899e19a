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

/** The word so many tokens from the first; none beside them. */
type WordAt = (at: number) => string;

const DENIED = /^(not|never|no|nothing|none|nobody|without|\w+n't)$/i;
const ALTHOUGH = /^(though|although|albeit|whereas)$/i;

/** Words that say nothing by themselves where they stand so. */
const LEFT_OUT: readonly ((wordAt: WordAt, at: number) => boolean)[] = [
  (wordAt, at) => wordAt(at) === '/' && isAndOr(wordAt, at - 1),
  (wordAt, at) => isAndOr(wordAt, at),
  (wordAt, at) => wordAt(at) === 'once' && isNotOnce(wordAt, at - 1),
  (wordAt, at) => wordAt(at) === 'even' && ALTHOUGH.test(wordAt(at + 1)),
  (wordAt, at) => isWithUs(wordAt, at) || isWithUs(wordAt, at - 1),
  (wordAt, at) => isNow(wordAt, at) || isNow(wordAt, at - 1),
  (wordAt, at) => isHere(wordAt, at),
  (wordAt, at) => wordAt(at) === 'ever' && isEverDone(wordAt, at),
  (wordAt, at) => isModal(wordAt, at),
  // Before all else nothing stands that it could be said against.
  (wordAt, at) => ALTHOUGH.test(wordAt(at)) && (at === 0 || (at === 1 && wordAt(0) === 'even')),
  // `has yet to order` is said of the verb by *yet to*, which says *never*.
  (wordAt, at) => HAVING.test(wordAt(at)) && isYetTo(wordAt, at + 1),
  (wordAt, at) => wordAt(at) === 'to' && isYetTo(wordAt, at - 1),
];

/** What is said by other words where they stand so. */
const INSTEAD: readonly { readonly word: string; readonly isSaid: (wordAt: WordAt, at: number) => boolean; readonly size?: number }[] = [
  { word: 'never', isSaid: (wordAt, at) => isNotOnce(wordAt, at), size: 2 },
  { word: 'never', isSaid: (wordAt, at) => isYetTo(wordAt, at), size: 2 },
  // `yet not`: what is said against what stands before. Not so `not ordered yet`.
  { word: 'but', isSaid: (wordAt, at) => wordAt(at) === 'yet' && DENIED.test(wordAt(at + 1)) && !DENIED.test(wordAt(at - 1)) },
  { word: 'but', isSaid: (wordAt, at) => ALTHOUGH.test(wordAt(at)) && wordAt(at + 1) !== '' },
];

/** `yet not` as `but not`, `not once` as `never`, `has yet to order` as `never order`, and without words that say nothing by themselves. */
export function plainly(tokens: readonly Token[]): readonly Token[] {
  const wordAt: WordAt = (at) => tokens[at]?.word ?? '';
  return tokens.flatMap((token, at) => {
    if (token.kind !== 'word' && token.text !== '/') return [token];
    if (LEFT_OUT.some((isLeftOut) => isLeftOut(wordAt, at))) return [];
    const instead = INSTEAD.find(({ isSaid }) => isSaid(wordAt, at));
    if (!instead) return [token];
    const { word, size = 1 } = instead;
    return [{ ...token, text: word, word, to: tokens[at + size - 1]?.to ?? token.to }];
  });
}

const HAVING = /^(has|have|had|is|are|was|were)$/;

/** `yet to order`; not so `yet to become a customer`, which is said of stages, nor `yet to come`. */
const isYetTo = (wordAt: WordAt, at: number): boolean =>
  wordAt(at) === 'yet' &&
  wordAt(at + 1) === 'to' &&
  !/^(|be|become|come|reach|get|have)$/.test(wordAt(at + 2)) &&
  /^\p{L}/u.test(wordAt(at + 2));

/** `and/or`: either is enough, and both are. */
const isAndOr = (wordAt: WordAt, at: number): boolean => wordAt(at) === 'and' && wordAt(at + 1) === '/' && wordAt(at + 2) === 'or';

/** `eager these days` */
const isNow = (wordAt: WordAt, at: number): boolean => wordAt(at) === 'these' && wordAt(at + 1) === 'day';

/** `ordered glaze here`; not so `new here`, which tells since when somebody has been known. */
const isHere = (wordAt: WordAt, at: number): boolean =>
  wordAt(at) === 'here' &&
  /^(|,|and|or|but|in|this|last|since|today|yesterday)$/.test(wordAt(at + 1)) &&
  !/^(|new|is|are|was|were|came|from|been|not)$/.test(wordAt(at - 1));

const BUYING = /^(order|ordered|purchase|purchased|buy|buying|bought|shop|shopped|spend|spent|paid|pay|booked)$/;

/** `ordered with us`, `spent 500 with us`: with whom else? */
function isWithUs(wordAt: WordAt, at: number): boolean {
  if (wordAt(at) !== 'with' || wordAt(at + 1) !== 'us') return false;
  for (let before = at - 1; before >= 0 && !/^(,|and|or|but|who)$/.test(wordAt(before)); before -= 1)
    if (BUYING.test(wordAt(before))) return true;
  return false;
}

/** `has ever ordered`; not so `has ever been eager`, which tells of what was once. */
const isEverDone = (wordAt: WordAt, at: number): boolean =>
  /^(has|have|had|did)$/.test(wordAt(at - 1)) && !/^(been|be|had|a|an|in|the|)$/.test(wordAt(at + 1));

/** `must have ordered`, `should be in Sweden`: what somebody has to be to be asked for. */
const isModal = (wordAt: WordAt, at: number): boolean =>
  /^(must|should)$/.test(wordAt(at)) &&
  (/^(have|own|live)$/.test(wordAt(at + 1)) || (wordAt(at + 1) === 'be' && /^(in|a|an|at|from|over|under)$/.test(wordAt(at + 2))));

/** `not once but twice` is told otherwise. */
const isNotOnce = (wordAt: WordAt, at: number): boolean =>
  wordAt(at) === 'not' && wordAt(at + 1) === 'once' && !['', 'but', ',', 'or', 'in'].includes(wordAt(at + 2));

const REACHED = /^(called|phoned|rung|emailed|mailed|texted|messaged|contacted|reached|visited|written)$/;

/** `can be emailed but not called` as `can be emailed but can't be called`: what is allowed goes on being told. */
export function allowedAgain(tokens: readonly Token[]): readonly Token[] {
  const wordAt: WordAt = (at) => tokens[at]?.word ?? '';
  return tokens
    .flatMap((token, at) => {
      if (!REACHED.test(token.word) || !/^(|and|or|but|,)$/.test(wordAt(at + 1))) return [token];
      const isNot = wordAt(at - 1) === 'not';
      const joint = at - (isNot ? 2 : 1);
      const allowed = allowedBefore(wordAt, joint);
      // `can be emailed or texted` is one list; `can't be called, but emailed` is none.
      if (allowed === undefined || !/^(and|but|,)$/.test(wordAt(joint)) || allowed === !isNot) return [token];
      const said = (word: string): Token => ({ ...token, text: word, word, to: token.from });
      return isNot || wordAt(joint) === 'but' ? [said(isNot ? 'be' : 'can'), ...(isNot ? [] : [said('be')]), token] : [token];
    })
    .map((token, at, all) =>
      token.word === 'not' && all[at + 1]?.word === 'be' && all[at + 1]?.to === all[at + 2]?.from
        ? { ...token, text: "can't", word: "can't" }
        : token,
    );
}

/** Whether it is said before a joint that somebody may be reached, or that they may not. */
function allowedBefore(wordAt: WordAt, joint: number): boolean | undefined {
  for (let at = joint - 1; at >= 0 && !/^(and|or|but|,|who)$/.test(wordAt(at)); at -= 1)
    if (wordAt(at) === 'be' && REACHED.test(wordAt(at + 1))) {
      if (/^(can|may|could|might)$/.test(wordAt(at - 1))) return true;
      if (
        /^(can't|cannot|couldn't)$/.test(wordAt(at - 1)) ||
        (wordAt(at - 1) === 'not' && /^(can|may|could|must|should)$/.test(wordAt(at - 2)))
      )
        return false;
    }
  return undefined;
}

/** `not ordered for 120 days but opened in the last 30`: days as before. */
export function unitsAgain(tokens: readonly Token[]): readonly Token[] {
  const wordAt: WordAt = (at) => tokens[at]?.word ?? '';
  return tokens.flatMap((token, at) => {
    if (token.kind !== 'number' || !/^(last|past)$/.test(wordAt(at - 1)) || !/^(|and|or|but|,)$/.test(wordAt(at + 1))) return [token];
    const unit = tokens
      .slice(0, at)
      .findLast(({ word }, index) => /^(day|week|month|year)$/.test(word) && tokens[index - 1]?.kind === 'number');
    return unit ? [token, { ...unit, from: token.to, to: token.to }] : [token];
  });
}
