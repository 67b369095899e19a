import { randomBytes } from 'node:crypto';
import { builtInFields, builtInSignalTypes, LANGUAGE } from '@eager-sieve/core';
import { DatabaseClock, iso } from '../engine/clock';
import { type Database, type Sql } from './database';
import { freeKeysInUse, type GivenAnotherKey } from './keys-in-use';
import { sealOlder } from './seal-older';
import { makeSignalYears } from './signal-years';

const NEW_WORKSPACE = { name: 'A new workspace', timeZone: 'Europe/Stockholm', currency: 'SEK' };

/**
 * Runs the migrations and inserts what every workspace has. Idempotent.
 *
 * @returns the fields that were given other keys, since the product brought ones of its own under theirs
 */
export async function prepareDatabase(database: Database): Promise<readonly GivenAnotherKey[]> {
  await database.migrate();
  await sealOlder(database, process.env['SIEVE_SECRET']);
  const clock = new DatabaseClock();
  await clock.set(database);
  await makeSignalYears(database, clock.now());
  return database.withExclusiveEpochLock(async (sql) => {
    const now = iso(clock.now());
    await sql.query(
      `insert into workspace (id, name, time_zone, currency, secret, made_at) values (1, $1, $2, $3, $4, $5) on conflict do nothing`,
      [NEW_WORKSPACE.name, NEW_WORKSPACE.timeZone, NEW_WORKSPACE.currency, randomBytes(32).toString('base64url'), now],
    );
    const renamed = await freeKeysInUse(sql, clock.now());
    const added = (await addBuiltIn(sql, 'field', builtInFields, now)) + (await addBuiltIn(sql, 'signalType', builtInSignalTypes, now));
    if (added > 0) await sql.query('update workspace set epoch = epoch + 1 where id = 1');
    return renamed;
  });
}

async function addBuiltIn(
  sql: Sql,
  kind: string,
  things: readonly { key: string; name: string; body: unknown }[],
  now: string,
): Promise<number> {
  const rows = await sql.query<{ id: number }>(
    `insert into definition (kind, key, name, language, body, made_at, changed_at)
     select $1, r.key, r.name, $4::int, r.body, $3, $3 from rows from (jsonb_to_recordset($2::jsonb) as (key text, name text, body jsonb)) with ordinality as r(key, name, body, ordinality)
      where not exists (select from definition d where d.kind = $1 and d.key = r.key) order by r.ordinality returning id`,
    [kind, JSON.stringify(things), now, LANGUAGE],
  );
  return rows.length;
}
