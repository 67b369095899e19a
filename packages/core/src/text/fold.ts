const PLAIN_ASCII = /^[\x20-\x7e]*$/;
const OUTER_SPACE = /^\p{White_Space}+|\p{White_Space}+$/gu;
const NOT_IN_A_WORD = /[^\p{L}\p{M}\p{N}]+/gu;

/** Full case folding of one code point, without locale. Built from the upper and lower case mappings, but for where Unicode's CaseFolding.txt departs from them. */
function foldCodePoint(character: string): string {
  const code = character.codePointAt(0) ?? 0;
  if (code === 0x131) return character; // dotless i folds to itself unless the language is Turkish
  if (code === 0x1e9e) return 'ss';
  if ((code >= 0x13a0 && code <= 0x13f5) || (code >= 0x13f8 && code <= 0x13fd) || (code >= 0xab70 && code <= 0xabbf)) {
    return character.toUpperCase(); // Cherokee folds upwards
  }
  let folded = '';
  // Each one alone: String#toLowerCase looks at its neighbours to write a final sigma, and folding must not.
  for (const upper of character.toUpperCase()) folded += upper.toLowerCase();
  return folded;
}

/**
 * The form in which text is compared: NFKC, full case folding without locale, NFKC again, white space trimmed at both ends.
 *
 * Folding happens once, when text is written, so that every evaluator compares the same strings.
 * Text that is empty after folding is an empty value.
 *
 * @example fold('  Straße ') // 'strasse'
 */
export function fold(text: string): string {
  if (PLAIN_ASCII.test(text)) return text.toLowerCase().trim();
  let folded = '';
  for (const character of storable(text).normalize('NFKC')) folded += foldCodePoint(character);
  return folded.normalize('NFKC').replace(OUTER_SPACE, '');
}

/**
 * The words of a folded text, each a run of letters, marks and digits, with one space around each: `' two words '`.
 * `contains the word` is then a plain search for `' word '`, the same in memory and in SQL.
 */
export function paddedWords(folded: string): string {
  return ` ${folded.replace(NOT_IN_A_WORD, ' ').trim()} `;
}

/** Text as it may be stored: well-formed UTF-16, and without U+0000, which PostgreSQL cannot hold. */
export function storable(text: string): string {
  return text.toWellFormed().replaceAll('\u0000', '');
}

/** A JSON value as it may be stored: every text in it, keys too, as `storable` leaves it. */
export function storableJson(value: unknown): unknown {
  if (typeof value === 'string') return storable(value);
  if (Array.isArray(value)) return value.map(storableJson);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [storable(key), storableJson(inner)]));
}
