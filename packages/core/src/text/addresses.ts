import { fold } from './fold.ts';

const BETWEEN = /[\s,;<>()[\]"'|]+/;
const EDGES = /^(mailto:)|[.:!?]+$/gi;
const ADDRESS = /^[^\s@]+@[^\s@.]+(\.[^\s@.]+)*\.[^\s@.]{2,}$/;

/**
 * The email addresses in a pasted text, each once, in their order: one a line, between commas, or with names beside them.
 *
 * @example addressesIn('Anna <anna@a.example>; BO@b.example, anna@') // { addresses: ['anna@a.example', 'BO@b.example'], wrong: ['anna@'] }
 * @returns also what looks like an address and is none
 */
export function addressesIn(text: string): { readonly addresses: readonly string[]; readonly wrong: readonly string[] } {
  const addresses = new Map<string, string>();
  const wrong = new Set<string>();
  for (const word of text.split(BETWEEN)) {
    if (!word.includes('@')) continue;
    const address = word.replace(EDGES, '');
    if (address.length > 254 || !ADDRESS.test(address)) wrong.add(word);
    else if (!addresses.has(fold(address))) addresses.set(fold(address), address);
  }
  return { addresses: [...addresses.values()], wrong: [...wrong] };
}
