/** A completion offered at a place of the typed line. */
export interface Completion {
  readonly text: string;
  /** what kind of thing it is, in a word */
  readonly hint: string;
}

const WORD_CHARACTER = /[\p{L}\p{M}\p{N}]/u;

/**
 * A place in a line that is being read. Reading tries alternatives and goes back; each place that was reached remembers what could
 * have stood there, and from the furthest one where something fits what was typed, a person is offered that.
 */
export class Cursor {
  readonly text: string;
  at = 0;
  #furthest = 0;
  readonly #offers = new Map<number, Completion[]>();

  constructor(text: string) {
    this.text = text;
  }

  get rest(): string {
    return this.text.slice(this.at);
  }

  get done(): boolean {
    return this.rest.trim() === '';
  }

  skipSpace(): void {
    while (this.text[this.at] === ' ' || this.text[this.at] === '\t') this.at += 1;
  }

  offer(text: string, hint: string): void {
    this.skipSpace();
    this.#furthest = Math.max(this.#furthest, this.at);
    const here = this.#offers.get(this.at);
    if (here) here.push({ text, hint });
    else this.#offers.set(this.at, [{ text, hint }]);
  }

  /** The completions where reading stopped that fit what is typed there. */
  completions(): { readonly from: number; readonly offers: readonly Completion[] } {
    // "is at" was read as "is", and then nothing fits "at": what fits begins further back.
    for (const from of [...this.#offers.keys()].sort((a, b) => b - a)) {
      const offers = this.#fitting(from);
      if (offers.length > 0) return { from, offers };
    }
    return { from: this.#furthest, offers: [] };
  }

  #fitting(from: number): readonly Completion[] {
    const typed = this.text.slice(from).trimStart().toLowerCase();
    const seen = new Set<string>();
    return (this.#offers.get(from) ?? []).filter(({ text }) => {
      if (seen.has(text) || !text.toLowerCase().startsWith(typed) || text.toLowerCase() === typed) return false;
      seen.add(text);
      return true;
    });
  }

  /** The furthest place that reading reached. */
  get furthest(): number {
    return this.#furthest;
  }

  /** Takes these words if they stand here, whatever their capitals. */
  take(words: string, hint: string): boolean {
    this.offer(words, hint);
    const end = this.at + words.length;
    if (this.text.slice(this.at, end).toLowerCase() !== words.toLowerCase()) return false;
    const [last = '', next = ''] = [words.at(-1), this.text[end]];
    if (WORD_CHARACTER.test(last) && WORD_CHARACTER.test(next)) return false;
    this.at = end;
    return true;
  }

  /** The first alternative that reads here; where one does not, the place is as before. */
  first<T>(...alternatives: readonly (() => T | undefined)[]): T | undefined {
    const start = this.at;
    for (const alternative of alternatives) {
      this.at = start;
      const result = alternative();
      if (result !== undefined) return result;
    }
    this.at = start;
    return undefined;
  }

  /** The alternative that reads furthest: "is one of" wins over "is". */
  longest<T>(alternatives: readonly (() => T | undefined)[]): T | undefined {
    const start = this.at;
    let best: { result: T; end: number } | undefined;
    for (const alternative of alternatives) {
      this.at = start;
      const result = alternative();
      if (result !== undefined && (!best || this.at > best.end)) best = { result, end: this.at };
    }
    this.at = best?.end ?? start;
    return best?.result;
  }

  pattern(pattern: RegExp, hint: string, example: string): string | undefined {
    this.offer(example, hint);
    const sticky = new RegExp(pattern.source, `${pattern.flags.replace(/[gy]/g, '')}y`);
    sticky.lastIndex = this.at;
    const match = sticky.exec(this.text);
    if (!match || match[0] === '') return undefined;
    this.at = sticky.lastIndex;
    return match[0];
  }
}
