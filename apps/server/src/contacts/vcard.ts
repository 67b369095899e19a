/** One line of a vCard is at most this long, in octets; what is longer goes on in the next line after a space (RFC 6350, 3.2). */
const LONGEST = 75;

export interface Card {
  readonly kind: 'individual' | 'org';
  readonly uid: string;
  readonly name: string;
  readonly email?: string | null | undefined;
  readonly categories?: readonly string[];
}

/** A contact or a company as vCard 4.0 (RFC 6350). */
export function vCard({ kind, uid, name, email, categories = [] }: Card): string {
  return [
    'BEGIN:VCARD',
    'VERSION:4.0',
    `KIND:${kind}`,
    `UID:urn:uuid:${uid}`,
    `FN:${escaped(name)}`,
    ...(kind === 'org' ? [`ORG:${escaped(name)}`] : []),
    ...(email ? [`EMAIL:${escaped(email)}`] : []),
    ...(categories.length > 0 ? [`CATEGORIES:${categories.map(escaped).join(',')}`] : []),
    'END:VCARD',
  ]
    .map((line) => `${folded(line)}\r\n`)
    .join('');
}

const escaped = (text: string): string => text.replace(/[\\,;]/g, '\\$&').replace(/\r\n|\r|\n/g, '\\n');

/** Folded between characters, never inside of one. */
function folded(line: string): string {
  let [length, result] = [0, ''];
  for (const character of line) {
    const octets = Buffer.byteLength(character);
    if (length + octets > LONGEST) {
      result += '\r\n ';
      length = 1;
    }
    result += character;
    length += octets;
  }
  return result;
}
