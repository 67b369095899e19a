/** So many changes are remembered; whoever is further behind begins anew. */
const MOST = 500_000;

/** Which places changed, in order, so that what was worked out of them can be brought up. */
export class ChangesSince {
  readonly #places: number[] = [];
  #forgotten = 0;

  /** Where it stands now: what is asked for later begins here. */
  get end(): number {
    return this.#forgotten + this.#places.length;
  }

  add(place: number): void {
    this.#places.push(place);
    if (this.#places.length > MOST) {
      const oldest = this.#places.length - MOST / 2;
      this.#places.splice(0, oldest);
      this.#forgotten += oldest;
    }
  }

  /** Undefined where that is not remembered any more. */
  since(end: number): ReadonlySet<number> | undefined {
    return end < this.#forgotten ? undefined : new Set(this.#places.slice(end - this.#forgotten));
  }
}
