import { Client } from 'pg';
import { callsByKey, idle } from '../calls';
import { say } from '../say';

const LOOKED_AT_MS = 100;
/** What an import writes of a contact. */
const TABLES = ['contact', 'contact_fact', 'contact_change', 'ledger', 'ledger_value', 'membership'] as const;

interface ImportsOptions {
  readonly address: string;
  readonly databaseUrl: string;
  readonly key: string;
  readonly contacts: number;
}

/** A file of contacts with one live audience on: contacts a second until all are worked, beside the same rows copied inside the database, under the same indexes. */
export async function imports({ address, databaseUrl, key, contacts }: ImportsOptions): Promise<void> {
  const call = callsByKey(address, key);
  const condition = { kind: 'field', field: 'town', op: 'is', value: 'Hollin' };
  await call('PUT', '/api/v1/definitions', {
    fields: [{ key: 'town', name: 'Town', of: 'contact', type: 'text' }],
    audiences: [{ key: 'hollin', name: 'In Hollin', kind: 'live', condition }],
  });
  const options = {
    mapping: { email: 'mail', 'field:given-name': 'first', 'field:family-name': 'last', 'field:town': 'town', 'field:phone': 'phone' },
  };
  const begin = performance.now();
  await call('POST', `/api/app/imports?options=${encodeURIComponent(JSON.stringify(options))}`, file(contacts), 'text/csv');
  await idle(call, LOOKED_AT_MS);
  const seconds = (performance.now() - begin) / 1_000;
  const bare = await copied(databaseUrl);
  say(
    `${contacts} contacts from a file, worked with one live audience on: ${Math.round(contacts / seconds)} contacts/s (wanted: 10,000); ` +
      `${(bare.rows / contacts).toFixed(1)} rows a contact, which the database alone copies as ${Math.round(contacts / bare.seconds)} contacts/s`,
  );
}

function file(contacts: number): string {
  const rows = ['mail,first,last,town,phone'];
  for (let n = 0; n < contacts; n += 1)
    rows.push(`file${n}@bench.example,Person,Number ${n},${n % 2 === 0 ? 'Hollin' : 'Saltwick'},+46 70 ${1_000_000 + n}`);
  return `${rows.join('\n')}\n`;
}

/** The same rows from table to table, in one statement each: as fast as they can be written here, by one connection and with nothing to read, check or send. */
async function copied(databaseUrl: string): Promise<{ readonly rows: number; readonly seconds: number }> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  let rows = 0;
  let ms = 0;
  for (const table of TABLES) {
    await client.query(`create table bare_${table} (like ${table} including defaults including indexes)`);
    const begin = performance.now();
    rows += (await client.query(`insert into bare_${table} select * from ${table}`)).rowCount ?? 0;
    ms += performance.now() - begin;
    await client.query(`drop table bare_${table}`);
  }
  await client.end();
  return { rows, seconds: ms / 1_000 };
}
