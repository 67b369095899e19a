import { type Instant } from '../time/zone.ts';

/** So many places share the earliest of their instants. */
const BLOCK = 1_024;
/** Whole seconds are enough: what is looked at a moment too early is only asked once more. */
const SECOND_MS = 1_000;
const NEVER = 0xffff_ffff;

const secondsOf = (at: Instant): number => Math.max(0, Math.min(NEVER, Math.floor(at / SECOND_MS)));

/** For each place an instant at which something has to be looked at again. Those that are due are found without a look at all of them. */
export class Deadlines {
  #at: Uint32Array;
  #earliest: Uint32Array;

  constructor(size: number) {
    this.#at = new Uint32Array(size).fill(NEVER);
    this.#earliest = new Uint32Array(Math.ceil(size / BLOCK)).fill(NEVER);
  }

  /** @param at infinite where it never has to be */
  put(place: number, at: Instant): void {
    const seconds = secondsOf(at);
    this.#at[place] = seconds;
    const block = Math.floor(place / BLOCK);
    if (seconds < (this.#earliest[block] as number)) this.#earliest[block] = seconds;
  }

  /** The places whose instant has come, or comes within a second. They are expected to be put anew. */
  due(now: Instant): readonly number[] {
    const until = Math.min(NEVER - 1, secondsOf(now));
    const due: number[] = [];
    for (let block = 0; block < this.#earliest.length; block += 1) {
      if ((this.#earliest[block] as number) > until) continue;
      let earliest = NEVER;
      for (let place = block * BLOCK; place < Math.min(this.#at.length, (block + 1) * BLOCK); place += 1) {
        const at = this.#at[place] as number;
        if (at <= until) due.push(place);
        else if (at < earliest) earliest = at;
      }
      this.#earliest[block] = earliest;
    }
    return due;
  }

  /** An instant at or up to a second before the one that was put; infinite where there is none. */
  at(place: number): Instant {
    const seconds = this.#at[place] ?? NEVER;
    return seconds === NEVER ? Number.POSITIVE_INFINITY : seconds * SECOND_MS;
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
