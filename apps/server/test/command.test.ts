import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { type DefinitionsDocument } from '@eager-sieve/core';
import { testDatabase, type TestDatabase } from './harness';
import { SET_UP } from './world';

interface Ran {
  readonly status: number;
  readonly answer: unknown;
  readonly said: string;
}

/** The built command, in a process of its own, as `./sieve` runs it. */
async function run(url: string, ...args: readonly string[]): Promise<Ran> {
  const env = { ...process.env, DATABASE_URL: url };
  try {
    const { stdout, stderr } = await promisify(execFile)(process.execPath, [join(__dirname, '../dist/command.js'), ...args], { env });
    return { status: 0, answer: JSON.parse(stdout), said: stderr };
  } catch (error) {
    const failed = error as { code: number; stderr: string };
    return { status: failed.code, answer: undefined, said: failed.stderr };
  }
}

describe('the commands inside the server', () => {
  let test: TestDatabase;
  let folder: string;
  const sieve = (...args: readonly string[]): Promise<Ran> => run(test.url, ...args);
  const write = (name: string, document: unknown): string => {
    const path = join(folder, name);
    writeFileSync(path, typeof document === 'string' ? document : JSON.stringify(document));
    return path;
  };

  beforeAll(async () => {
    test = await testDatabase();
    folder = mkdtempSync(join(tmpdir(), 'sieve-command-'));
  });
  afterAll(async () => {
    rmSync(folder, { recursive: true });
    await test.drop();
  });

  it('say who has access, and open the door to the first person until somebody has come in', async () => {
    expect(await sieve('people')).toMatchObject({ status: 0, answer: { people: [] } });
    expect((await sieve('first')).answer).toMatchObject({ token: expect.any(String) });
    expect((await sieve('person', 'ada@test.example', 'Ada', 'admin', 'a long enough password')).answer).toMatchObject({
      id: expect.any(Number),
    });
    const people = expect.arrayContaining(['ada@test.example']);
    expect((await sieve('people')).answer).toEqual({ people });
    expect((await sieve('first')).answer).toEqual({ token: null, people });
    const wanted = { people: [], key: { name: 'demo', scopes: ['contacts:read'] }, onlyIfEmpty: true };
    expect((await sieve('furnish', JSON.stringify(wanted))).answer).toEqual({ key: null });
    // The same person again is no second one.
    expect((await sieve('person', 'ada@test.example', 'Ada', 'admin', 'a long enough password')).answer).toEqual({ id: null });
    expect((await sieve('person', 'bo@test.example', 'Bo', 'king', 'a long enough password')).status).not.toBe(0);
  });

  it('make keys, which are kept only as hashes, and name the scopes where one is none', async () => {
    const { answer } = await sieve('key', 'till', 'signals:write,contacts:read');
    const { key } = answer as { key: string };
    const [row] = await test.database.query<{ kept: string; scopes: string[] }>('select k::text as kept, scopes from api_key k');
    expect(row?.scopes).toEqual(['signals:write', 'contacts:read']);
    expect(row?.kept).not.toContain(key.slice(-20));
    const wrong = await sieve('key', 'till', 'everything');
    expect(wrong.status).not.toBe(0);
    expect(wrong.said).toContain('Scopes are signals:write');
    expect((await sieve('key', 'till', '')).status).not.toBe(0);
  });

  it('take definitions in and give them back the same, and another time change nothing', async () => {
    const taken = await sieve('import', write('set-up.json', SET_UP));
    expect(taken).toMatchObject({ status: 0, answer: { refused: [] } });
    const out = (await sieve('export')).answer as DefinitionsDocument;
    expect(out.tags?.map((tag) => tag.key)).toEqual(['snag.price', 'snag.keen']);
    const again = (await sieve('import', write('again.json', out))).answer as { made: unknown[]; changed: unknown[] };
    expect([again.made, again.changed]).toEqual([[], []]);
    expect((await sieve('export')).answer).toEqual(out);
  });

  it('refuse definitions that are none, or that rest on what is not there, and change nothing', async () => {
    const before = (await sieve('export')).answer;
    expect((await sieve('import', write('no.json', 'no JSON at all'))).status).not.toBe(0);
    expect((await sieve('import', join(folder, 'not-there.json'))).status).not.toBe(0);
    const resting = { audiences: [{ key: 'x', name: 'X', kind: 'live', condition: { kind: 'tag', tag: 'no.tag', op: 'has' } }] };
    const refused = await sieve('import', write('resting.json', resting));
    expect(refused.answer).toMatchObject({ refused: [{ item: expect.stringContaining('x'), faults: [expect.anything()] }] });
    expect((await sieve('export')).answer).toEqual(before);
  });

  it('verify a database, also one in which nothing has happened', async () => {
    expect((await sieve('verify')).answer).toMatchObject({ contacts: 0, differences: 0 });
  });

  it('say what is wrong with a command that is none, and without a database', async () => {
    expect(await sieve('dance')).toMatchObject({ status: 1, said: expect.stringContaining('There is no command dance.') });
    expect(await run('', 'verify')).toMatchObject({ status: 1, said: expect.stringContaining('DATABASE_URL is not set.') });
  });
});
