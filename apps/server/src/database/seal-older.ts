import { type Sql } from './database';
import { MARK, sealing } from './sealed';

/** Where secrets stand that are sealed. */
const SEALED_COLUMNS = [
  ['person', 'second_factor'],
  ['person', 'second_factor_pending'],
  ['hook', 'secret'],
] as const;

/** Seals what was kept before the installation had a secret; where it has none, nothing. */
export async function sealOlder(sql: Sql, secret: string | undefined): Promise<void> {
  const { to } = sealing(secret);
  if (!secret) return;
  for (const [table, column] of SEALED_COLUMNS) {
    const older = await sql.query<{ id: number; kept: string }>(
      `select id, ${column} as kept from ${table} where ${column} is not null and not starts_with(${column}, $1)`,
      [MARK],
    );
    // Another server may have sealed it meanwhile.
    for (const { id, kept } of older)
      await sql.query(`update ${table} set ${column} = $2 where id = $1 and ${column} = $3`, [id, to(kept), kept]);
  }
}
