import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const ROOT = join(__dirname, '../..');

/** Runs `./sieve` as a person would, on a data directory of its own. */
function sieve(directory: string, ...args: readonly string[]): { status: number | null; said: string } {
  const { status, stdout, stderr } = spawnSync(join(ROOT, 'sieve'), [...args], {
    encoding: 'utf8',
    env: { ...process.env, SIEVE_DATA_DIR: directory },
    input: '',
  });
  return { status, said: stdout + stderr };
}

describe('./sieve', () => {
  let directory: string;
  beforeAll(() => {
    directory = mkdtempSync(join(tmpdir(), 'sieve-'));
  });
  afterAll(() => rmSync(directory, { recursive: true, force: true }));

  it('says what it can do', () => {
    for (const args of [[], ['help'], ['--help']]) {
      const { status, said } = sieve(directory, ...args);
      expect(status).toBe(0);
      for (const command of ['start', 'stop', 'test', 'reset', 'verify', 'export', 'import', 'key create', 'bench'])
        expect(said).toContain(`./sieve ${command}`);
    }
  }, 180_000);

  it.each([
    [['begin'], 'There is no command “begin”'],
    [['start', '--prot', '80'], "Unknown option '--prot'"],
    [['start', '--port', 'http'], '--port takes a whole number from 1 to 65535, not “http”'],
    [['start', '--port', '70000'], '--port takes a whole number'],
    [['start', '--size', '0'], '--size takes a whole number from 1 to 1000000'],
    [['start', 'now'], '“now” is too much'],
    [['stop', '--hard'], "Unknown option '--hard'"],
    [['key', 'make'], 'Usage: ./sieve key create --name N --scopes'],
    [['key', 'create', '--name', 'x'], 'Usage: ./sieve key create --name N --scopes'],
    [
      ['test', 'everything'],
      'There is no part “everything”. The parts are checks, unit, server, browser, changed, matrix, fuzz, kills, upgrades.',
    ],
    [['export'], 'Usage: ./sieve export FILE'],
    [['import'], 'Usage: ./sieve import FILE'],
    [['import', 'nowhere.json'], 'There is no file nowhere.json.'],
    [['bench', '--soak', 'long'], '--soak takes a whole number from 1'],
    [['bench', '--signals', 'many'], '--signals takes a whole number'],
    [['constructor'], 'There is no command “constructor”'],
  ])(
    'answers %j with what is wrong, and does nothing',
    (args, words) => {
      const { status, said } = sieve(directory, ...args);
      expect(said).toContain(words);
      expect(said).not.toContain('    at ');
      expect(status).toBe(1);
    },
    30_000,
  );

  it('does not throw data away unasked', () => {
    const { status, said } = sieve(directory, 'reset');
    expect(status).toBe(1);
    expect(said).toContain('Say so with --yes');
  }, 180_000);

  it('stops quietly where nothing runs', () => {
    expect(sieve(directory, 'stop')).toMatchObject({ status: 0, said: expect.stringContaining('nothing was running') as string });
  }, 180_000);
});
