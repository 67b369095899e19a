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
/** One part in a list, or an empty list if there is no text. */
export const some = (slot: Slot, text: string | undefined): readonly Part[] => (text ? [inSlot(slot, text)] : []);
