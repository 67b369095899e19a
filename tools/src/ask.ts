import { Client } from 'pg';

/** Asks a database once, over a connection of its own. */
export async function ask<Row>(databaseUrl: string, text: string, values: readonly unknown[] = []): Promise<Row[]> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    return (await client.query(text, [...values])).rows as Row[];
  } finally {
    await client.end();
  }
}
