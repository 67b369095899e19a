import { codeColumn, numberColumn, PackedColumn, TextColumn } from './packed-columns.ts';

/** The columns of rows that stand one behind the other. */
export interface Packed {
  readonly numbers: readonly PackedColumn<Float64Array>[];
  readonly codes: readonly PackedColumn<Uint32Array>[];
  readonly texts: readonly TextColumn[];
}

/** How rows of one kind become columns, and what a row is when it is read. */
export interface Packing<Row> {
  /** how many columns of each kind it takes */
  readonly takes: { readonly numbers?: number; readonly codes?: number; readonly texts?: number };
  readonly write: (row: Row, to: Packed, index: number) => void;
  readonly read: (from: Packed, index: number) => Row;
}

/** Rows as plain values, to be written to a file and read again. */
export interface DumpedRows {
  readonly places: Uint32Array;
  readonly ends: Uint32Array | undefined;
  readonly numbers: readonly Float64Array[];
  readonly codes: readonly Uint32Array[];
  readonly texts: readonly { readonly ends: Uint32Array; readonly bytes: Uint8Array }[];
}

/** Columns for whoever runs down all of them. Places that stand beside them are among them as they were. */
export interface RowsInLine {
  /** how many places there are */
  readonly count: number;
  readonly places: Uint32Array;
  /** where the rows of each place end; left out where each has one */
  readonly ends: Uint32Array | undefined;
  readonly numbers: (column: number) => Float64Array;
  readonly codes: (column: number) => Uint32Array;
}

const NONE: readonly never[] = [];
/** Changed places are held beside the columns until there are so many, or this part of all. */
const FEWEST_LOOSE = 2_000;
const LOOSE_PART = 1 / 32;
/** Where many come at once, and again and again, they are taken in less often. */
const FEWEST_MANY = 20_000;
const MANY_PART = 1 / 2;
const FEWEST_PLACES = 16;

/**
 * Rows by the place of the contact that has them, in columns, sorted by place. New places are added at the end; what changes in the middle is
 * held beside the columns, and taken into them when it has become much.
 */
export class Rows<Row> {
  readonly #packing: Packing<Row>;
  #packed: Packed;
  #places: PackedColumn<Uint32Array> = new PackedColumn(new Uint32Array(FEWEST_PLACES));
  /** where the rows of each place end; not kept while each has one */
  #ends: PackedColumn<Uint32Array> | undefined;
  #count = 0;
  #rows = 0;
  #last = -1;
  /** where the last one was found: most are asked for one after the other */
  #found = 0;
  readonly #loose = new Map<number, readonly Row[]>();
  /** a single row, to compare others with */
  #single: Packed | undefined;

  constructor(packing: Packing<Row>) {
    this.#packing = packing;
    this.#packed = emptyOf(packing);
  }

