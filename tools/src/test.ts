import { existsSync, readdirSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { build } from './build';
import { startCluster } from './cluster';
import { chromium, installDebian } from './packages';
import { DATA, ROOT } from './places';
import { must, show } from './run';
import { say, ToldError } from './say';

/** Parts of the whole run, what a change touches, and tests of their own that can be asked for longer. */
export const TEST_PARTS = ['checks', 'unit', 'server', 'browser', 'changed', 'matrix', 'fuzz', 'kills', 'upgrades'] as const;
type Part = (typeof TEST_PARTS)[number];

/** Tests of the server that are small in the whole run and long by hand, and how often they go round then. */
const LONG = {
  matrix: { files: ['apps/server/test/matrix', 'apps/server/test/access'], runs: 1, env: () => ({}) },
  fuzz: {
    files: ['apps/server/test/fuzz'],
    runs: 20_000,
    env: (runs: number, seed: number) => ({ FUZZ_RUNS: String(runs), FUZZ_SEED: String(seed) }),
  },
  upgrades: { files: ['tools/src/faults/upgrade'], runs: 1, env: () => ({ SIEVE_UPGRADES: 'all' }) },
  kills: {
    files: ['tools/src/faults/kills'],
    runs: 1_000,
    env: (runs: number, seed: number) => ({ SIEVE_KILLS: String(runs), SIEVE_SEED: String(seed) }),
  },
} as const;

export interface LongOptions {
  readonly runs?: number | undefined;
  readonly seed?: number | undefined;
}

/** Runs every check and test, or one part of them. */
export async function test(part: string | undefined, { runs, seed = Math.floor(Date.now() / 1_000) }: LongOptions = {}): Promise<void> {
  if (part !== undefined && !(TEST_PARTS as readonly string[]).includes(part))
    throw new ToldError(`There is no part “${part}”. The parts are ${TEST_PARTS.join(', ')}.`);
  const wanted = (each: Part): boolean => part === undefined || part === each;
  if (part === 'changed') return changed();
  const long = Object.entries(LONG).find(([name]) => name === part)?.[1];
  if (long && part) {
    return longRun(part, long.files, { ...process.env, ...long.env(runs ?? long.runs, seed) }, seed);
  }
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

async function longRun(part: string, files: readonly string[], env: NodeJS.ProcessEnv, seed: number): Promise<void> {
  await build();
  const cluster = await startCluster({ directory: join(DATA, 'test-cluster'), throwaway: true });
  try {
    say(`${part}, seed ${seed}`);
    await jest('server', { ...env, TEST_DATABASE_URL: cluster.url('postgres') }, ['--testTimeout=86400000', ...files]);
  } finally {
    await cluster.stop();
  }
  say('all passed');
}

/** In laws that are only looked at in passing, so many draws. */
const FEW_RUNS = '100';

/**
 * Tests what a change touches, in a minute or two: what is not committed yet, or else the last commit. Of the core and the tools these are
 * the tests that rest on a changed file; of the server and the interface, since nearly all of them rest on the core, those of the rooms
 * that were changed. The browser is left out: the whole run is the one that counts.
 */
async function changed(): Promise<void> {
  const files = await changedFiles();
  if (files.length === 0) return say('nothing has changed');
  const code = files.filter((file) => /\.tsx?$/.test(file));
  say(`${files.length === 1 ? '1 file' : `${files.length} files`}: format, lint and types`);
  const lint = async (): Promise<void> => {
    await show('npx', ['prettier', '--check', '--ignore-unknown', '--log-level', 'warn', ...files], { cwd: ROOT });
    if (code.length > 0) await show('npx', ['eslint', '--max-warnings', '0', '--no-warn-ignored', ...code], { cwd: ROOT });
  };
  await Promise.all([lint(), show('npm', ['run', '--silent', 'types'], { cwd: ROOT })]);
  const env = { PROPERTY_RUNS: FEW_RUNS, ...process.env };
  const inUnits = code.filter((file) => !/^(apps|e2e)\//.test(file));
  if (inUnits.length > 0)
    await jest('unit', env, ['--passWithNoTests', '--selectProjects', 'core', 'tools', '--findRelatedTests', ...inUnits]);
  const pages = webTestsOf(code);
  if (pages.length > 0) await jest('unit', env, ['--selectProjects', 'web', '--testPathPatterns', ...pages]);
  const tests = serverTestsOf(code);
  if (tests.length > 0) {
    const cluster = await startCluster({ directory: join(DATA, 'test-cluster'), throwaway: true });
    try {
      await jest('server', { ...env, TEST_DATABASE_URL: cluster.url('postgres') }, tests);
    } finally {
      await cluster.stop();
    }
  }
  say('what the change touches has passed; ./sieve test runs everything');
}

/** Files that stand and are not committed as they are; where there are none, those of the last commit. */
async function changedFiles(): Promise<readonly string[]> {
  const list = async (...args: readonly string[]): Promise<readonly string[]> =>
    (await must('git', args, { cwd: ROOT })).split('\n').filter((file) => file !== '' && existsSync(join(ROOT, file)));
  const open = [...(await list('diff', '--name-only', 'HEAD')), ...(await list('ls-files', '--others', '--exclude-standard'))];
  return open.length > 0 ? open : list('diff', '--name-only', 'HEAD~1', 'HEAD');
}

/** The rooms in which files were changed, such as `conditions`. */
const roomsOf = (code: readonly string[]): ReadonlySet<string> =>
  new Set(code.flatMap((file) => /^(?:apps|packages)\/\w+\/src\/([a-z]+)\//.exec(file)?.[1] ?? []));

/** Tests of the server that were changed themselves, and those that are called after a room that was. */
function serverTestsOf(code: readonly string[]): readonly string[] {
  const rooms = [...roomsOf(code.filter((file) => !file.startsWith('apps/web/')))];
  return readdirSync(join(ROOT, 'apps/server/test'))
    .filter((name) => name.endsWith('.test.ts'))
    .map((name) => `apps/server/test/${name}`)
    .filter((file) => code.includes(file) || rooms.some((room) => file.includes(`/${room.replace(/s$/, '')}`)));
}

/** Tests of pages in the rooms that were changed, here or in the core. */
function webTestsOf(code: readonly string[]): readonly string[] {
  const rooms = roomsOf(code.filter((file) => !file.startsWith('apps/server/')));
  return [...rooms]
    .map((room) => `apps/web/src/${room}`)
    .filter((room) => existsSync(join(ROOT, room)) && readdirSync(join(ROOT, room)).some((name) => /\.test\.tsx?$/.test(name)));
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

/** Each server that a test starts holds up to a dozen connections of the database's 120. */
const MOST_WORKERS = 4;

/** One worker a core: left to itself, Jest keeps a core free, and of two that is half. */
async function jest(project: 'unit' | 'server', env: NodeJS.ProcessEnv = process.env, more: readonly string[] = []): Promise<void> {
  say(`${project} tests`);
  const workers = Math.min(availableParallelism(), MOST_WORKERS);
  await show('npx', ['jest', '--config', `jest.${project}.config.cjs`, `--maxWorkers=${workers}`, ...more], { cwd: ROOT, env });
}

async function browser(env: NodeJS.ProcessEnv): Promise<void> {
  if (!chromium()) await installDebian('chromium', 'Install Chromium (Debian: apt-get install chromium).');
  const path = chromium();
  if (!path) throw new ToldError('Chromium is not to be found.');
  say('browser tests');
  await show('npx', ['playwright', 'test'], { cwd: join(ROOT, 'e2e'), env: { ...env, CHROMIUM: path } });
}
