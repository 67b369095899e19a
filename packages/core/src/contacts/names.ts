/** Lower-case words that belong to the family name they stand before: “van der Berg”, “de la Cruz”. */
const PARTICLES = new Set([
  'van',
  'von',
  'der',
  'den',
  'de',
  'del',
  'della',
  'di',
  'da',
  'dos',
  'la',
  'le',
  'af',
  'av',
  'bin',
  'ibn',
  'al',
  'el',
  'ter',
  'ten',
  'zu',
]);

/**
 * A full name in its two parts, as well as its writing can tell: “Farrow, Ottoline” begins with the family name, “Ottoline van der Farrow”
 * ends with it, and one word alone is a given name.
 */
export function splitName(full: string): { readonly given?: string; readonly family?: string } {
  const text = full.trim().replace(/\s+/gu, ' ');
  if (text === '') return {};
  const comma = text.indexOf(',');
  if (comma > 0) {
    const [family, given] = [text.slice(0, comma).trim(), text.slice(comma + 1).trim()];
    return given === '' ? { family } : { given, family };
  }
  const words = text.split(' ');
  if (words.length === 1) return { given: text };
  let at = words.length - 1;
  while (at > 1 && PARTICLES.has(words[at - 1] ?? '')) at -= 1;
  return { given: words.slice(0, at).join(' '), family: words.slice(at).join(' ') };
}