  static from<Row>(packing: Packing<Row>, { places, ends, numbers, codes, texts }: DumpedRows): Rows<Row> {
    const made = new Rows(packing);
    made.#places = new PackedColumn<Uint32Array>(places);
    // The place 0 is put nowhere while there is no room yet.
    made.#places.full(FEWEST_PLACES);
    made.#ends = ends && new PackedColumn<Uint32Array>(ends);
    made.#packed = {
      numbers: numbers.map((values) => new PackedColumn<Float64Array>(values)),
      codes: codes.map((values) => new PackedColumn<Uint32Array>(values)),
      texts: texts.map((text) => new TextColumn(text.ends, text.bytes)),
    };
    made.#count = places.length;
    made.#rows = ends ? (ends.at(-1) ?? 0) : places.length;
    made.#last = places.at(-1) ?? -1;
    return made;
  }

  /** Everything in the columns, nothing beside them. The arrays are those that are worked with: they are to be written down before anything changes. */
  dump(): DumpedRows {
    this.settle();
    const { numbers, codes, texts } = this.#packed;
    return {
      places: this.#places.values.subarray(0, this.#count),
      ends: this.#ends?.values.subarray(0, this.#count),
      numbers: numbers.map(({ values }) => values.subarray(0, this.#rows)),
      codes: codes.map(({ values }) => values.subarray(0, this.#rows)),
      texts: texts.map(({ ends, bytes }) => ({ ends: ends.subarray(0, this.#rows), bytes: bytes.subarray(0, ends[this.#rows - 1] ?? 0) })),
    };
  }

  /** The codes in one of the columns, without those of places that stand beside them. */
  codes(column: number): Uint32Array {
    return this.#packed.codes[column]?.values ?? new Uint32Array(0);
  }

  get(place: number): readonly Row[] {
    const loose = this.#loose.size > 0 ? this.#loose.get(place) : undefined;
    if (loose) return loose;
    const at = this.#find(place);
    if (at < 0) return NONE;
    const rows: Row[] = [];
    for (let index = this.#startOf(at); index < this.#endOf(at); index += 1) rows.push(this.#packing.read(this.#packed, index));
    return rows;
  }

  first(place: number): Row | undefined {
    const loose = this.#loose.size > 0 ? this.#loose.get(place) : undefined;
    if (loose) return loose[0];
    const at = this.#find(place);
    return at < 0 ? undefined : this.#packing.read(this.#packed, this.#startOf(at));
  }

  last(place: number): Row | undefined {
    const loose = this.#loose.size > 0 ? this.#loose.get(place) : undefined;
    if (loose) return loose.at(-1);
    const at = this.#find(place);
    return at < 0 ? undefined : this.#packing.read(this.#packed, this.#endOf(at) - 1);
  }

  put(place: number, rows: readonly Row[]): void {
    if (rows.length === 0) this.clear(place);
    else if (place > this.#last) this.#add(place, rows);
    // Of whom something has changed nearly everything is as it was, and need not stand beside the columns.
    else if (this.#loose.has(place) || !this.#isThere(place, rows)) {
      this.#loose.set(place, rows);
      this.#settleMuch(FEWEST_LOOSE, LOOSE_PART);
    }
  }

  /** The same rows for many places, given in rising order. */
  putMany(places: Iterable<number>, rows: readonly Row[]): void {
    for (const place of places) {
      if (rows.length === 0) this.clear(place);
      else if (place > this.#last) this.#add(place, rows);
      else this.#loose.set(place, rows);
    }
    this.#settleMuch(FEWEST_MANY, MANY_PART);
  }

  clear(place: number): void {
    if (place > this.#last) return;
    if (this.#find(place) >= 0) this.#loose.set(place, NONE);
    else this.#loose.delete(place);
  }

  /** Runs down the columns: the rows of a place go from one index to before another. Places that stand beside the columns are left out. */
  each(visit: (place: number, from: number, to: number, packed: Packed) => void): void {
    const places = this.#places.values;
    const loose = this.#loose.size > 0 ? this.#loose : undefined;
    for (let at = 0, from = 0; at < this.#count; at += 1) {
      const to = this.#endOf(at);
      const place = places[at] as number;
      if (!loose?.has(place)) visit(place, from, to, this.#packed);
      from = to;
    }
  }

  inLine(): RowsInLine {
    const { numbers, codes } = this.#packed;
    return {
      count: this.#count,
      places: this.#places.values,
      ends: this.#ends?.full(this.#count),
      numbers: (column) => numbers[column]?.full(this.#rows) ?? new Float64Array(this.#rows),
      codes: (column) => codes[column]?.full(this.#rows) ?? new Uint32Array(this.#rows),
    };
  }

  /** The first row of everyone who has any. */
  eachFirst(visit: (place: number, row: Row) => void): void {
    this.each((place, from, _to, packed) => visit(place, this.#packing.read(packed, from)));
    for (const [place, [row]] of this.#loose) if (row !== undefined) visit(place, row);
  }

  /** The places that stand beside the columns. */
  loose(): Iterable<number> {
    return this.#loose.keys();
  }

  #startOf(at: number): number {
    return at === 0 ? 0 : this.#endOf(at - 1);
  }

  #endOf(at: number): number {
    return this.#ends ? this.#ends.at(at) : at + 1;
  }

  #find(place: number): number {
    if (place > this.#last) return -1;
    const places = this.#places.values;
    const next = this.#found + 1;
    if (places[this.#found] === place) return this.#found;
    if (next < this.#count && places[next] === place) return (this.#found = next);
    let [low, high] = [0, this.#count - 1];
    while (low <= high) {
      const middle = (low + high) >>> 1;
      const there = places[middle] as number;
      if (there === place) return (this.#found = middle);
      if (there < place) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  }

  /** Whether these rows stand in the columns already. */
  #isThere(place: number, rows: readonly Row[]): boolean {
    const at = this.#find(place);
    if (at < 0) return false;
    const [from, to] = [this.#startOf(at), this.#endOf(at)];
    return to - from === rows.length && rows.every((row, index) => this.#isAt(from + index, row));
  }

  #isAt(index: number, row: Row): boolean {
    const single = (this.#single ??= emptyOf(this.#packing));
    this.#packing.write(row, single, 0);
    const { numbers, codes, texts } = this.#packed;
    return (
      single.numbers.every((column, each) => Object.is(column.at(0), numbers[each]?.at(index) ?? 0)) &&
      single.codes.every((column, each) => column.at(0) === (codes[each]?.at(index) ?? 0)) &&
      single.texts.every((column, each) => texts[each]?.isSame(index, column, 0))
    );
  }

  #add(place: number, rows: readonly Row[]): void {
    for (const row of rows) this.#packing.write(row, this.#packed, this.#rows++);
    this.#end(place);
  }

  #end(place: number): void {
    if (!this.#ends && this.#rows !== this.#count + 1) {
      this.#ends = new PackedColumn(Uint32Array.from({ length: this.#count }, (_, at) => at + 1));
    }
    this.#ends?.put(this.#count, this.#rows);
    this.#places.put(this.#count, place);
    this.#count += 1;
    this.#last = place;
  }

  #settleMuch(fewest: number, part: number): void {
    if (this.#loose.size > Math.max(fewest, this.#count * part)) this.settle();
  }

  /** Takes what stands beside the columns into them. */
  settle(): void {
    if (this.#loose.size === 0) return;
    const settled = new Rows(this.#packing);
    const loose = [...this.#loose].sort(([a], [b]) => a - b);
    let next = 0;
    const addLoose = (before: number): void => {
      for (; next < loose.length; next += 1) {
        const [place, rows] = loose[next] as (typeof loose)[number];
        if (place >= before) return;
        if (rows.length > 0) settled.#add(place, rows);
      }
    };
    this.each((place, from, to, packed) => {
      addLoose(place);
      for (let row = from; row < to; row += 1) settled.#copy(packed, row);
      settled.#end(place);
    });
    addLoose(Number.POSITIVE_INFINITY);
    this.#packed = settled.#packed;
    this.#places = settled.#places;
    this.#ends = settled.#ends;
    this.#count = settled.#count;
    this.#rows = settled.#rows;
    this.#last = settled.#last;
    this.#found = 0;
    this.#loose.clear();
  }

  #copy(from: Packed, row: number): void {
    const { numbers, codes, texts } = this.#packed;
    const to = this.#rows++;
    numbers.forEach((column, index) => column.put(to, from.numbers[index]?.at(row) ?? 0));
    codes.forEach((column, index) => column.put(to, from.codes[index]?.at(row) ?? 0));
    texts.forEach((column, index) => from.texts[index] && column.copy(to, from.texts[index], row));
  }
}

const emptyOf = <Row>({ takes: { numbers = 0, codes = 0, texts = 0 } }: Packing<Row>): Packed => ({
  numbers: Array.from({ length: numbers }, numberColumn),
  codes: Array.from({ length: codes }, codeColumn),
  texts: Array.from({ length: texts }, () => new TextColumn()),
});
