import { showFact, type Catalogue, type Definition, type Fact } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { factOf } from '../engine/parts/facts';

/** A value of a field, and how many have it. */
export interface HeldValue {
  readonly fact: Fact;
  readonly shown: string | undefined;
  readonly people: number;
}

interface Row {
  readonly folded: string | null;
  readonly number: number | null;
  readonly choices: readonly string[] | null;
  readonly shown: string | null;
  readonly people: number;
}

/** The values that a field has, each as it was written, those that most have first. */
export async function heldValues(sql: Sql, { id, body }: Definition<'field'>, catalogue: Catalogue): Promise<readonly HeldValue[]> {
  if (body.of === 'deal') {
    const rows = await sql.query<{ fact: Fact; people: number }>(
      'select facts -> $1::text as fact, count(*)::int as people from deal where facts ? $1::text group by 1 order by 2 desc',
      [String(id)],
    );
    return rows.map(({ fact, people }) => ({ fact, shown: undefined, people }));
  }
  const rows = await sql.query<Row>(
    `select folded, number, choices, shown, count(*)::int as people from contact_fact where field_id = $1 group by 1, 2, 3, 4 order by 5 desc`,
    [id],
  );
  return rows.flatMap((row) => {
    const fact = factOf(row, id, catalogue);
    return fact === undefined ? [] : [{ fact, shown: row.shown ?? undefined, people: row.people }];
  });
}

/** How many have each choice of a field. */
export function choicesHeld(values: readonly HeldValue[]): ReadonlyMap<string, number> {
  const held = new Map<string, number>();
  for (const { fact, people } of values)
    for (const key of typeof fact === 'number' ? [] : [fact].flat()) held.set(key, (held.get(key) ?? 0) + people);
  return held;
}

/** How many have a value of a field. */
export async function holders(sql: Sql, { id, body }: Definition<'field'>): Promise<number> {
  const [row] = await sql.query<{ n: number }>(
    body.of === 'deal'
      ? 'select count(*)::int as n from deal where facts ? $1::text'
      : 'select count(*)::int as n from contact_fact where field_id = $1::int',
    [String(id)],
  );
  return row?.n ?? 0;
}

/** Values that more than one have, those that most have first, and how many such values there are. */
export async function sharedValues(
  sql: Sql,
  { id, body }: Definition<'field'>,
  catalogue: Catalogue,
  limit: number,
): Promise<{ readonly all: number; readonly values: readonly { value: string; people: number }[] }> {
  const rows = await sql.query<Row & { all: number }>(
    `select folded, number, null as choices, min(shown) as shown, count(*)::int as people, (count(*) over ())::int as all
       from contact_fact where field_id = $1 group by 1, 2 having count(*) > 1 order by 5 desc, 1, 2 limit $2`,
    [id, limit],
  );
  const values = rows.flatMap((row) => {
    const fact = factOf(row, id, catalogue);
    return fact === undefined ? [] : [{ value: showFact(body, fact, row.shown ?? undefined), people: row.people }];
  });
  return { all: rows[0]?.all ?? 0, values };
}
