import { columnWords, type Catalogue, type Column } from '@eager-sieve/core';
import { type Cell, type PeopleAnswer, type PersonRow } from '@eager-sieve/contracts';
import { stringify } from 'csv-stringify';
import { type Response } from 'express';
import { vCard } from '../contacts/vcard';

/** A cell as a file holds it: numbers without their units, times in ISO 8601. */
function written(cell: Cell): string | number | null {
  if (cell === null) return null;
  switch (cell.is) {
    case 'text':
      return cell.shown;
    case 'number':
      return cell.number;
    case 'time':
      return cell.time;
    case 'score':
      return cell.points;
    case 'tags':
      return cell.tags.join(';');
  }
}

const OWN_HEADS = ['Contact', 'Address'] as const;

/** Under what each column stands: no two under the same. */
function headsOf(columns: readonly Column[], catalogue: Catalogue): readonly string[] {
  const taken = new Set<string>(OWN_HEADS);
  return columns.map((column) => {
    const words = columnWords(column, catalogue);
    let head = words;
    for (let n = 2; taken.has(head); n += 1) head = `${words} (${n})`;
    taken.add(head);
    return head;
  });
}

interface PeopleFile {
  readonly format: 'csv' | 'ndjson' | 'vcard';
  readonly columns: readonly Column[];
  readonly catalogue: Catalogue;
  readonly read: (after: string | undefined) => Promise<PeopleAnswer>;
}

/** Writes a table of people page by page, as it is read. */
export async function writePeople(response: Response, { format, columns, catalogue, read }: PeopleFile): Promise<void> {
  const heads = headsOf(columns, catalogue);
  const csv = format === 'csv' ? stringify({ header: true, columns: [...OWN_HEADS, ...heads], escape_formulas: true }) : undefined;
  csv?.pipe(response);
  const said = ({ cells = [] }: PersonRow) => Object.fromEntries(heads.map((head, index) => [head, written(cells[index] ?? null)]));
  for (let after: string | undefined; ;) {
    const page = await read(after);
    for (const row of page.contacts) {
      const { id, name, email, tags } = row;
      if (csv) csv.write({ Contact: name, Address: email, ...said(row) });
      else if (format === 'vcard') response.write(vCard({ kind: 'individual', uid: id, name, email, categories: tags }));
      else response.write(`${JSON.stringify({ id, name, email, ...said(row) })}\n`);
    }
    if (page.after === null || response.closed) break;
    after = page.after;
  }
  if (csv) csv.end();
  else response.end();
}
