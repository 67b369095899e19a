import { parentPort, workerData } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { Database } from '../database/database';
import { makeLog } from '../log';
import { DefinitionStore } from '../settings/definition-store';
import { CountingIndex } from './counting-index';
import { IndexSnapshot } from './index-snapshot';
import { type ThreadData } from './counting.service';

/** The counting index in a thread of its own, so that a count of everyone holds up neither requests nor passes. */
async function main(): Promise<void> {
  if (!parentPort) throw new Error('This runs as a thread of the server.');
  const { databaseUrl, replicaUrl, snapshotFile } = workerData as ThreadData;
  const database = new Database(databaseUrl, 2);
  const replica = replicaUrl === undefined ? undefined : new Database(replicaUrl, 1);
  const index = new CountingIndex(
    database,
    new DefinitionStore(),
    replica,
    snapshotFile === undefined ? undefined : new IndexSnapshot(snapshotFile, makeLog()),
  );
  // Before anything can take its time: until it is ready it says so.
  expose(index, nodeEndpoint(parentPort));
  await database.open();
  // One that is away is left out: then everyone is loaded from the database itself.
  await replica?.open().catch(() => undefined);
  index.start();
}

void main();
