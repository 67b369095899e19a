import { type Database, type Sql } from './database';

/**
 * Signals lie in a table for each year, so that a statement that asks for a time looks into few of them. Makes those that are missing from the
 * last year to the next; what is older than the oldest, or later than expected, lies in `signal_other`. Signals that came there before their year
 * had a table move into it.
 *
 * @param now in milliseconds
 * @returns the years that were made
 */
export async function makeSignalYears(database: Database, now: number): Promise<readonly number[]> {
  const missing = await missingYears(database, now);
  if (missing.length === 0) return [];
  return database.withExclusiveEpochLock(async (sql) => {
    // Another process may have made them since.
    const years = await missingYears(sql, now);
    for (const year of years) await makeYear(sql, year);
    return years;
  });
}

async function missingYears(sql: Sql, now: number): Promise<number[]> {
  const year = new Date(now).getUTCFullYear();
  const rows = await sql.query<{ year: number }>(
    // Not by `to_regclass`, which can remember that there was none.
    `select y.year from unnest($1::int[]) as y(year)
      where not exists (select from pg_class c join pg_inherits i on i.inhrelid = c.oid
                         where i.inhparent = 'signal'::regclass and c.relname = 'signal_' || y.year)
      order by y.year`,
    [[year - 1, year, year + 1]],
  );
  return rows.map((row) => row.year);
}

async function makeYear(sql: Sql, year: number): Promise<void> {
  const table = `signal_${year}`;
  const [from, to] = [`${year}-01-01T00:00:00Z`, `${year + 1}-01-01T00:00:00Z`];
  await sql.query(`create table ${table} (like signal including all)`);
  await sql.query(
    `with moved as (delete from signal_other where time >= '${from}' and time < '${to}' returning *) insert into ${table} select * from moved`,
  );
  await sql.query(`alter table signal attach partition ${table} for values from ('${from}') to ('${to}')`);
}
