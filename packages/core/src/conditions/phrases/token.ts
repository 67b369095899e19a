/** A word, number, sign or quoted text of what somebody typed, and where it stands. */
export interface Token {
  readonly kind: 'word' | 'number' | 'quoted' | 'date' | 'email' | 'path' | 'sign';
  /** as it was typed; of a quoted text what is inside */
  readonly text: string;
  /** folded, in the singular: by this it is compared */
  readonly word: string;
  readonly from: number;
  readonly to: number;
  readonly number?: number;
  /** as it was typed, where the text is the word that is meant */
  readonly misspelt?: string;
}
