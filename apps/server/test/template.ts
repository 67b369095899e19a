import { randomBytes } from 'node:crypto';
import { Client } from 'pg';
import { Database } from '../src/database/database';
import { prepareDatabase } from '../src/database/prepare';

/** A statement for the server as a whole, such as making a database. */
export async function admin(sql: string): Promise<void> {
  const client = new Client({ connectionString: process.env['TEST_DATABASE_URL'] });
  await client.connect();
  await client.query(sql);
  await client.end();
}

export function urlOf(name: string): string {
  const url = new URL(process.env['TEST_DATABASE_URL'] ?? '');
  url.pathname = `/${name}`;
  return url.href;
}

/** Before all tests: one database with all tables. The databases of the tests are copies of it, which takes a tenth of the time. */
export default async function makeTemplate(): Promise<void> {
  if (!process.env['TEST_DATABASE_URL']) throw new Error('TEST_DATABASE_URL is not set: run the server tests by `./sieve test server`.');
  const name = `template_${randomBytes(6).toString('hex')}`;
  await admin(`create database ${name}`);
  const database = await new Database(urlOf(name)).open();
  await prepareDatabase(database);
  await database.close();
  process.env['TEST_TEMPLATE'] = name;
}
