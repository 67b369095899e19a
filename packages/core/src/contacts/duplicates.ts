/** What tells whether two contacts may be one person; texts are folded. */
export interface Likeable {
  readonly name: string;
  readonly email: string | undefined;
  readonly phone: string | undefined;
  readonly company: number | undefined;
}

/** What two contacts have in common. */
export type Alike = 'mailbox' | 'phone' | 'name' | 'company';

/** How much each of it speaks for one person. */
export const ALIKE_POINTS: Readonly<Record<Alike, number>> = { mailbox: 60, phone: 45, name: 30, company: 15 };
/** From so many points on two contacts are shown as perhaps one. */
export const PERHAPS_ONE = 45;
/** From so many points on they are merged without a look at each, where somebody asks for that. */
export const CERTAINLY_ONE = 75;

/**
 * An address as the mailbox behind it is known: most mail servers leave out dots, and what follows a plus sign.
 *
 * @example mailboxOf('anna.b+shop@lantern.example') // 'annab@lantern.example'
 */
export function mailboxOf(email: string): string | undefined {
  const [local = '', domain = ''] = email.split('@');
  const name = (local.split('+')[0] ?? '').replace(/[._-]/g, '');
  return name === '' || domain === '' ? undefined : `${name}@${domain}`;
}

const PHONE_DIGITS = { least: 7, compared: 9 } as const;

/** The digits of a phone number that are the same with and without the code of a country. */
export function phoneKeyOf(phone: string): string | undefined {
  const digits = phone.replace(/[^0-9]/g, '');
  return digits.length < PHONE_DIGITS.least ? undefined : digits.slice(-PHONE_DIGITS.compared);
}

/** A name of one word says too little. */
const isWholeName = (name: string): boolean => name.includes(' ');

const isSame = (a: string | undefined, b: string | undefined): boolean => a !== undefined && a === b;

/** What speaks for it that two contacts are one person, and how much. */
export function likeness(a: Likeable, b: Likeable): { readonly points: number; readonly alike: readonly Alike[] } {
  const tests: Readonly<Record<Alike, boolean>> = {
    mailbox: isSame(a.email && mailboxOf(a.email), b.email && mailboxOf(b.email)),
    phone: isSame(a.phone && phoneKeyOf(a.phone), b.phone && phoneKeyOf(b.phone)),
    name: isWholeName(a.name) && a.name === b.name,
    company: a.company !== undefined && a.company === b.company,
  };
  const alike = (Object.keys(tests) as Alike[]).filter((each) => tests[each]);
  return { alike, points: alike.reduce((sum, each) => sum + ALIKE_POINTS[each], 0) };
}
