import { type Chunk } from './chunks.ts';
import { type Meaning } from './lexicon.ts';

export type MeaningOf<Kind extends Meaning['kind']> = Extract<Meaning, { readonly kind: Kind }>;

/** What a chunk means among other things. */
export const meaningOf = <Kind extends Meaning['kind']>(chunk: Chunk, kind: Kind): MeaningOf<Kind> | undefined =>
  chunk.meanings.find((each): each is MeaningOf<Kind> => each.kind === kind);
