import { type Catalogue, type PartKey, type PartValue, type StatePart, type SubjectState } from '@eager-sieve/core';
import { type Sql } from '../../database/database';
import { readingOf, type Reading } from '../readings';
import { type WorkedSubject } from '../worked';
import { type Latest } from '../write-ledger';
import { changes, deleteKeys, instantOf, isInstant, upsert, type Columns, type Row } from './rows';

export type States = ReadonlyMap<number, SubjectState>;
export type Worked = readonly WorkedSubject[];

/** A query for the subjects whose recorded state and last effect disagree, with the definition that it is about. */
export interface Check {
  readonly kind: string;
  readonly sql: string;
}

/** How one part of a subject's state is stored. */
export interface StoredPart {
  /** the tables that hold it, and the column by which they name the subject. Erasing a contact empties them of it */
  readonly tables: readonly { readonly name: string; readonly subject: string }[];
  /** companies have none of it */
  readonly onlyOfContacts?: boolean;
  /** what `verify` compares */
  readonly checks: readonly Check[];
  /** what reads it into the states of those that have none of it yet */
  readonly readings: (catalogue: Catalogue, states: States, ids: readonly number[]) => readonly Reading[];
  /** writes what changed since it was last written, in a few statements for any number of subjects */
  readonly write: (sql: Sql, catalogue: Catalogue, worked: Worked, latest: Latest) => Promise<void>;
}

/** A part that is one table with a row for each key. */
export interface KeyedPart<Part extends StatePart, Key extends Columns, Value extends Columns, Derived extends Columns> {
  readonly part: Part;
  readonly table: string;
  /** the column that names the subject, where it is not `contact_id` */
  readonly subject?: string;
  readonly onlyOfContacts?: boolean;
  readonly key: Key;
  readonly columns: Value;
  /** columns derived from the others for queries, and never read back */
  readonly derived?: Derived;
  /** the kind of effect that last wrote a row, where its id is kept in `ledger_id` */
  readonly effect?: string;
  /** the order in which the rows of a subject are read into its state */
  readonly order?: string;
  readonly keyOf: (row: Row<Key>) => PartKey<Part>;
  readonly keyColumns: (key: PartKey<Part>) => Row<Key>;
  /** nothing where the row says nothing any more */
  readonly read: (row: Row<Key> & Row<Value>, state: SubjectState, catalogue: Catalogue) => PartValue<Part> | undefined;
  readonly write: (
    value: PartValue<Part>,
    context: { readonly state: SubjectState; readonly key: PartKey<Part>; readonly catalogue: Catalogue },
  ) => Row<Value> & Row<Derived>;
  readonly checks?: readonly Check[];
}

/** Makes select, upsert and delete of a part from the declaration of its columns. */
// eslint-disable-next-line @typescript-eslint/no-empty-object-type -- no derived columns
export function keyedPart<Part extends StatePart, Key extends Columns, Value extends Columns, Derived extends Columns = {}>(
  declared: KeyedPart<Part, Key, Value, Derived>,
): StoredPart {
  const { part, table, subject = 'contact_id', key, columns, derived, order } = declared;
  const read = { ...key, ...columns };
  const selected = [subject, ...Object.keys(read)];
  const text = `select ${selected.join(', ')} from ${table} where ${subject} = any($1::bigint[])${order ? ` order by ${order}` : ''}`;
  const instants = Object.keys(read).filter((column) => isInstant(read[column]));
  return {
    tables: [{ name: table, subject }],
    ...(declared.onlyOfContacts ? { onlyOfContacts: true } : {}),
    checks: declared.checks ?? [],
    readings: (catalogue, states, ids) => [
      readingOf<Record<string, unknown>>(selected, text, [ids], (row) => {
        const state = states.get(row[subject] as number);
        if (!state) return;
        for (const column of instants) row[column] = instantOf(row[column] as string | null);
        const value = declared.read(row as Row<Key> & Row<Value>, state, catalogue);
        if (value !== undefined) state.part(part).set(declared.keyOf(row as Row<Key>), value);
      }),
    ],
    write: async (sql, catalogue, worked, latest) => {
      const { put, gone } = changes(worked, part);
      await deleteKeys(
        sql,
        { table, subject, key },
        gone.map(({ state, key: one }) => ({ [subject]: state.id, ...declared.keyColumns(one) })),
      );
      await upsert(
        sql,
        { table, key: { [subject]: 'bigint', ...key }, columns: { ...columns, ...derived }, withEffect: declared.effect !== undefined },
        put.map(({ state, key: one, value }) => ({
          [subject]: state.id,
          ...declared.keyColumns(one),
          ...declared.write(value, { state, key: one, catalogue }),
          ...(declared.effect === undefined ? {} : { ledger_id: latest.get(`${declared.effect} ${one} ${state.id}`) }),
        })),
      );
    },
  };
}
