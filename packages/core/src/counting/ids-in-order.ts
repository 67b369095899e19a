const FEWEST = 1_024;

/** Ids in rising order. They come nearly always in that order already. */
export class IdsInOrder {
  #ids = new Float64Array(FEWEST);
  #count = 0;
  #cameInOrder = true;

  /** Whether each that came was the highest until then. */
  get cameInOrder(): boolean {
    return this.#cameInOrder;
  }

  add(id: number): void {
    const ordinal = this.#ordinalOf(id);
    if (ordinal < this.#count) this.#cameInOrder = false;
    if (ordinal < this.#count && this.#ids[ordinal] === id) return;
    if (this.#count === this.#ids.length) this.#ids = twice(this.#ids);
    this.#ids.copyWithin(ordinal + 1, ordinal, this.#count);
    this.#ids[ordinal] = id;
    this.#count += 1;
  }

  /** Those below one, the highest first. */
  *fallingFrom(before: number): Generator<number> {
    for (let index = this.#ordinalOf(before) - 1; index >= 0; index -= 1) yield this.#ids[index] as number;
  }

  /** How many are below one. */
  #ordinalOf(id: number): number {
    let [low, high] = [0, this.#count];
    if (high > 0 && (this.#ids[high - 1] as number) < id) return high;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((this.#ids[middle] as number) < id) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/** The same numbers with room for as many again. */
export function twice(values: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const grown = new Float64Array(values.length * 2);
  grown.set(values);
  return grown;
}
