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

/** Values that more than one have. */
export function sharedValues({ body }: Definition<'field'>, values: readonly HeldValue[]): readonly { value: string; people: number }[] {
  const alike = new Map<string, { value: string; people: number }>();
  for (const { fact, shown, people } of values) {
    const known = alike.get(String(fact));
    if (known) known.people += people;
    else alike.set(String(fact), { value: showFact(body, fact, shown), people });
  }
  return [...alike.values()].filter(({ people }) => people > 1).sort((a, b) => b.people - a.people);
}
