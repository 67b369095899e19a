import { type Sql } from '../database/database';

/** The sign-in emails of everyone with access, in lower case. */
export async function peopleWithAccess(sql: Sql): Promise<ReadonlySet<string>> {
  const rows = await sql.query<{ email: string }>('select lower(email) as email from person');
  return new Set(rows.map((row) => row.email));
}
