import { type Lookup } from '../contacts/subject.ts';

/** Values by the place of the contact that has them. A map is one. */
interface Column<Value> {
  get(at: number): Value | undefined;
  set(at: number, value: Value): unknown;
  delete(at: number): unknown;
}

/** For values that nearly every contact has: eight bytes a contact, filled or not, without hashing. */
class FullColumn<Value> implements Column<Value> {
  readonly #values: (Value | undefined)[] = [];

  get(at: number): Value | undefined {
    return this.#values[at];
  }

  set(at: number, value: Value): void {
    // Filled without holes: an array with holes is several times slower to read.
    while (this.#values.length < at) this.#values.push(undefined);
    this.#values[at] = value;
  }

  delete(at: number): void {
    if (at < this.#values.length) this.#values[at] = undefined;
  }
}

/** Numbers in contiguous memory, so that a scan touches nothing else. */
class NumberColumn implements Column<number> {
  readonly #values: number[] = [];

  get(at: number): number {
    return this.#values[at] ?? Number.NEGATIVE_INFINITY;
  }

  set(at: number, value: number): void {
    while (this.#values.length < at) this.#values.push(Number.NEGATIVE_INFINITY);
    this.#values[at] = value;
  }

  delete(at: number): void {
    if (at < this.#values.length) this.#values[at] = Number.NEGATIVE_INFINITY;
  }
}

/** How values are stored: in maps if few contacts have one, in arrays if most do, or as bare numbers. */
export const few = <Value>(): Column<Value> => new Map<number, Value>();
export const most = <Value>(): Column<Value> => new FullColumn<Value>();
export const numbers = (): Column<number> => new NumberColumn();

/** One kind of thing that contacts have: a column for each field, or each tag, or each type of signal. */
export class Columns<Key, Value> {
  readonly #columns = new Map<Key, Column<Value>>();
  readonly #make: () => Column<Value>;

  constructor(make: () => Column<Value>) {
    this.#make = make;
  }

  /** Replaces all values of this kind for the contact at an index. */
  put(at: number, values: Iterable<readonly [Key, Value]>): void {
    this.clear(at);
    for (const [key, value] of values) {
      let column = this.#columns.get(key);
      if (!column) this.#columns.set(key, (column = this.#make()));
      column.set(at, value);
    }
  }

  clear(at: number): void {
    for (const column of this.#columns.values()) column.delete(at);
  }

  /** What the contact has on which the row stands. */
  over(row: { readonly at: number }): Lookup<Key, Value> {
    return { get: (key) => this.#columns.get(key)?.get(row.at) };
  }
}
