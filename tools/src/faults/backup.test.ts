import { mkdtempSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ask } from '../ask';
import { readBackup, writeBackup } from '../backup';
import { serverCommand } from '../server';

describe('a backup', () => {
  const name = `backup_${randomBytes(6).toString('hex')}`;
  const admin = process.env['TEST_DATABASE_URL'] ?? '';
  const url = Object.assign(new URL(admin), { pathname: `/${name}` }).href;
  const directory = mkdtempSync(join(tmpdir(), 'sieve-backup-'));
  const file = join(directory, 'all.backup');
  const people = async (): Promise<string[]> =>
    (await ask<{ email: string }>(url, 'select email from person order by email')).map(({ email }) => email);
  const add = (email: string) => serverCommand(url, 'person', email, email, 'viewer', 'a long enough password');

  beforeAll(async () => {
    await ask(admin, `create database ${name}`);
    await add('before@test.example');
    await writeBackup(url, file);
    await add('after@test.example');
  }, 120_000);
  afterAll(async () => {
    await ask(admin, `drop database if exists ${name} with (force)`);
    rmSync(directory, { recursive: true, force: true });
  });

  it('is for its owner alone, and written over nothing', async () => {
    expect(statSync(file).mode & 0o777).toBe(0o600);
    await expect(writeBackup(url, file)).rejects.toThrow('is there already');
  });

  it('that is none, or not whole, changes nothing', async () => {
    const none = join(directory, 'none.backup');
    writeFileSync(none, 'nothing of the kind');
    await expect(readBackup(url, none)).rejects.toThrow('Nothing was changed');
    const half = join(directory, 'half.backup');
    await writeBackup(url, half);
    truncateSync(half, Math.floor(statSync(half).size / 2));
    await expect(readBackup(url, half)).rejects.toThrow('Nothing was changed');
    expect(await people()).toEqual(['after@test.example', 'before@test.example']);
  });

  it('brings everything back as it was, and messages wait from then on', async () => {
    await readBackup(url, file);
    await serverCommand(url, 'pause');
    expect(await people()).toEqual(['before@test.example']);
    expect(await ask(url, 'select sends_paused from workspace')).toEqual([{ sends_paused: true }]);
    expect(await serverCommand<{ differences: number }>(url, 'verify')).toMatchObject({ differences: 0 });
    expect(await ask(admin, `select 1 from pg_database where datname = '${name}_restored'`)).toEqual([]);
  });
});
