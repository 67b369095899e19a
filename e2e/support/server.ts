import { randomBytes } from 'node:crypto';
import { fork, spawnSync, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { Client } from 'pg';

const SERVER = join(__dirname, '../../apps/server/dist');
export const PERSON = { email: 'wren@fernhollow.example', name: 'Wren Aldous', password: 'clay-and-water' };

/** Starts the built server on a new, empty database of the test cluster, with one person who may do everything, and a key. */
export default async function start(): Promise<() => Promise<void>> {
  const adminUrl = process.env['TEST_DATABASE_URL'];
  if (!adminUrl) throw new Error('TEST_DATABASE_URL is not set: run the browser tests by `./sieve test browser`.');
  const name = `browser_${randomBytes(6).toString('hex')}`;
  const admin = new Client({ connectionString: adminUrl });
  await admin.connect();
  await admin.query(`create database ${name}`);
  const url = new URL(adminUrl);
  url.pathname = `/${name}`;
  const env = { ...process.env, DATABASE_URL: url.href, PORT: '0', SIEVE_ANSWERS_A_MINUTE: '1000' };
  const command = (...args: readonly string[]): Record<string, unknown> => {
    const { stdout, stderr, status } = spawnSync(process.execPath, [join(SERVER, 'command.js'), ...args], { env, encoding: 'utf8' });
    if (status !== 0) throw new Error(stderr);
    return JSON.parse(stdout) as Record<string, unknown>;
  };
  command('person', PERSON.email, PERSON.name, 'admin', PERSON.password);
  const { key } = command(
    'key',
    'browser test',
    'signals:write,contacts:read,contacts:write,audiences:read,definitions:read,definitions:write',
  ) as { key: string };
  const { child, port } = await run(env);
  process.env['BASE_URL'] = `http://127.0.0.1:${port}`;
  process.env['API_KEY'] = key;
  process.env['BROWSER_DATABASE_URL'] = url.href;
  return async () => {
    child.kill('SIGTERM');
    await new Promise((resolve) => child.once('exit', resolve));
    await admin.query(`drop database ${name} with (force)`);
    await admin.end();
  };
}

function run(env: NodeJS.ProcessEnv): Promise<{ child: ChildProcess; port: number }> {
  return new Promise((resolve, reject) => {
    const child = fork(join(SERVER, 'main.js'), [], { env });
    child.once('message', (message: { port: number }) => resolve({ child, port: message.port }));
    child.once('exit', (status) => reject(new Error(`the server ended with ${status}`)));
  });
}
