import { join } from 'node:path';
import { build } from '../build';
import { startCluster, type Cluster } from '../cluster';
import { DEMO_PEOPLE, personWords } from '../demo/people';
import { DATA } from '../places';
import { createDatabase, serverCommand, startServer, stopServer } from '../server';
import { manyRules } from './many-rules';
import { pageDelay } from './page-delay';
import { scale } from './scale';
import { typing } from './typing';

const SCOPES = 'signals:write,contacts:read,contacts:write,audiences:read,definitions:read,definitions:write';

/** Measures on this machine, each on a database of its own: a small workspace as people see it, and a large one. What a pass costs is measured without any. */
export async function bench(contacts: number, signals: number): Promise<void> {
  await build();
  await manyRules();
  await typing();
  const cluster = await startCluster({ directory: join(DATA, 'bench-cluster') });
  try {
    await onServer(cluster, 'small', (address, key) => pageDelay(address, key));
    await onServer(cluster, 'large', (address, key, databaseUrl) => scale({ address, key, databaseUrl, contacts, signals }));
  } finally {
    await cluster.stop();
  }
}

async function onServer(
  cluster: Cluster,
  of: string,
  measure: (address: string, key: string, databaseUrl: string) => Promise<void>,
): Promise<void> {
  const name = `bench_${of}_${Date.now()}`;
  await createDatabase(cluster, name);
  const url = cluster.url(name);
  const server = await startServer(url, 0);
  try {
    const [person] = DEMO_PEOPLE;
    await serverCommand(url, 'person', ...personWords(person));
    const { key } = await serverCommand<{ key: string }>(url, 'key', 'bench', SCOPES);
    await measure(server.url, key, url);
  } finally {
    await stopServer(server);
  }
}
