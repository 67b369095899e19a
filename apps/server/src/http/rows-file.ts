import { stringify } from 'csv-stringify';
import { type Response } from 'express';

interface RowsFile<Page, Item> {
  /** the heads of a CSV; left out where it is another format */
  readonly heads: readonly string[] | undefined;
  readonly items: (page: Page) => readonly Item[];
  /** what stands under the heads */
  readonly row: (item: Item) => Readonly<Record<string, string | number | null>>;
  /** as it stands in the other format */
  readonly line: (item: Item) => string;
  readonly first: Page;
  /** the page behind another; undefined where there is none */
  readonly next: (page: Page) => Promise<Page> | undefined;
}

/** Writes a table page by page, as it is read, for as long as somebody waits for it. In a CSV no cell is a formula. */
export async function writeRows<Page, Item>(
  response: Response,
  { heads, items, row, line, first, next }: RowsFile<Page, Item>,
): Promise<void> {
  const csv = heads && stringify({ header: true, columns: [...heads], escape_formulas: true });
  csv?.pipe(response);
  for (let page = first; ;) {
    for (const item of items(page)) {
      if (csv) csv.write(row(item));
      else response.write(line(item));
    }
    const behind = response.closed ? undefined : next(page);
    if (behind === undefined) break;
    page = await behind;
  }
  if (csv) csv.end();
  else response.end();
}
