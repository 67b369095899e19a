import { type DefinitionKind } from '../../settings/definitions.ts';

/** One piece of a sentence: plain words, or words in whose place one can pick something else. */
export interface Part {
  readonly text: string;
  readonly isSlot?: true;
  /** the tag or the audience that the words name, for a mark beside it or a link to it */
  readonly names?: { readonly kind: DefinitionKind; readonly key: string };
}

export const slot = (text: string): Part => ({ text, isSlot: true });
export const named = (kind: DefinitionKind, key: string, text: string): Part => ({ text, isSlot: true, names: { kind, key } });
/** Texts and parts as parts, without the empty ones. */
export const partsOf = (...parts: readonly (string | Part)[]): readonly Part[] =>
  parts.map((each) => (typeof each === 'string' ? { text: each } : each)).filter(({ text }) => text !== '');

/** Texts as one; what begins with a comma follows without a space. */
export const joined = (texts: readonly string[]): string =>
  texts.map((text, index) => (index === 0 || text.startsWith(',') ? text : ` ${text}`)).join('');
export const joinedParts = (parts: readonly Part[]): string => joined(parts.map(({ text }) => text));
