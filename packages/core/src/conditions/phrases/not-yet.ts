import { type Lexicon } from './lexicon.ts';
import { runOf, type Token } from './tokens.ts';
import { FILLERS, isNegation, JOINTS } from './words/language.ts';

const FILLER_WORDS: ReadonlySet<string> = new Set([...FILLERS].map(runOf));

/** `has not yet ordered` as `has not ordered`. Not yet a customer is below that stage; and a choice may be called “not yet”, where nothing stands behind it. */
export const withoutYet = (tokens: readonly Token[], lexicon: Lexicon): readonly Token[] =>
  tokens.filter(({ word }, at) => word !== 'yet' || !isNegation(tokens[at - 1]?.word ?? '') || !isSaidOfWhatIsBehind(tokens, at, lexicon));

function isSaidOfWhatIsBehind(tokens: readonly Token[], at: number, lexicon: Lexicon): boolean {
  const next = tokens[at + 1];
  if (next?.kind !== 'word' || JOINTS.has(next.word)) return false;
  const said = tokens.findIndex(({ kind, word }, index) => index > at && !(kind === 'word' && FILLER_WORDS.has(word)));
  return said < 0 || !lexicon.find(tokens, said)?.meanings.some(({ kind }) => kind === 'stage' || kind === 'band');
}
