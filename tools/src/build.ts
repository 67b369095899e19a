import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { must } from './run';
import { DATA, ROOT, SERVER_MAIN } from './places';
import { say } from './say';

const SOURCES = [
  'packages/core/src',
  'packages/contracts/src',
  'apps/server/src',
  'apps/web/src',
  'apps/web/public',
  'apps/web/index.html',
  'apps/web/vite.config.ts',
  'package-lock.json',
  'tsconfig.base.json',
];

/** Builds the libraries, the server and the interface, unless nothing has changed since. */
export async function build(): Promise<void> {
  const stamp = join(DATA, 'built-from');
  const now = fingerprint();
  if (
    existsSync(SERVER_MAIN) &&
    existsSync(join(ROOT, 'apps/web/dist/index.html')) &&
    existsSync(stamp) &&
    readFileSync(stamp, 'utf8') === now
  )
    return;
  say('building');
  await must('npx', ['tsc', '-b', 'packages/core', 'packages/contracts', 'apps/server'], { cwd: ROOT });
  await must('npm', ['run', 'build', '-w', '@eager-sieve/web'], { cwd: ROOT });
  mkdirSync(DATA, { recursive: true });
  writeFileSync(stamp, now);
}

/** Names, sizes and times of all sources: what a build depends on. */
function fingerprint(): string {
  const hash = createHash('sha256');
  const add = (path: string): void => {
    if (!existsSync(path)) return;
    const stats = statSync(path);
    if (stats.isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else hash.update(`${path} ${stats.size} ${stats.mtimeMs}\n`);
  };
  for (const source of SOURCES) add(join(ROOT, source));
  return hash.digest('hex');
}
