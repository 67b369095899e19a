import { type Catalogue, type Fault } from '@eager-sieve/core';

/** Reads on which fixed lists somebody is to be put and which they are to be taken off, by their keys, and says everything that is wrong with that. */
export function readSentLists(
  sent: Readonly<Record<string, boolean>> | undefined,
  of: 'contact' | 'company',
  catalogue: Catalogue,
): { readonly lists: Readonly<Record<number, boolean>> | undefined; readonly faults: readonly Fault[] } {
  const lists: Record<number, boolean> = {};
  const faults: Fault[] = [];
  for (const [key, on] of Object.entries(sent ?? {})) {
    const path = ['lists', key];
    const found = catalogue.find('audience', key);
    if (!found) faults.push({ path, code: 'audience.unknown', expected: 'the key of a fixed list' });
    else if (found.body.kind !== 'fixed' || found.retired)
      faults.push({ path, code: 'list.live', expected: 'a fixed list: a live audience keeps itself by its conditions' });
    else if (found.body.of !== of)
      faults.push({ path, code: 'list.of', expected: of === 'company' ? 'a list of companies' : 'a list of people' });
    else lists[found.id] = on;
  }
  return { lists: Object.keys(lists).length > 0 ? lists : undefined, faults };
}
