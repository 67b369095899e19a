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
  /** at which index a row that was read stands in these columns; left out where rows do not know */
  readonly indexIn?: (row: Row, packed: Packed) => number | undefined;
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
    if (this.#rows !== this.#count + 1) this.#keepEnds();
    this.#ends?.put(this.#count, this.#rows);
    this.#places.put(this.#count, place);
    this.#count += 1;
    this.#last = place;
  }

  #keepEnds(): void {
    this.#ends ??= new PackedColumn(Uint32Array.from({ length: this.#count }, (_, at) => at + 1));
  }

  #settleMuch(fewest: number, part: number): void {
    if (this.#loose.size > Math.max(fewest, this.#count * part)) this.settle();
  }

  /** Takes what stands beside the columns into them. */
  settle(): void {
    if (this.#loose.size === 0) return;
    const settled = new Rows(this.#packing);
    settled.#makeRoom(this);
    let at = 0;
    for (const [place, rows] of [...this.#loose].sort(([a], [b]) => a - b)) {
      const before = this.#firstFrom(place, at);
      settled.#addRun(this, at, before);
      at = before < this.#count && this.#places.at(before) === place ? before + 1 : before;
      if (rows.length > 0) settled.#addOf(this.#packed, place, rows);
    }
    settled.#addRun(this, at, this.#count);
    this.#packed = settled.#packed;
    this.#places = settled.#places;
    this.#ends = settled.#ends;
    this.#count = settled.#count;
    this.#rows = settled.#rows;
    this.#last = settled.#last;
    this.#found = 0;
    this.#loose.clear();
  }

  /** The first of its places, from one on, that is not before this. */
  #firstFrom(place: number, from: number): number {
    let [low, high] = [from, this.#count];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.#places.at(middle) < place) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Makes room, once, for all that another one has in its columns and beside them. */
  #makeRoom(other: Rows<Row>): void {
    const most = [...other.#loose.values()].reduce((sum, rows) => sum + rows.length, other.#rows);
    const { numbers, codes, texts } = other.#packed;
    numbers.forEach(({ values }, index) => values.length > 0 && this.#packed.numbers[index]?.full(most));
    codes.forEach(({ values }, index) => values.length > 0 && this.#packed.codes[index]?.full(most));
    texts.forEach((column, index) => this.#packed.texts[index]?.makeRoom(most, column));
  }

  /** Adds the places of others from one to before another, with their rows. */
  #addRun(from: Rows<Row>, first: number, end: number): void {
    if (first >= end) return;
    const begin = from.#startOf(first);
    const moved = this.#rows - begin;
    if (from.#ends) this.#keepEnds();
    if (this.#ends) {
      const ends = this.#ends.full(this.#count + end - first);
      for (let at = first; at < end; at += 1) ends[this.#count + at - first] = from.#endOf(at) + moved;
    }
    this.#copyRows(from.#packed, begin, from.#endOf(end - 1));
    this.#places.copy(this.#count, from.#places, first, end);
    this.#count += end - first;
    this.#last = from.#places.at(end - 1);
  }

  /** Adds a place whose rows may have been read from these columns: those are taken over as they stand. */
  #addOf(packed: Packed, place: number, rows: readonly Row[]): void {
    const { indexIn, write } = this.#packing;
    for (let next = 0; next < rows.length;) {
      const index = indexIn?.(rows[next] as Row, packed);
      let after = next + 1;
      if (index === undefined) write(rows[next] as Row, this.#packed, this.#rows++);
      else {
        while (after < rows.length && indexIn?.(rows[after] as Row, packed) === index + after - next) after += 1;
        this.#copyRows(packed, index, index + after - next);
      }
      next = after;
    }
    this.#end(place);
  }

  #copyRows({ numbers, codes, texts }: Packed, from: number, to: number): void {
    const at = this.#rows;
    numbers.forEach((column, index) => this.#packed.numbers[index]?.copy(at, column, from, to));
    codes.forEach((column, index) => this.#packed.codes[index]?.copy(at, column, from, to));
    texts.forEach((column, index) => this.#packed.texts[index]?.copy(at, column, from, to));
    this.#rows += to - from;
  }
}

const emptyOf = <Row>({ takes: { numbers = 0, codes = 0, texts = 0 } }: Packing<Row>): Packed => ({
  numbers: Array.from({ length: numbers }, numberColumn),
  codes: Array.from({ length: codes }, codeColumn),
  texts: Array.from({ length: texts }, () => new TextColumn()),
});
