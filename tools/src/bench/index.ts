import { join } from 'node:path';
import { build } from '../build';
import { startCluster, type Cluster } from '../cluster';
import { DEMO_PEOPLE } from '../demo/people';
import { DATA } from '../places';
import { say } from '../say';
import { createDatabase, serverCommand, startServer, stopServer } from '../server';
import { imports } from './imports';
import { indexReady } from './index-ready';
import { manyBuilds } from './many-builds';
import { manyPeople } from './many-people';
import { manyRules } from './many-rules';
import { multiply } from './multiply';
import { pageDelay } from './page-delay';
import { scale } from './scale';
import { soak } from './soak';
import { typing } from './typing';

/** So many contacts are sent by the API: of a hundred thousand and more only a part, which is then copied. */
const MOST_SENT = 50_000;
/** How much of what takes its time is done; the figures waver more where it is little. */
const WHOLE = { isQuick: false, demo: 5_000, imported: 20_000, delayed: 400 } as const;
const QUICK = { sent: 4_000, signals: 40_000, times: 12, isQuick: true, demo: 1_500, imported: 3_000, delayed: 60 } as const;
const SCOPES = 'signals:write,contacts:read,contacts:write,audiences:read,definitions:read,definitions:write';

/** Measures on this machine, each on a database of its own: a small workspace as people see it, and a large one. What a pass costs is measured without any. */
export async function bench(contacts: number, signals: number): Promise<void> {
  // More than these are not sent one by one: a workspace of so many is worked, and then copied.
  const sent = Math.min(contacts, MOST_SENT);
  const times = Math.ceil(contacts / sent);
  await measured({ sent, signals: Math.ceil(signals / times), times, ...WHOLE });
}

/** The same over some fifty thousand contacts that are copied of few, within three minutes. */
export const quickBench = (): Promise<void> => measured(QUICK);

/** Many minutes of signals, with kills. */
export async function soakBench(minutes: number): Promise<void> {
  await build();
  const cluster = await startCluster({ directory: join(DATA, 'bench-cluster') });
  try {
    await createDatabase(cluster, nameOf('soak'));
    await soak(cluster.url(nameOf('soak')), minutes, furnished);
  } finally {
    await cluster.stop();
  }
}

/** One person and a key for everything that is measured. @returns the key */
async function furnished(databaseUrl: string): Promise<string> {
  const wanted = JSON.stringify({ people: DEMO_PEOPLE.slice(0, 1), key: { name: 'bench', scopes: SCOPES.split(',') } });
  return (await serverCommand<{ key: string }>(databaseUrl, 'furnish', wanted)).key;
}

async function measured({ demo, sent, signals, times, isQuick, imported, delayed }: Size): Promise<void> {
  await build();
  await manyRules();
  await typing(isQuick);
  const cluster = await startCluster({ directory: join(DATA, 'bench-cluster') });
  try {
    await onServer(cluster, 'small', (address, key) => pageDelay(address, key, demo));
    await onServer(cluster, 'imports', (address, key, databaseUrl) => imports({ address, key, databaseUrl, contacts: imported }));
    await onServer(cluster, 'large', (address, key, databaseUrl) => scale({ address, key, databaseUrl, contacts: sent, signals, delayed }));
    if (times > 1) await copied(cluster, sent, times);
  } finally {
    await cluster.stop();
  }
}

interface Size {
  /** contacts of the demo, in which somebody looks at a page */
  readonly demo: number;
  readonly sent: number;
  /** of those that are sent */
  readonly signals: number;
  readonly times: number;
  readonly isQuick: boolean;
  readonly imported: number;
  readonly delayed: number;
}

type Measure = (address: string, key: string, databaseUrl: string) => Promise<void>;

/** Copies the workspace that was measured last, and measures what people look at over so many. */
async function copied(cluster: Cluster, sent: number, times: number): Promise<void> {
  const url = cluster.url(nameOf('large'));
  const begin = performance.now();
  await multiply(url, times);
  const contacts = sent * times;
  say(
    `${contacts} contacts by copying ${sent} with all they have: ${((performance.now() - begin) / 1_000).toFixed(0)} s (wanted: 15 minutes)`,
  );
  const server = await startServer(url, 0);
  try {
    const { key } = await serverCommand<{ key: string }>(url, 'key', 'many', SCOPES);
    await manyPeople({ address: server.url, key, databaseUrl: url, contacts });
  } finally {
    await stopServer(server);
  }
  const again = await startServer(url, 0);
  try {
    const { key } = await serverCommand<{ key: string }>(url, 'key', 'again', SCOPES);
    say(`  the counting index from what was written down: ready after ${(await indexReady(again.url, key)).toFixed(0)} s (wanted: 30)`);
    await manyBuilds({ address: again.url, key, databaseUrl: url });
  } finally {
    await stopServer(again);
  }
}

const BEGUN = Date.now();
const nameOf = (of: string): string => `bench_${of}_${BEGUN}`;

async function onServer(cluster: Cluster, of: string, measure: Measure): Promise<void> {
  await createDatabase(cluster, nameOf(of));
  const url = cluster.url(nameOf(of));
  const server = await startServer(url, 0);
  try {
    await measure(server.url, await furnished(url), url);
  } finally {
    await stopServer(server);
  }
}
