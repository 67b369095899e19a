import { columnWords, type Catalogue, type Column, type TableOf } from '@eager-sieve/core';
import { type Cell, type CompanyRow, type PeopleAnswer, type PersonRow } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { vCard } from '../contacts/vcard';
import { writeRows } from '../http/rows-file';

/** A cell as a file holds it: numbers without their units, times in ISO 8601. */
function writtenCell(cell: Cell): string | number | null {
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

/** Under what stands whom a row is of, and by what it is known elsewhere. */
const OWN_HEADS = { contact: ['Contact', 'Address'], company: ['Company', 'Outside id'] } as const;

/** Under what each column stands: no two under the same, and none under what others stand under. */
export function headsOf(
  columns: readonly Column[],
  catalogue: Catalogue,
  of: TableOf,
  others: readonly string[] = OWN_HEADS[of],
): readonly string[] {
  const taken = new Set<string>(others);
  return columns.map((column) => {
    const words = columnWords(column, catalogue, of);
    let head = words;
    for (let n = 2; taken.has(head); n += 1) head = `${words} (${n})`;
    taken.add(head);
    return head;
  });
}

/** What cells say, under their heads. */
export const cellsUnder = (heads: readonly string[], cells: readonly Cell[] = []): Readonly<Record<string, string | number | null>> =>
  Object.fromEntries(heads.map((head, index) => [head, writtenCell(cells[index] ?? null)]));

interface PeopleFile {
  readonly format: 'csv' | 'ndjson' | 'vcard';
  readonly of: TableOf;
  readonly columns: readonly Column[];
  readonly catalogue: Catalogue;
  readonly first: PeopleAnswer;
  readonly read: (after: string) => Promise<PeopleAnswer>;
}

/** A row as each format begins it. */
interface Written {
  readonly known: string | null;
  readonly json: object;
  readonly card: string;
  readonly name: string;
  readonly cells: readonly Cell[] | undefined;
}

const personWritten = ({ id, name, email, tags, cells }: PersonRow): Written => ({
  ...{ name, cells, known: email, json: { id, name, email } },
  card: vCard({ kind: 'individual', uid: id, name, email, categories: tags }),
});
const companyWritten = ({ id, name, outsideId, cells }: CompanyRow): Written => ({
  ...{ name, cells, known: outsideId, json: { id, name, outsideId } },
  card: vCard({ kind: 'org', uid: id, name }),
});

/** Writes a table of people or companies page by page, as it is read. */
export function writePeople(response: Response, { format, of, columns, catalogue, first, read }: PeopleFile): Promise<void> {
  const heads = headsOf(columns, catalogue, of);
  const [who, known] = OWN_HEADS[of];
  return writeRows(response, {
    heads: format === 'csv' ? [who, known, ...heads] : undefined,
    items: ({ contacts, companies = [] }) => (of === 'company' ? companies.map(companyWritten) : contacts.map(personWritten)),
    row: (item) => ({ [who]: item.name, [known]: item.known, ...cellsUnder(heads, item.cells) }),
    line: (item) => (format === 'vcard' ? item.card : `${JSON.stringify({ ...item.json, ...cellsUnder(heads, item.cells) })}\n`),
    first,
    next: ({ after }) => (after === null ? undefined : read(after)),
  });
}
