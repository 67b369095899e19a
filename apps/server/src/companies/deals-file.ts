import { type DealList, type DealRow } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { writeRows } from '../http/rows-file';

interface DealsFile {
  readonly format: 'csv' | 'ndjson';
  /** what a stage is called, by its key */
  readonly stageOf: (key: string) => string;
  readonly first: DealList;
  readonly read: (after: string) => Promise<DealList>;
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
export function writeDeals(response: Response, { format, stageOf, first, read }: DealsFile): Promise<void> {
  const row = (deal: DealRow) => written(deal, first.currency, stageOf);
  return writeRows(response, {
    heads: format === 'csv' ? HEADS : undefined,
    items: ({ deals }) => deals,
    row,
    line: (deal) => `${JSON.stringify({ id: deal.id, ...row(deal) })}\n`,
    first,
    next: ({ after }) => (after === null ? undefined : read(after)),
  });
}
