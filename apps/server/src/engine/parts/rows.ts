import { type PartKey, type PartValue, type StatePart, type SubjectState } from '@eager-sieve/core';
import { type Sql } from '../../database/database';
import { iso } from '../clock';
import { type WorkedSubject } from '../worked';

/** How a column is stored. An instant is ms since 1970 here and `timestamptz` there; what may be empty has a question mark. */
const SQL_TYPES = {
  int: 'int',
  bigint: 'bigint',
  smallint: 'smallint',
  text: 'text',
  boolean: 'boolean',
  json: 'jsonb',
  texts: 'text[]',
  instant: 'timestamptz',
} as const;
type Base = keyof typeof SQL_TYPES;
export type ColumnType = Base | `${Base}?`;
export type Columns = Readonly<Record<string, ColumnType>>;

interface Values {
  int: number;
  bigint: number;
  smallint: number;
  text: string;
  boolean: boolean;
  json: unknown;
  texts: readonly string[];
  instant: number;
}
type ValueOf<Type extends ColumnType> = Type extends `${infer B extends Base}?`
  ? Values[B] | null
  : Type extends Base
    ? Values[Type]
    : never;
/** A row with these columns. */
export type Row<Of extends Columns> = { readonly [Column in keyof Of]: ValueOf<Of[Column]> };

const sqlType = (type: ColumnType): string => SQL_TYPES[type.replace('?', '') as Base];
const listed = (columns: Columns): string =>
  Object.entries(columns)
    .map(([name, type]) => `${name} ${sqlType(type)}`)
    .join(', ');
/** An instant in ms, as JSON writes a `timestamptz`. */
export const instantOf = (text: string | null): number | null => (text === null ? null : Date.parse(text));
export const isInstant = (type: ColumnType | undefined): boolean => type?.startsWith('instant') ?? false;

/** What changed of one part over all subjects: what is there now, and what is gone. */
export function changes<Part extends StatePart>(worked: readonly WorkedSubject[], part: Part) {
  const put: { state: SubjectState; key: PartKey<Part>; value: PartValue<Part> }[] = [];
  const gone: { state: SubjectState; key: PartKey<Part> }[] = [];
  for (const { state } of worked) {
    const values = state.part(part);
    for (const key of state.changed[part] as ReadonlySet<PartKey<Part>>) {
      const value = values.get(key);
      if (value === undefined) gone.push({ state, key });
      else put.push({ state, key, value });
    }
  }
  return { put, gone };
}

/** One statement over rows, left out where there is none. */
export async function withRows(sql: Sql, text: string, rows: readonly object[]): Promise<void> {
  if (rows.length > 0) await sql.query(text, [JSON.stringify(rows)]);
}

interface Target {
  readonly table: string;
  readonly key: Columns;
}

/** Rows that replace those with the same key. With an effect, its id is kept; where none is known, the one that is there stays. */
export async function upsert(
  sql: Sql,
  { table, key, columns, withEffect }: Target & { readonly columns: Columns; readonly withEffect: boolean },
  rows: readonly Readonly<Record<string, unknown>>[],
): Promise<void> {
  if (rows.length === 0) return;
  const all: Columns = { ...key, ...columns, ...(withEffect ? { ledger_id: 'bigint' } : {}) };
  const names = Object.keys(all).join(', ');
  const sets = Object.keys(columns).map((column) => `${column} = excluded.${column}`);
  if (withEffect) sets.push(`ledger_id = coalesce(excluded.ledger_id, ${table}.ledger_id)`);
  await withRows(
    sql,
    `insert into ${table} (${names}) select ${names} from jsonb_to_recordset($1::jsonb) as r(${listed(all)})
     on conflict (${Object.keys(key).join(', ')}) do ${sets.length > 0 ? `update set ${sets.join(', ')}` : 'nothing'}`,
    rows.map((row) => asStored(row, all)),
  );
}

function asStored(row: Readonly<Record<string, unknown>>, columns: Columns): object {
  const stored: Record<string, unknown> = { ...row };
  for (const column of Object.keys(row)) {
    if (!isInstant(columns[column])) continue;
    const instant = row[column] as number | null;
    stored[column] = instant === null ? null : iso(instant);
  }
  return stored;
}

/** Takes away the rows of these subjects with these keys. */
export async function deleteKeys(
  sql: Sql,
  { table, subject, key }: Target & { readonly subject: string },
  rows: readonly object[],
): Promise<void> {
  const all: Columns = { [subject]: 'bigint', ...key };
  await withRows(
    sql,
    `delete from ${table} t using jsonb_to_recordset($1::jsonb) as r(${listed(all)})
      where ${Object.keys(all)
        .map((column) => `t.${column} = r.${column}`)
        .join(' and ')}`,
    rows,
  );
}
