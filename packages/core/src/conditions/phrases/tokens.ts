import { fold } from '../../text/fold.ts';
import { asSpoken } from './spoken.ts';
import { type Token } from './token.ts';

export { type Token };

/** `literal`: a piece of a text, with the sign that it begins with: `.se`, `+46`, `@mill.example` */
const ALTERNATIVES: readonly (readonly [Token['kind'] | 'literal', string])[] = [
  ['quoted', String.raw`"[^"]*"|“[^”]*”`],
  ['literal', String.raw`(?<!\S)(?:\.\p{L}|[+@][\p{L}\p{N}])[\p{L}\p{M}\p{N}._-]*`],
  ['email', String.raw`[\p{L}\p{N}._%+-]+@[\p{L}\p{N}-]+(?:\.[\p{L}\p{N}-]+)*`],
  ['date', String.raw`\d{4}-\d{2}-\d{2}|\d{1,2}[/.]\d{1,2}[/.]\d{4}`],
  ['path', String.raw`(?<![\p{L}\p{N}])\/[\p{L}\p{N}_-]+(?:\/[\p{L}\p{N}_-]*)*`],
  ['number', String.raw`\d{1,3}(?:(?: +|[,\u00a0\u202f’'])\d{3})+(?!\d)(?:\.\d+)?|\d+(?:[.,]\d+)?`],
  ['word', String.raw`[wW]\/[oO]?(?!\S)|\p{L}[\p{L}\p{M}\p{N}]*(?:[._]\p{L}[\p{L}\p{M}\p{N}_-]*)+|[\p{L}\p{M}]+(?:['’]\p{L}+)?`],
  ['sign', String.raw`>=|<=|!=|<>|[^\s]`],
];
const TOKEN = new RegExp(ALTERNATIVES.map(([kind, pattern]) => `(?<${kind}>${pattern})`).join('|'), 'gu');
const GROUPED = /^\d{1,3}(?:(?: +|[,\u00a0\u202f’'])\d{3})+(?:\.\d+)?$/;

/** Nobody writes a whole number with three zeros behind its point. */
const POINTED = /^\d{1,3}(?:\.000)+$/;

/** `1,5` and `1.5` are one and a half; `2 000`, `2,000` and `2.000` are two thousand. */
const numberOf = (text: string): number =>
  Number(
    POINTED.test(text) ? text.replaceAll('.', '') : GROUPED.test(text) ? text.replace(/[ ,\u00a0\u202f’']/g, '') : text.replace(',', '.'),
  );

/** Folded, without a possessive, in the singular. */
export function stem(text: string): string {
  const word = fold(text)
    .replace(/['’]s$/, '')
    .replace('’', "'");
  if (word.length > 4 && word.endsWith('ies')) return `${word.slice(0, -3)}y`;
  return word.length > 3 && word.endsWith('s') && !/(ss|us|is|as)$/.test(word) ? word.slice(0, -1) : word;
}

export function tokensOf(text: string): readonly Token[] {
  const typed = [...text.matchAll(TOKEN)].map((match): Token => {
    const found = ALTERNATIVES.find(([each]) => match.groups?.[each] !== undefined)?.[0] ?? 'sign';
    const kind = found === 'literal' ? 'quoted' : found;
    const inside = found === 'quoted' ? match[0].slice(1, -1) : match[0];
    const at = { from: match.index, to: match.index + match[0].length };
    return {
      kind,
      text: inside,
      word: kind === 'word' ? stem(inside) : fold(inside),
      ...at,
      ...(kind === 'number' ? { number: numberOf(inside) } : {}),
    };
  });
  return asSpoken(typed, text);
}

/** A run of words as tokens are compared. */
export const runOf = (text: string): string =>
  tokensOf(text)
    .map((token) => token.word)
    .join(' ');

const WRITTEN: Readonly<Record<string, string>> = { email: 'emailed', mail: 'mailed', write: 'wrote', message: 'messaged' };

/** `we did not email them` says of the past what `do not email them` asks for: its verb stands for what was done. */
export function doneByUs(tokens: readonly Token[]): readonly Token[] {
  const before = (at: number, back: number): string => tokens[at - back]?.word ?? '';
  return tokens.map((token, at) => {
    const done = token.kind === 'word' ? WRITTEN[token.word] : undefined;
    const isNot = before(at, 1) === 'not' && before(at, 2) === 'did';
    const isBare = before(at, 1) === "didn't" || before(at, 1) === 'did';
    // `contacts I own`: those that I mind.
    if (token.word === 'own' && before(at, 1) === 'i') return { ...token, word: 'mind' };
    const who = before(at, isNot ? 3 : 2);
    return done !== undefined && (isNot || isBare) && /^(we|i)$/.test(who) ? { ...token, word: done } : token;
  });
}

/** `no one` is nobody, and not less than one. */
export const withNobody = (tokens: readonly Token[]): readonly Token[] =>
  tokens.flatMap((token, at) => {
    const isNoOne = token.word === 'no' && tokens[at + 1]?.word === 'one';
    if (isNoOne) return [{ ...token, text: 'nobody', word: 'nobody', to: tokens[at + 1]?.to ?? token.to }];
    return token.word === 'one' && tokens[at - 1]?.word === 'no' ? [] : [token];
  });

/** `did not come` as `didn't come` */
export const contracted = (text: string): string => text.replaceAll(/\b(did|do|does|has|have|had|was|were|is|are) not\b/g, "$1n't");

/** How many letters have to change, be added, left out or swapped, up to `most`; more than that is `most + 1`. */
export function distance(a: string, b: string, most: number): number {
  if (Math.abs(a.length - b.length) > most) return most + 1;
  let before: number[] = [];
  let row = Array.from({ length: b.length + 1 }, (_, index) => index);
  for (let i = 1; i <= a.length; i += 1) {
    const next = [i];
    for (let j = 1; j <= b.length; j += 1) {
      const same = a[i - 1] === b[j - 1];
      let best = Math.min((row[j] ?? 0) + 1, (next[j - 1] ?? 0) + 1, (row[j - 1] ?? 0) + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) best = Math.min(best, (before[j - 2] ?? 0) + 1);
      next.push(best);
    }
    if (Math.min(...next) > most) return most + 1;
    [before, row] = [row, next];
  }
  return row[b.length] ?? most + 1;
}
