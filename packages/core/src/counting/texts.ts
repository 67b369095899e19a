/** Texts, each once, under a number from 1 on. */
export class Texts {
  readonly #codes = new Map<string, number>();
  readonly #texts: string[] = [''];

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

  /** Each under its number; those that are not used any more are left out. @param used by number */
  dump(used: Uint8Array): readonly (string | null)[] {
    return this.#texts.slice(1).map((text, index) => (used[index + 1] ? text : null));
  }

  /** Takes the texts of a dump, each under the number it had. */
  fill(dumped: readonly (string | null)[]): void {
    for (const text of dumped) {
      const code = this.#texts.push(text ?? '') - 1;
      if (text !== null) this.#codes.set(text, code);
    }
  }
}
