import ICAL from 'ical.js';

/** What is read of a card, in the order in which it is shown. */
export const CARD_COLUMNS = [
  'name',
  'given name',
  'family name',
  'email',
  'phone',
  'company name',
  'role',
  'birthday',
  'street',
  'city',
  'region',
  'postcode',
  'country',
  'website',
  'note',
  'categories',
  'outside id',
] as const;
export type CardColumn = (typeof CARD_COLUMNS)[number];

type Property = readonly [name: string, parameters: Readonly<Record<string, string>>, type: string, ...values: unknown[]];

/** Where the parts of a name and of an address stand (RFC 6350, 6.2.2 and 6.3.1). */
const NAME = { family: 0, given: 1 } as const;
const ADDRESS = { street: 2, city: 3, region: 4, postcode: 5, country: 6 } as const;

/**
 * One vCard 3.0 or 4.0 as the cells of a table. Of what a card has several of, the first counts; several categories are joined.
 *
 * @param text from BEGIN:VCARD to END:VCARD
 * @returns undefined where it is no such card
 */
export function cardCells(text: string, listSeparator: string): Readonly<Record<string, string>> | undefined {
  let properties: readonly Property[];
  try {
    const [name, found] = ICAL.parse(text) as [string, Property[]];
    if (name !== 'vcard') return undefined;
    properties = found;
  } catch {
    return undefined;
  }
  const all = (wanted: string): readonly unknown[] => properties.find(([name]) => name === wanted)?.slice(3) ?? [];
  const one = (wanted: string): string => written(all(wanted)[0]);
  const part = (wanted: string, place: number): string => {
    const value = all(wanted)[0];
    return Array.isArray(value) ? written(value[place]) : '';
  };
  const cells: Record<CardColumn, string> = {
    name: one('fn'),
    'given name': part('n', NAME.given),
    'family name': part('n', NAME.family),
    email: one('email').replace(/^mailto:/i, ''),
    phone: one('tel').replace(/^tel:/i, ''),
    'company name': Array.isArray(all('org')[0]) ? part('org', 0) : one('org'),
    role: one('role') || one('title'),
    birthday: one('bday'),
    street: part('adr', ADDRESS.street),
    city: part('adr', ADDRESS.city),
    region: part('adr', ADDRESS.region),
    postcode: part('adr', ADDRESS.postcode),
    country: part('adr', ADDRESS.country),
    website: one('url'),
    note: one('note'),
    categories: all('categories').map(written).join(listSeparator),
    'outside id': one('uid'),
  };
  return cells;
}

const written = (value: unknown): string =>
  typeof value === 'string' ? value.trim() : Array.isArray(value) ? value.map(written).filter(Boolean).join(' ') : '';

/** Takes a text that comes in pieces apart into its cards. Pictures and sounds, which may be long, are left out. */
export class CardCutter {
  #rest = '';
  #card: string[] | undefined;
  #lines = 0;
  #skips = false;

  /** @returns each card that ended in this piece, with the line on which it ended; undefined for a line outside of any card */
  *take(piece: string): Generator<{ readonly line: number; readonly text: string | undefined }> {
    const lines = (this.#rest + piece).replace(/^\uFEFF/, '').split(/\r?\n/);
    this.#rest = lines.pop() ?? '';
    for (const line of lines) yield* this.#line(line);
  }

  *end(): Generator<{ readonly line: number; readonly text: string | undefined }> {
    if (this.#rest !== '') yield* this.#line(this.#rest);
    this.#rest = '';
    if (this.#card) yield { line: this.#lines, text: undefined };
  }

  /** How many characters of a card are waiting for its end. */
  get waiting(): number {
    return this.#rest.length + (this.#card ?? []).reduce((sum, line) => sum + line.length, 0);
  }

  *#line(line: string): Generator<{ readonly line: number; readonly text: string | undefined }> {
    this.#lines += 1;
    if (/^BEGIN:VCARD\s*$/i.test(line)) {
      if (this.#card) yield { line: this.#lines, text: undefined };
      this.#card = [line.trim()];
    } else if (!this.#card) {
      if (line.trim() !== '') yield { line: this.#lines, text: undefined };
    } else if (/^END:VCARD\s*$/i.test(line)) {
      const text = [...this.#card, line.trim()].join('\r\n');
      this.#card = undefined;
      yield { line: this.#lines, text };
    } else {
      if (!/^[ \t]/.test(line)) this.#skips = /^([\w-]+\.)?(PHOTO|LOGO|SOUND|KEY)[;:]/i.test(line);
      if (!this.#skips && line.trim() !== '') this.#card.push(line);
    }
  }
}
