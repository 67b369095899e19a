import { type Catalogue } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type WorkedSubject } from './worked';
import { latestEffects, writeLedger, type LedgerIds } from './write-ledger';
import { writeCompanies, writeContacts, writeDue } from './write-rows';
import {
  writeConsent,
  writeFacts,
  writeMade,
  writeMemberships,
  writePins,
  writePoints,
  writeRules,
  writeScores,
  writeTags,
} from './write-parts';
import { writeDeals } from './write-deals';
import { writeHistory } from './write-history';

/** Writes down what passes changed, set-based: a few statements a table, however many subjects there are. */
export async function writeStates(sql: Sql, catalogue: Catalogue, epoch: number, worked: readonly WorkedSubject[]): Promise<LedgerIds> {
  const ids = await writeLedger(sql, epoch, worked);
  const latest = latestEffects(worked, ids);
  await writeFacts(sql, catalogue, worked, latest);
  await writeTags(sql, worked, latest);
  await writeConsent(sql, worked, latest);
  await writeScores(sql, worked);
  await writeMemberships(sql, worked, latest);
  await writePins(sql, worked, latest);
  await writeRules(sql, worked);
  await writePoints(sql, worked);
  await writeDeals(sql, worked);
  await writeHistory(sql, worked);
  await writeMade(sql, worked, ids);
  await writeContacts(sql, catalogue, worked);
  await writeCompanies(sql, catalogue, worked);
  await writeDue(sql, worked);
  return ids;
}
