import { fork, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ask } from './ask';
import { runningCluster, startCluster, type Cluster } from './cluster';
import { must } from './run';
import { DATA, INCOMING, SNAPSHOTS, SECRET_FILE, SERVER_COMMAND, SERVER_MAIN } from './places';
import { say, ToldError } from './say';

export const DATABASE = 'sieve';

/**
 * The database to work with: one of the person's own, or one in the project's own cluster.
 *
 * @param isSupervised a running `./sieve start` keeps the cluster alive: it is waited for, and never started a second time
 */
export async function openDatabase({ isSupervised = false } = {}): Promise<{
  readonly url: string;
  readonly cluster: Cluster | undefined;
}> {
  const own = process.env['DATABASE_URL'];
  if (own) return { url: own, cluster: undefined };
  const cluster = isSupervised ? await waitForCluster() : await startCluster({ directory: join(DATA, 'cluster') });
  await createDatabase(cluster, DATABASE);
  return { url: cluster.url(DATABASE), cluster };
}

const SUPERVISED_MS = 20_000;
const LOOKED_EVERY_MS = 2_000;

async function waitForCluster(): Promise<Cluster> {
  const directory = join(DATA, 'cluster');
  for (const until = Date.now() + SUPERVISED_MS; Date.now() < until;) {
    const cluster = await runningCluster(directory);
    if (cluster) return cluster;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  throw new ToldError('The running ./sieve start has no PostgreSQL that answers. What it says stands where it was started.');
}

/** Starts the cluster again whenever it is found to have ended. @returns stops looking */
export function superviseCluster(cluster: Cluster): () => Promise<void> {
  const directory = join(DATA, 'cluster');
  let isOver = false;
  const watching = (async () => {
    while (!isOver) {
      await new Promise((resolve) => setTimeout(resolve, LOOKED_EVERY_MS));
      if (isOver || (await runningCluster(directory))) continue;
      say('PostgreSQL has ended: it is started again');
      await startCluster({ directory, port: cluster.port }).catch(() => say('PostgreSQL could not be started; it is tried again'));
    }
  })();
  return async () => {
    isOver = true;
    await watching;
  };
}

export async function createDatabase(cluster: Cluster, name: string): Promise<void> {
  const admin = cluster.url('postgres');
  const found = await ask(admin, 'select 1 from pg_database where datname = $1', [name]);
  if (found.length === 0) await ask(admin, `create database "${name.replaceAll('"', '')}"`);
}

export interface RunningServer {
  readonly child: ChildProcess;
  readonly port: number;
  readonly url: string;
}

/** The secret by which this installation seals what must not be read off its database; made once, readable by its owner alone. */
function installationSecret(): string {
  if (!existsSync(SECRET_FILE)) {
    mkdirSync(DATA, { recursive: true });
    writeFileSync(SECRET_FILE, randomBytes(32).toString('base64url'), { mode: 0o600 });
  }
  return readFileSync(SECRET_FILE, 'utf8');
}

/** Starts the built server and waits until it answers. */
export function startServer(databaseUrl: string, port: number, env: NodeJS.ProcessEnv = {}): Promise<RunningServer> {
  mkdirSync(INCOMING, { recursive: true });
  return new Promise((resolve, reject) => {
    const child = fork(SERVER_MAIN, [], {
      // What translates the tools as they run would translate what is built already, and slow it down.
      execArgv: [],
      env: {
        SIEVE_SECRET: installationSecret(),
        SIEVE_INCOMING: INCOMING,
        SIEVE_SNAPSHOTS: SNAPSHOTS,
        ...process.env,
        ...env,
        DATABASE_URL: databaseUrl,
        PORT: String(port),
      },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      detached: true,
    });
    child.once('message', (message: { port: number }) => resolve({ child, port: message.port, url: `http://127.0.0.1:${message.port}` }));
    child.once('error', reject);
    child.once('exit', (status) => reject(new ToldError(`The server ended with ${status} before it answered. What it said stands above.`)));
  });
}

/** Asks the server to end what it is doing and waits for it. */
export function stopServer({ child }: RunningServer): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    const hard = setTimeout(() => child.kill('SIGKILL'), 15_000);
    child.once('exit', () => {
      clearTimeout(hard);
      resolve();
    });
    child.kill('SIGTERM');
  });
}

/** Runs a command inside the server's own code and reads its one line of answer. */
export async function serverCommand<Answer>(databaseUrl: string, ...args: readonly string[]): Promise<Answer> {
  const output = await must(process.execPath, [SERVER_COMMAND, ...args], { env: { ...process.env, DATABASE_URL: databaseUrl } });
  return JSON.parse(output.trim().split('\n').at(-1) ?? 'null') as Answer;
}
