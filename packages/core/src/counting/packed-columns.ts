type Values = Float64Array | Uint32Array | Uint8Array;

/** An array with room for so many, what was in it in its place. */
function withRoom<Array extends Values>(values: Array, size: number): Array {
  if (size <= values.length) return values;
  const grown = new (values.constructor as new (size: number) => Array)(Math.max(size, Math.ceil(values.length * 1.5), 16));
  grown.set(values as never);
  return grown;
}

/** Numbers or codes in contiguous memory. Takes none until something else than 0 is put in. */
export class PackedColumn<Array extends Float64Array | Uint32Array> {
  values: Array;

  constructor(values: Array) {
    this.values = values;
  }

  at(index: number): number {
    return index < this.values.length ? (this.values[index] as number) : 0;
  }

  /** All values, at least so many of them. */
  full(size: number): Array {
    this.values = withRoom(this.values, size);
    return this.values;
  }

  put(index: number, value: number): void {
    if (index >= this.values.length) {
      if (value === 0) return;
      this.values = withRoom(this.values, index + 1);
    }
    this.values[index] = value;
  }

  /** Puts in what stands in another column from one index to before another. */
  copy(index: number, other: PackedColumn<Array>, from: number, to: number): void {
    const copied = other.values.subarray(from, Math.min(to, other.values.length));
    if (copied.length === 0) return;
    this.values = withRoom(this.values, index + copied.length);
    this.values.set(copied as never, index);
  }
}

export const numberColumn = (): PackedColumn<Float64Array> => new PackedColumn(new Float64Array(0));
export const codeColumn = (): PackedColumn<Uint32Array> => new PackedColumn(new Uint32Array(0));

const [NARROW, WIDE] = [0, 1] as const;
const WIDEST_NARROW = 0xff;

/**
 * Texts that are nearly all different, one behind the other as bytes: as strings they would take several times as much. The first byte of each
 * says whether a character takes one byte or two. Rows are added in their order.
 */
export class TextColumn {
  ends: Uint32Array;
  bytes: Uint8Array;

  constructor(ends: Uint32Array = new Uint32Array(0), bytes: Uint8Array = new Uint8Array(0)) {
    this.ends = ends;
    this.bytes = bytes;
  }

  at(index: number): string {
    const end = this.ends[index] ?? 0;
    let from = this.#start(index);
    const wide = this.bytes[from] === WIDE;
    let text = '';
    for (from += 1; from < end; from += wide ? 2 : 1) {
      text += String.fromCharCode((this.bytes[from] ?? 0) + (wide ? (this.bytes[from + 1] ?? 0) << 8 : 0));
    }
    return text;
  }

  /** Adds a text as the next row. */
  add(index: number, text: string): void {
    const from = this.#start(index);
    let wide = false;
    for (let at = 0; at < text.length; at += 1) wide ||= text.charCodeAt(at) > WIDEST_NARROW;
    const end = from + 1 + text.length * (wide ? 2 : 1);
    this.bytes = withRoom(this.bytes, end);
    this.bytes[from] = wide ? WIDE : NARROW;
    for (let at = 0; at < text.length; at += 1) {
      const unit = text.charCodeAt(at);
      this.bytes[from + 1 + (wide ? at * 2 : at)] = unit & WIDEST_NARROW;
      if (wide) this.bytes[from + 2 + at * 2] = unit >>> 8;
    }
    this.#end(index, end);
  }

  /** Adds what stands in another column from one row to before another as the next rows. */
  copy(index: number, other: TextColumn, from: number, to: number): void {
    const [begin, theirs] = [this.#start(index), other.#start(from)];
    const copied = other.bytes.subarray(theirs, other.#start(to));
    this.bytes = withRoom(this.bytes, begin + copied.length);
    this.bytes.set(copied, begin);
    this.ends = withRoom(this.ends, index + to - from);
    for (let row = from; row < to; row += 1) this.ends[index + row - from] = (other.ends[row] ?? 0) - theirs + begin;
  }

  /** Makes room, once, for so many rows and the bytes of another column. */
  makeRoom(rows: number, other: TextColumn): void {
    this.ends = withRoom(this.ends, rows);
    this.bytes = withRoom(this.bytes, other.bytes.length);
  }

  /** Whether the same text stands in a row of another column. */
  isSame(index: number, other: TextColumn, row: number): boolean {
    const [from, end] = [this.#start(index), this.ends[index] ?? 0];
    const theirs = other.#start(row);
    if (end - from !== (other.ends[row] ?? 0) - theirs) return false;
    for (let at = from; at < end; at += 1) if (this.bytes[at] !== other.bytes[theirs + at - from]) return false;
    return true;
  }

  #start(index: number): number {
    return index === 0 ? 0 : (this.ends[index - 1] ?? 0);
  }

  #end(index: number, end: number): void {
    this.ends = withRoom(this.ends, index + 1);
    this.ends[index] = end;
  }
}
