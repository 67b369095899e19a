import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { must, run } from './run';
import { say, ToldError } from './say';

/** The directory of PostgreSQL's server programs, the newest that is installed. */
export function postgresPrograms(): string | undefined {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
  const debian = versions.map((version) => join(base, version, 'bin'));
  return [...debian, ...(process.env['PATH'] ?? '').split(':')].find(
    (directory) => existsSync(join(directory, 'initdb')) && existsSync(join(directory, 'pg_ctl')),
  );
}

export const chromium = (): string | undefined => ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);

export const isRoot = (): boolean => process.getuid?.() === 0;

async function sudo(): Promise<string[] | undefined> {
  if (isRoot()) return [];
  return (await run('sudo', ['-n', 'true']).catch(() => ({ status: 1 }))).status === 0 ? ['sudo', '-n'] : undefined;
}

/** Installs a Debian package, or says what a person has to do instead. */
export async function installDebian(name: string, instead: string): Promise<void> {
  const prefix = await sudo();
  if (!existsSync('/usr/bin/apt-get') || !prefix) throw new ToldError(`${name} is missing and cannot be installed from here. ${instead}`);
  say(`installing ${name} from Debian's packages`);
  const apt = (...args: string[]): Promise<string> => {
    const [program = '', ...rest] = [...prefix, 'env', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...args];
    return must(program, rest);
  };
  await apt('update', '-qq');
  await apt('install', '-y', '-qq', '--no-install-recommends', name);
}
