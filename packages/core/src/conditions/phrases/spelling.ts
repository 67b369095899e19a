import { type Lexicon } from './lexicon.ts';
import { distance, type Token } from './tokens.ts';
import { FILLERS } from './words/language.ts';

/** A word that is not known, with the nearest ones that are. */
export interface UnknownWord {
  readonly from: number;
  readonly to: number;
  readonly nearest: readonly string[];
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

/** Words are known in the singular: `ordrs` are orders. */
const inNumber = (word: string, { text, word: typed }: Token): string =>
  /s$/i.test(text) && !/s$/.test(typed) && !/s$/.test(word) ? `${word}s` : word;

/** `email contains gmail`: what a text begins, ends or goes on with needs to be no word that is known. */
const isPartOfAText = (tokens: readonly Token[], at: number): boolean => {
  const [verb, before] = [tokens[at - 2]?.word ?? '', tokens[at - 1]?.word ?? ''];
  return (
    /^(contain|containing|include)$/.test(before) ||
    (/^(with|in)$/.test(before) && /^(start|begin|end|starting|beginning|ending)$/.test(verb))
  );
};

/** Known words that are spelt nearly like this one, the nearest first. */
function nearest(typed: string, byLength: ReadonlyMap<number, readonly string[]>): readonly string[] {
  const most = typed.length >= 8 ? 2 : 1;
  const near = Array.from({ length: 2 * most + 1 }, (_, index) => byLength.get(typed.length - most + index) ?? [])
    .flat()
    .filter((word) => word.length >= 4)
    // What says nothing must be no more than misspelt: a word of its own would be left out in silence.
    .filter((word) => !FILLERS.has(word) || isMisspelt(typed, word))
    // Another first letter makes another word: gmail is no email. Only swapped it is misspelt.
    .filter((word) => word[0] === typed[0] || (word[0] === typed[1] && word[1] === typed[0]))
    .map((word) => ({ word, far: distance(typed, word, most) }))
    .filter(({ far }) => far <= most)
    .sort((a, b) => a.far - b.far || alike(typed, b.word) - alike(typed, a.word));
  return [...new Set(near.map(({ word }) => word))];
}

/** Words that nobody knows here, but for a letter or two, are taken as the ones that are meant. */
export function spelt(
  tokens: readonly Token[],
  lexicon: Lexicon,
): { readonly tokens: readonly Token[]; readonly unknown: readonly UnknownWord[] } {
  const unknown: UnknownWord[] = [];
  const mended = tokens.map((token, index) => {
    if (token.kind !== 'word' || lexicon.knows(token.word) || token.word.length < 4 || isPartOfAText(tokens, index)) return token;
    const near = lexicon.near(token.word, nearest);
    unknown.push({ from: token.from, to: token.to, nearest: near.slice(0, 3) });
    const [first] = near;
    return first ? { ...token, word: first, text: inNumber(first, token), misspelt: token.text } : token;
  });
  return { tokens: mended, unknown };
}
