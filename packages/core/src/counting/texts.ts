/** Texts, each once, under a number from 1 on. */
export class Texts {
  readonly #codes = new Map<string, number>();
  readonly #texts: string[] = [''];

  /** @param texts in the order of their numbers, as `all` gives them */
  static from(texts: readonly string[]): Texts {
    const made = new Texts();
    for (const text of texts) made.code(text);
    return made;
  }

  /** The number of a text, a new one where it has none yet. */
  code(text: string): number {
    const known = this.#codes.get(text);
    if (known !== undefined) return known;
    const code = this.#texts.push(text) - 1;
    this.#codes.set(text, code);
    return code;
  }

  of(code: number): string {
    return this.#texts[code] ?? '';
  }

  /** One more than the highest number. */
  get size(): number {
    return this.#texts.length;
  }

  all(): readonly string[] {
    return this.#texts.slice(1);
  }
}
