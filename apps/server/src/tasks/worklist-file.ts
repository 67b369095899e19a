import { type Catalogue } from '@eager-sieve/core';
import { type WorklistEntry, type WorklistView } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { cellsUnder, headsOf } from '../audiences/people-file';
import { writeRows } from '../http/rows-file';

interface Entries {
  readonly worklist: WorklistView;
  readonly entries: readonly WorklistEntry[];
  readonly after: string | null;
}
interface WorklistFile {
  readonly format: 'csv' | 'ndjson';
  readonly catalogue: Catalogue;
  readonly first: Entries;
  readonly read: (after: string) => Promise<Entries>;
}

const OWN_HEADS = ['Contact', 'Address', 'State', 'Said by', 'At', 'Note'] as const;

/** Writes a list to work down page by page, in its order: what was said of each, and what its columns say now. */
export function writeWorklist(response: Response, { format, catalogue, first, read }: WorklistFile): Promise<void> {
  const heads = headsOf(first.worklist.columns, catalogue, 'contact', OWN_HEADS);
  const row = ({ name, email, state, by, at, note, cells }: WorklistEntry) => ({
    ...{ Contact: name, Address: email, State: state, 'Said by': by, At: at, Note: note },
    ...cellsUnder(heads, cells),
  });
  return writeRows(response, {
    heads: format === 'csv' ? [...OWN_HEADS, ...heads] : undefined,
    items: ({ entries }) => entries,
    row,
    line: (entry) => `${JSON.stringify({ id: entry.contact, ...row(entry) })}\n`,
    first,
    next: ({ after }) => (after === null ? undefined : read(after)),
  });
}
