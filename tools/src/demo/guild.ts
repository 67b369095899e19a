import { type DemoContact } from './world';

export const GUILD_FILE = 'guild-of-potters.vcf';

/**
 * The address book of a guild of potters, as vCards: a dozen of its members buy here already, eight do not yet. It lies in the watched folder, so
 * that watching a file can be tried.
 */
export function guildBook(contacts: readonly DemoContact[]): string {
  const members = contacts.slice(20, 32).map(({ email, row }) => ({ email, row }));
  const others = contacts.slice(40, 48).map(({ email, row }) => ({ email: `${email.split('@')[0]}@guild.example`, row }));
  return [...members, ...others]
    .map(({ email, row }) =>
      [
        'BEGIN:VCARD',
        'VERSION:4.0',
        `FN:${escaped([row['First name'], row['Last name']].filter(Boolean).join(' ') || email)}`,
        `N:${escaped(row['Last name'])};${escaped(row['First name'])};;;`,
        `EMAIL:${email}`,
        `ADR:;;;${escaped(row['City'])};;;${escaped(row['Country'])}`,
        'END:VCARD',
        '',
      ].join('\r\n'),
    )
    .join('');
}

const escaped = (text = ''): string => text.replace(/[\\,;]/g, '\\$&').replace(/\r?\n/g, '\\n');
