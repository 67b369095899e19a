import { type Sql } from '../database/database';

/** A question about some subjects that is asked in one statement with others. */
export interface Reading {
  /** a query of one row with one JSON text, or none */
  readonly text: string;
  /** the values of `$1`, `$2`, …; where two readings have the same array, it is sent once */
  readonly values: readonly unknown[];
  readonly take: (answer: unknown) => void;
}

/** A reading of rows. They come column by column, so that a name is not sent again with each of them, and instants come as texts. */
export function readingOf<Row>(
  columns: readonly (keyof Row & string)[],
  text: string,
  values: readonly unknown[],
  take: (row: Row) => void,
): Reading {
  return {
    text: `select json_build_array(${columns.map((column) => `json_agg(r.${column})`).join(', ')})::text from (${text}) r`,
    values,
    take: (answer) => {
      const read = answer as readonly (readonly unknown[] | null)[];
      const count = read[0]?.length ?? 0;
      for (let at = 0; at < count; at += 1) {
        const row: Record<string, unknown> = {};
        for (let column = 0; column < columns.length; column += 1) row[columns[column] as string] = read[column]?.[at];
        take(row as Row);
      }
    },
  };
}

/**
 * Asks all of them in one statement, and takes the answers in their order.
 *
 * The whole state of 30 contacts in a statement for each table, prepared, took a third longer in all and 1.6 times as much of this process.
 */
export async function readTogether(sql: Sql, readings: readonly Reading[]): Promise<void> {
  if (readings.length === 0) return;
  const values: unknown[] = [];
  const placeOf = (value: unknown): number => {
    const known = typeof value === 'object' && value !== null ? values.indexOf(value) : -1;
    return known === -1 ? values.push(value) : known + 1;
  };
  const asked = readings.map((reading, index) => {
    const places = reading.values.map(placeOf);
    return `(${reading.text.replace(/\$(\d+)/g, (_, nth: string) => `$${places[Number(nth) - 1]}`)}) as r${index}`;
  });
  const [row = {}] = await sql.query<Record<string, string | null>>(`select ${asked.join(',\n')}`, values);
  for (const [index, reading] of readings.entries()) {
    const text = row[`r${index}`];
    if (text) reading.take(JSON.parse(text));
  }
}
