import { chmodSync, existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Client } from 'pg';
import { postgresPrograms } from './packages';
import { must } from './run';
import { say, ToldError } from './say';

function program(name: 'pg_dump' | 'pg_restore'): string {
  const programs = postgresPrograms();
  if (!programs) throw new ToldError(`PostgreSQL's program ${name} is not to be found.`);
  return join(programs, name);
}

/** Others on the machine see the arguments of a program, and not what stands in its environment. */
function withoutPassword(databaseUrl: string): { readonly url: string; readonly env: NodeJS.ProcessEnv } {
  const url = new URL(databaseUrl);
  const env = { ...process.env, PGPASSWORD: decodeURIComponent(url.password) };
  url.password = '';
  return { url: url.href, env };
}

/** Writes everything down as of one moment, while all goes on. The file holds personal data: only its owner may read it. */
export async function writeBackup(databaseUrl: string, file: string): Promise<void> {
  const path = resolve(file);
  if (existsSync(path)) throw new ToldError(`${file} is there already. Give it another name, or take it away first.`);
  const { url, env } = withoutPassword(databaseUrl);
  await must(program('pg_dump'), ['--format=custom', '--no-owner', '--no-privileges', `--file=${path}`, url], { env });
  chmodSync(path, 0o600);
  say(`everything is in ${file}`);
}

/** Puts what a backup holds in the place of everything. Nothing is lost if the file cannot be read: it goes into a database beside, first. */
export async function readBackup(databaseUrl: string, file: string): Promise<void> {
  const path = resolve(file);
  if (!existsSync(path)) throw new ToldError(`There is no file ${file}.`);
  const url = new URL(databaseUrl);
  const name = url.pathname.slice(1);
  const beside = `${name}_restored`;
  const client = new Client({ connectionString: Object.assign(new URL(databaseUrl), { pathname: '/postgres' }).href });
  await client.connect();
  const quoted = (each: string): string => `"${each.replaceAll('"', '')}"`;
  try {
    await client.query(`drop database if exists ${quoted(beside)} with (force)`);
    await client.query(`create database ${quoted(beside)}`);
    const { url: target, env } = withoutPassword(Object.assign(new URL(databaseUrl), { pathname: `/${beside}` }).href);
    await must(program('pg_restore'), ['--no-owner', '--no-privileges', '--exit-on-error', `--dbname=${target}`, path], { env }).catch(
      () => {
        throw new ToldError(`${file} is not a backup, or it is not whole. Nothing was changed.`);
      },
    );
    await client.query(`drop database if exists ${quoted(name)} with (force)`);
    await client.query(`alter database ${quoted(beside)} rename to ${quoted(name)}`);
  } finally {
    await client.query(`drop database if exists ${quoted(beside)} with (force)`).catch(() => undefined);
    await client.end();
  }
}
