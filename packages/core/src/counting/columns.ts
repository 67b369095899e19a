import { type Lookup } from '../contacts/subject.ts';

/** Values by the place of the contact that has them. A map is one. */
interface Column<Value> {
  get(at: number): Value | undefined;
  set(at: number, value: Value): unknown;
  delete(at: number): unknown;
}

/** For what nearly every contact has: eight bytes a place, filled or not, and no hashing. */
class FullColumn<Value> implements Column<Value> {
  readonly #values: (Value | undefined)[] = [];

  get(at: number): Value | undefined {
    return this.#values[at];
  }

  set(at: number, value: Value): void {
    // Without holes: a list that has them is several times slower to read.
    while (this.#values.length < at) this.#values.push(undefined);
    this.#values[at] = value;
  }

  delete(at: number): void {
    if (at < this.#values.length) this.#values[at] = undefined;
  }
}

/** Numbers, one beside another in memory, so that running down them touches nothing else. */
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

/** How the values of one kind are kept: in maps where few contacts have one, in lists where most do, or as bare numbers. */
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

  /** Everything of this kind that the contact at a place has, instead of what it had. */
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
