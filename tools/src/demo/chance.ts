/** Chance that comes out the same for the same seed (mulberry32). */
export class Chance {
  #state: number;

  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** from 0 up to, not including, 1 */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let t = this.#state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  }

  below(n: number): number {
    return Math.floor(this.next() * n);
  }

  happens(probability: number): boolean {
    return this.next() < probability;
  }

  pick<T>(from: readonly T[]): T {
    return from[this.below(from.length)] as T;
  }

  some<T>(from: readonly T[], most: number): T[] {
    const picked = new Set<T>();
    for (let n = 1 + this.below(most); n > 0; n -= 1) picked.add(this.pick(from));
    return [...picked];
  }
}
