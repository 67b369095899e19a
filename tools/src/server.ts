import { fork, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { Client } from 'pg';
import { startCluster, type Cluster } from './cluster';
import { must } from './run';
import { DATA, SERVER_COMMAND, SERVER_MAIN } from './places';
import { ToldError } from './say';

export const DATABASE = 'sieve';

/** The database to work with: one of the person's own, or one in the project's own cluster. */
export async function openDatabase(): Promise<{ readonly url: string; readonly cluster: Cluster | undefined }> {
  const own = process.env['DATABASE_URL'];
  if (own) return { url: own, cluster: undefined };
  const cluster = await startCluster({ directory: join(DATA, 'cluster') });
  await createDatabase(cluster, DATABASE);
  return { url: cluster.url(DATABASE), cluster };
}

export async function createDatabase(cluster: Cluster, name: string): Promise<void> {
  const client = new Client({ connectionString: cluster.url('postgres') });
  await client.connect();
  try {
    const { rowCount } = await client.query('select 1 from pg_database where datname = $1', [name]);
    if (rowCount === 0) await client.query(`create database "${name.replaceAll('"', '')}"`);
  } finally {
    await client.end();
  }
}

export interface RunningServer {
  readonly child: ChildProcess;
  readonly port: number;
  readonly url: string;
}

/** Starts the built server and waits until it answers. */
export function startServer(databaseUrl: string, port: number, env: NodeJS.ProcessEnv = {}): Promise<RunningServer> {
  return new Promise((resolve, reject) => {
    const child = fork(SERVER_MAIN, [], {
      env: { ...process.env, ...env, DATABASE_URL: databaseUrl, PORT: String(port) },
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
