import { type Lookup } from '../contacts/subject.ts';
import { Rows, type DumpedRows, type Packing } from './rows.ts';

/** One kind of thing that contacts have: rows for each field, or each tag, or each type of signal. */
export class Columns<Key extends string | number, Row> {
  readonly #columns = new Map<Key, Rows<Row>>();
  readonly #packing: (key: Key) => Packing<Row>;

  constructor(packing: (key: Key) => Packing<Row>) {
    this.#packing = packing;
  }

  /** The rows under a key, if anybody has any. */
  of(key: Key): Rows<Row> | undefined {
    return this.#columns.get(key);
  }

  /** Replaces everything of this kind for the contact at a place. */
  put(place: number, values: Iterable<readonly [Key, readonly Row[]]>): void {
    const has = new Map(values);
    for (const [key, rows] of this.#columns) if (!has.has(key)) rows.clear(place);
    for (const [key, rows] of has) this.putOf(key, place, rows);
  }

  /** Replaces what the contact at a place has under one key. */
  putOf(key: Key, place: number, rows: readonly Row[]): void {
    this.#made(key).put(place, rows);
  }

  /** Replaces what many places have under one key, by the same rows. */
  putMany(key: Key, places: Iterable<number>, rows: readonly Row[]): void {
    this.#made(key).putMany(places, rows);
  }

  #made(key: Key): Rows<Row> {
    let column = this.#columns.get(key);
    if (!column) this.#columns.set(key, (column = new Rows(this.#packing(key))));
    return column;
  }

  clear(place: number): void {
    for (const rows of this.#columns.values()) rows.clear(place);
  }

  /** The one thing that the contact has on whom the row stands. */
  oneOver(row: { readonly at: number }): Lookup<Key, Row> {
    return { get: (key) => this.#columns.get(key)?.first(row.at) };
  }

  /** Everything that it has, the earliest first. */
  allOver(row: { readonly at: number }): Lookup<Key, readonly Row[]> {
    return {
      get: (key) => {
        const rows = this.#columns.get(key)?.get(row.at);
        return rows && rows.length > 0 ? rows : undefined;
      },
    };
  }

  /** Each key with its rows. */
  entries(): Iterable<readonly [Key, Rows<Row>]> {
    return this.#columns;
  }

  /** Takes the rows of a dump. */
  fill(key: Key, rows: DumpedRows): void {
    this.#columns.set(key, Rows.from(this.#packing(key), rows));
  }
}
