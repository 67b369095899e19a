import { escapedText as escaped, foldedLine } from '../http/card-lines';

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
    .map((line) => `${foldedLine(line)}\r\n`)
    .join('');
}
