import { type DefinitionKind } from '../../settings/definitions.ts';

export type Slot = 'subject' | 'op' | 'value' | 'where' | 'then' | 'count' | 'window' | 'since' | 'from' | 'to' | 'measure' | 'condition';

/** One piece of a line: plain words, or words that stand in a slot where a person can pick something else. */
export interface Part {
  readonly text: string;
  readonly slot?: Slot;
  /** the tag, field or audience that the words name, for a mark beside it or a link to it */
  readonly names?: { readonly kind: DefinitionKind; readonly key: string };
}

export const plain = (text: string): Part => ({ text });
export const inSlot = (slot: Slot, text: string): Part => ({ text, slot });
/** A tag, an audience or whatever else is called by name, which a reader may want to look at. */
export const named = (kind: DefinitionKind, key: string, text: string): Part => ({ text, slot: 'value', names: { kind, key } });
/** Joins parts into one text; a part that begins with a comma follows without a space. */
export const joinedParts = (parts: readonly Part[]): string =>
  parts.map((part, index) => (index === 0 || part.text.startsWith(',') ? part.text : ` ${part.text}`)).join('');
/** Texts and parts as parts, without the empty ones. */
export const partsOf = (...parts: readonly (string | Part)[]): readonly Part[] =>
  parts.map((each) => (typeof each === 'string' ? plain(each) : each)).filter(({ text }) => text !== '');
/** One part in a list, or an empty list if there is no text. */
export const some = (slot: Slot, text: string | undefined): readonly Part[] => (text ? [inSlot(slot, text)] : []);
