import { type DealList, type DealRow } from '@eager-sieve/contracts';
import { stringify } from 'csv-stringify';
import { type Response } from 'express';

interface DealsFile {
  readonly format: 'csv' | 'ndjson';
  /** what a stage is called, by its key */
  readonly stageOf: (key: string) => string;
  readonly read: (after: string | undefined) => Promise<DealList>;
}

/** A deal under the heads of the file, the same in both formats. */
const written = (deal: DealRow, currency: string, stageOf: DealsFile['stageOf']) => ({
  Deal: deal.name,
  'Outside id': deal.outsideId,
  Stage: stageOf(deal.stage),
  Amount: deal.amount,
  Currency: currency,
  'Expected close': deal.closes,
  'Of whom': deal.contactName,
  Company: deal.companyName,
  Owner: deal.owner,
  Opened: deal.opened,
  'Here since': deal.moved,
});
const HEADS: readonly (keyof ReturnType<typeof written>)[] = [
  'Deal',
  'Outside id',
  'Stage',
  'Amount',
  'Currency',
  'Expected close',
  'Of whom',
  'Company',
  'Owner',
  'Opened',
  'Here since',
];

/** Writes a table of deals page by page, as it is read. */
export async function writeDeals(response: Response, { format, stageOf, read }: DealsFile): Promise<void> {
  const csv = format === 'csv' ? stringify({ header: true, columns: [...HEADS], escape_formulas: true }) : undefined;
  csv?.pipe(response);
  for (let after: string | undefined; ;) {
    const page = await read(after);
    for (const deal of page.deals) {
      const row = written(deal, page.currency, stageOf);
      if (csv) csv.write(row);
      else response.write(`${JSON.stringify({ id: deal.id, ...row })}\n`);
    }
    if (page.after === null || response.closed) break;
    after = page.after;
  }
  if (csv) csv.end();
  else response.end();
}
