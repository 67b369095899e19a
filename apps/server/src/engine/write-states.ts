import { type Catalogue } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type WorkedSubject } from './worked';
import { latestEffects, writeLedger, type LedgerIds } from './write-ledger';
import { writeCompanies, writeContacts, writeDue } from './write-rows';
import { ALL_PARTS } from './parts';
import { writeHistory } from './write-history';
import { writeWork } from './write-work';

/** Writes what passes changed, set-based: a few statements a table for any number of subjects. */
export async function writeStates(sql: Sql, catalogue: Catalogue, epoch: number, worked: readonly WorkedSubject[]): Promise<LedgerIds> {
  const ids = await writeLedger(sql, epoch, worked);
  const latest = latestEffects(worked, ids);
  for (const part of ALL_PARTS) await part.write(sql, catalogue, worked, latest);
  await writeHistory(sql, worked);
  await writeWork(sql, worked, ids);
  await writeContacts(sql, catalogue, worked);
  await writeCompanies(sql, catalogue, worked);
  await writeDue(sql, worked);
  return ids;
}
