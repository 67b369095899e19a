import { type Instant } from '../time/zone.ts';

const NEVER = Number.POSITIVE_INFINITY;
/** So many places share the earliest of their instants. */
const BLOCK = 1_024;

/** For each place an instant at which something has to be looked at again. Those that are due are found without a look at all of them. */
export class Deadlines {
  #at: Float64Array;
  #earliest: Float64Array;

  constructor(size: number) {
    this.#at = new Float64Array(size).fill(NEVER);
    this.#earliest = new Float64Array(Math.ceil(size / BLOCK)).fill(NEVER);
  }

  put(place: number, at: Instant): void {
    this.#at[place] = at;
    const block = Math.floor(place / BLOCK);
    if (at < (this.#earliest[block] as number)) this.#earliest[block] = at;
  }

  /** The places whose instant has come. They are expected to be put anew. */
  due(now: Instant): readonly number[] {
    const due: number[] = [];
    for (let block = 0; block < this.#earliest.length; block += 1) {
      if ((this.#earliest[block] as number) > now) continue;
      let earliest = NEVER;
      for (let place = block * BLOCK; place < Math.min(this.#at.length, (block + 1) * BLOCK); place += 1) {
        const at = this.#at[place] as number;
        if (at <= now) due.push(place);
        else earliest = Math.min(earliest, at);
      }
      this.#earliest[block] = earliest;
    }
    return due;
  }

  /** Itself where it has room for so many already. */
  grown(size: number): Deadlines {
    if (size === this.#at.length) return this;
    const grown = new Deadlines(size);
    grown.#at.set(this.#at);
    grown.#earliest.set(this.#earliest);
    return grown;
  }

  get bytes(): number {
    return this.#at.byteLength + this.#earliest.byteLength;
  }
}
