import { join } from 'node:path';
import { build } from './build';
import { startCluster } from './cluster';
import { chromium, installDebian } from './packages';
import { DATA, ROOT } from './places';
import { show } from './run';
import { say, ToldError } from './say';

export const TEST_PARTS = ['checks', 'unit', 'server', 'browser'] as const;
type Part = (typeof TEST_PARTS)[number];

/** Runs every check and test, or one part of them. */
export async function test(part: string | undefined): Promise<void> {
  if (part !== undefined && !(TEST_PARTS as readonly string[]).includes(part))
    throw new ToldError(`There is no part “${part}”. The parts are ${TEST_PARTS.join(', ')}.`);
  const wanted = (each: Part): boolean => part === undefined || part === each;
  await build();
  if (wanted('checks')) await checks();
  if (wanted('unit')) await jest('unit');
  if (wanted('server') || wanted('browser')) {
    const cluster = await startCluster({ directory: join(DATA, 'test-cluster'), throwaway: true });
    try {
      const env = { ...process.env, TEST_DATABASE_URL: cluster.url('postgres') };
      if (wanted('server')) await jest('server', env);
      if (wanted('browser')) await browser(env);
    } finally {
      await cluster.stop();
    }
  }
  say('all passed');
}

/** Two at a time, each on one core: one after another they took a minute and a half. */
async function checks(): Promise<void> {
  const inTurn = async (scripts: readonly (readonly [script: string, words: string])[]): Promise<void> => {
    for (const [script, words] of scripts) {
      say(words);
      await show('npm', ['run', '--silent', script], { cwd: ROOT });
    }
  };
  await Promise.all([
    inTurn([
      ['format:check', 'format'],
      ['lint', 'lint'],
    ]),
    inTurn([
      ['types', 'types'],
      ['boundaries', 'boundaries'],
    ]),
  ]);
}

async function jest(project: 'unit' | 'server', env: NodeJS.ProcessEnv = process.env): Promise<void> {
  say(`${project} tests`);
  await show('npx', ['jest', '--config', `jest.${project}.config.cjs`, ...(project === 'server' ? ['--runInBand'] : [])], {
    cwd: ROOT,
    env,
  });
}

async function browser(env: NodeJS.ProcessEnv): Promise<void> {
  if (!chromium()) await installDebian('chromium', 'Install Chromium (Debian: apt-get install chromium).');
  const path = chromium();
  if (!path) throw new ToldError('Chromium is not to be found.');
  say('browser tests');
  await show('npx', ['playwright', 'test'], { cwd: join(ROOT, 'e2e'), env: { ...env, CHROMIUM: path } });
}
