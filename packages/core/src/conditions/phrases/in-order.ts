import { type Chunk } from './chunks.ts';
import { meaningOf } from './meanings.ts';

const DONE = /(ed|bought|taken|seen|sent)$/i;

/** `no glaze or clay bought` as `never bought glaze or clay`: what was not done is said before what it was not done to. */
export function inOrder(chunks: readonly Chunk[]): readonly Chunk[] {
  const at = chunks.findIndex(({ kind, text }) => kind === 'not' && /^no$/i.test(text));
  const done = chunks.findIndex((chunk, index) => index > at + 1 && meaningOf(chunk, 'signal') !== undefined && DONE.test(chunk.text));
  if (at < 0 || done < 0) return chunks;
  const things = chunks.slice(at + 1, done);
  const isListed = things.every((chunk, index) => (index % 2 === 0 ? isThing(chunk) : chunk.joint === 'or')) && things.length % 2 === 1;
  const behind = chunks[done + 1];
  if (!isListed || behind?.kind === 'thing' || behind?.kind === 'free') return chunks;
  return [...chunks.slice(0, at + 1), chunks[done] as Chunk, ...things, ...chunks.slice(done + 1)];
}

/** What can be bought, and nothing that is known of somebody, such as a phone number. */
const isThing = (chunk: Chunk): boolean =>
  (chunk.kind === 'thing' || chunk.kind === 'free') && meaningOf(chunk, 'signal') === undefined && meaningOf(chunk, 'field') === undefined;
