import { useState } from 'react';
import { type TableRowView } from './view';

const NONE: ReadonlySet<string> = new Set();

/** Those who are ticked, as they stand in the table; whoever is not loaded comes last. */
export function inOrder(ticked: ReadonlySet<string>, rows: readonly TableRowView[]): readonly string[] {
  const loaded = rows.flatMap(({ id }) => (ticked.has(id) ? [id] : []));
  return [...new Set([...loaded, ...ticked])];
}

/** What of the table does not stand in its address: what is searched for, who is ticked, and where it begins. */
export function useLook() {
  const [search, setSearch] = useState('');
  const [ticked, setTicked] = useState(NONE);
  const [skip, setSkip] = useState(0);
  return {
    ...{ search, ticked, skip, setTicked, setSkip },
    find: (text: string): void => {
      setSearch(text);
      setSkip(0);
    },
    beginAnew: (): void => {
      setTicked(NONE);
      setSkip(0);
    },
    untick: (): void => setTicked(NONE),
  };
}
