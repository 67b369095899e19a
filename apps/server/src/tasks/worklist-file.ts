import { type Catalogue } from '@eager-sieve/core';
import { type WorklistEntry, type WorklistView } from '@eager-sieve/contracts';
import { stringify } from 'csv-stringify';
import { type Response } from 'express';
import { headsOf, writtenCell } from '../audiences/people-file';

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
export async function writeWorklist(response: Response, { format, catalogue, first, read }: WorklistFile): Promise<void> {
  const heads = headsOf(first.worklist.columns, catalogue, 'contact', OWN_HEADS);
  const csv = format === 'csv' ? stringify({ header: true, columns: [...OWN_HEADS, ...heads], escape_formulas: true }) : undefined;
  csv?.pipe(response);
  for (let page = first; ;) {
    for (const { contact, name, email, state, by, at, note, cells } of page.entries) {
      const cellsSaid = Object.fromEntries(heads.map((head, index) => [head, writtenCell(cells[index] ?? null)]));
      const row = { Contact: name, Address: email, State: state, 'Said by': by, At: at, Note: note, ...cellsSaid };
      if (csv) csv.write(row);
      else response.write(`${JSON.stringify({ id: contact, ...row })}\n`);
    }
    if (page.after === null || response.closed) break;
    page = await read(page.after);
  }
  if (csv) csv.end();
  else response.end();
}
