import { bad, good, type Checked, type Fault } from '../faults.ts';

/** A message's text cut into what stands and what is filled in: `Hello [given-name or "there"]`. */
export type Piece =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'field'; readonly field: string; readonly fallback: string }
  | { readonly kind: 'link'; readonly link: string };

const PLACEHOLDER = /\[([a-z0-9.-]+)(?:\s+or\s+"([^"\]]*)")?\]/g;

/**
 * Reads the placeholders of a text: `[field or "fallback"]` gives a contact's field, `[link-key]` a choice link.
 * A field without a fallback is a fault: an empty value would leave a hole in somebody's message.
 */
export function readPlaceholders(text: string, fields: ReadonlySet<string>, links: ReadonlySet<string>): Checked<readonly Piece[]> {
  const pieces: Piece[] = [];
  const faults: Fault[] = [];
  let end = 0;
  for (const match of text.matchAll(PLACEHOLDER)) {
    const [whole, key = '', fallback] = match;
    if (match.index > end) pieces.push({ kind: 'text', text: text.slice(end, match.index) });
    end = match.index + whole.length;
    if (links.has(key) && fallback === undefined) pieces.push({ kind: 'link', link: key });
    else if (!fields.has(key))
      faults.push({ path: ['text', match.index], code: 'placeholder.unknown', expected: `a field or a choice link in place of [${key}]` });
    else if (fallback === undefined)
      faults.push({
        path: ['text', match.index],
        code: 'placeholder.fallback',
        expected: `[${key} or "what stands in where it is empty"]`,
      });
    else pieces.push({ kind: 'field', field: key, fallback });
  }
  if (end < text.length) pieces.push({ kind: 'text', text: text.slice(end) });
  return faults.length > 0 ? bad(...faults) : good(pieces);
}

/** The text with everything filled in. */
export function fillIn(pieces: readonly Piece[], value: (field: string) => string | undefined, link: (key: string) => string): string {
  return pieces
    .map((piece) => (piece.kind === 'text' ? piece.text : piece.kind === 'link' ? link(piece.link) : value(piece.field) || piece.fallback))
    .join('');
}
