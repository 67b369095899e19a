import { type Catalogue } from '../settings/catalogue.ts';
import { type TagId } from '../settings/ids.ts';
import { type MessageBody } from './definition.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';

/** A message's text cut into what stands and what is filled in: `Hello [given-name or "there"]`. */
export type Piece =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'field'; readonly field: string; readonly fallback: string }
  | { readonly kind: 'link'; readonly link: string }
  /** what is said to whoever has a tag */
  | { readonly kind: 'tag text'; readonly key: string };

const PLACEHOLDER = /\[([a-z0-9.-]+)(?:\s+or\s+"([^"\]]*)")?\]/g;

/**
 * Reads the placeholders of a text: `[field or "fallback"]` gives a contact's field, `[link-key]` a choice link, `[key]` of a text of a tag what that says.
 * A field without a fallback is a fault: an empty value would leave a hole in somebody's message.
 */
export function readPlaceholders(
  text: string,
  fields: ReadonlySet<string>,
  links: ReadonlySet<string>,
  tagTexts: ReadonlySet<string> = new Set(),
): Checked<readonly Piece[]> {
  const pieces: Piece[] = [];
  const faults: Fault[] = [];
  let end = 0;
  for (const match of text.matchAll(PLACEHOLDER)) {
    const [whole, key = '', fallback] = match;
    if (match.index > end) pieces.push({ kind: 'text', text: text.slice(end, match.index) });
    end = match.index + whole.length;
    if (links.has(key) && fallback === undefined) pieces.push({ kind: 'link', link: key });
    else if (tagTexts.has(key) && fallback === undefined) pieces.push({ kind: 'tag text', key });
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
export function fillIn(
  pieces: readonly Piece[],
  value: (field: string) => string | undefined,
  link: (key: string) => string,
  tagText: (key: string) => string = () => '',
): string {
  const filled = (piece: Piece): string => {
    switch (piece.kind) {
      case 'text':
        return piece.text;
      case 'link':
        return link(piece.link);
      case 'tag text':
        return tagText(piece.key);
      case 'field':
        return value(piece.field) || piece.fallback;
    }
  };
  return pieces.map(filled).join('');
}

/** What a message says to somebody where it says something of tags: the text of a tag that they have, or what is said otherwise. */
export const tagTextFor =
  ({ tagTexts = [] }: Pick<MessageBody, 'tagTexts'>, catalogue: Catalogue, has: (tag: TagId) => boolean) =>
  (key: string): string => {
    const written = tagTexts.find((each) => each.key === key);
    if (!written) return '';
    return (has(written.tag as TagId) ? catalogue.body('tag', written.tag)?.text : written.otherwise) ?? '';
  };
