import { type Window } from '../../time/window.ts';
import { type Chunk, type Cue } from './chunks.ts';
import { type Meaning } from './lexicon.ts';
import { type Limit } from './pieces.ts';
import { GENERAL_NOUNS } from './synonyms.ts';
import { stem } from './tokens.ts';

/** How much it costs, for each word, to take words that mean something here as mere text. */
const AS_TEXT = 1.6;
/** Words between others, which say nothing where they are not needed. */
const BETWEEN: ReadonlySet<Cue> = new Set(['from', 'to', 'company', 'contains', 'tag', 'ever', 'days']);
/** Kinds of things whose names may well be a detail of something that happened: an evening is a form's name and an event's. */
const NAMES_TOO: ReadonlySet<Meaning['kind']> = new Set(['family', 'form', 'message']);
const ARTICLE = /^(a|an|the|some|any|of|new|our|their|at|to|for|on|in)$/i;

/** The pieces of what may be one line, and which of them a reading has made use of. */
export class Segment {
  readonly chunks: readonly Chunk[];
  readonly #used = new Set<Chunk>();
  #cost = 0;

  constructor(chunks: readonly Chunk[]) {
    this.chunks = chunks;
  }

  use(...chunks: readonly (Chunk | undefined)[]): void {
    for (const chunk of chunks) if (chunk) this.#used.add(chunk);
  }

  isUsed(chunk: Chunk): boolean {
    return this.#used.has(chunk);
  }

  /** What of the phrase is left that should have meant something. */
  get unread(): readonly Chunk[] {
    return this.chunks.filter(
      (chunk) =>
        !this.#used.has(chunk) &&
        chunk.kind !== 'filler' &&
        chunk.kind !== 'joint' &&
        !(chunk.cue && chunk.kind === 'cue' && BETWEEN.has(chunk.cue)),
    );
  }

  /** The more of the phrase a reading makes use of, the better it is; what it leaves out counts heavily. */
  get score(): number {
    const read = this.chunks.filter((chunk) => this.#used.has(chunk)).reduce((sum, chunk) => sum + chunk.size, 0);
    const unread = this.unread.reduce((sum, chunk) => sum + (chunk.kind === 'cue' ? 1 : 3 * chunk.size), 0);
    return read - unread - this.#cost;
  }

  charge(cost: number): void {
    this.#cost += cost;
  }

  cue(...cues: readonly Cue[]): Chunk | undefined {
    return this.chunks.find((chunk) => chunk.cue !== undefined && cues.includes(chunk.cue) && !this.#used.has(chunk));
  }

  takeCue(...cues: readonly Cue[]): boolean {
    const chunk = this.cue(...cues);
    this.use(chunk);
    return chunk !== undefined;
  }

  /** Whether it is said that it is not so. Twice is that it is. */
  takeNot(within: readonly Chunk[] = this.chunks): boolean {
    const nots = within.filter((chunk) => chunk.kind === 'not' && !this.#used.has(chunk));
    this.use(...nots);
    return nots.length % 2 === 1;
  }

  takeWindow(within: readonly Chunk[] = this.chunks): Window | undefined {
    const chunk = within.find((each) => each.kind === 'window' && !this.#used.has(each));
    this.use(chunk);
    return chunk?.window;
  }

  takeLimit(within: readonly Chunk[] = this.chunks): Limit | undefined {
    const chunk = within.find((each) => each.kind === 'limit' && !this.#used.has(each));
    this.use(chunk);
    return chunk?.limit;
  }

  /** All things of a kind for which something holds, each by its first such meaning. */
  takeAll<Kind extends Meaning['kind']>(
    kind: Kind,
    fits: (meaning: Extract<Meaning, { kind: Kind }>) => boolean,
  ): Extract<Meaning, { kind: Kind }>[] {
    return this.chunks.flatMap((chunk) => {
      if (this.#used.has(chunk)) return [];
      const meaning = chunk.meanings.find(
        (each): each is Extract<Meaning, { kind: Kind }> => each.kind === kind && fits(each as Extract<Meaning, { kind: Kind }>),
      );
      if (!meaning) return [];
      this.use(chunk);
      return [meaning];
    });
  }

  /**
   * What is left as text: words that stand together are one value, and what "or" or a comma parts are several.
   *
   * @param within where to look
   */
  takeTexts(within: readonly Chunk[] = this.chunks): string[] {
    this.passOver(within);
    const texts: string[][] = [];
    let isOpen = false;
    /** right behind the word of what happened, or another text, it can hardly be anything else */
    let isDirect = false;
    for (const chunk of within) {
      const isText =
        !this.#used.has(chunk) &&
        (chunk.kind === 'free' || (chunk.kind === 'thing' && chunk.meanings.every(({ kind }) => kind !== 'signal')));
      if (isText) {
        if (!isOpen) texts.push([]);
        texts.at(-1)?.push(chunk.text);
        this.use(chunk);
        if (chunk.kind === 'thing')
          this.charge(isDirect || chunk.meanings.every(({ kind }) => NAMES_TOO.has(kind)) ? 0 : AS_TEXT * chunk.size);
        isOpen = true;
        isDirect = true;
      } else if (isOpen && chunk.kind === 'cue' && chunk.cue === 'audience' && chunk.size === 1) {
        // A price list is no list of people.
        texts.at(-1)?.push(chunk.text);
        this.use(chunk);
      } else if (chunk.kind !== 'filler') {
        isOpen = false;
        isDirect =
          chunk.meanings.some(({ kind }) => kind === 'signal') || chunk.joint === 'or' || chunk.cue === 'line' || chunk.cue === 'product';
      } else if (isDirect && !ARTICLE.test(chunk.text)) isDirect = false;
      if (chunk.kind === 'filler' && isOpen && !/^(of|the|a|an|and)$/i.test(chunk.text)) isOpen = false;
    }
    return texts.map((words) => words.join(' '));
  }

  /** Nouns that go with what happened and name nothing in particular. */
  passOver(within: readonly Chunk[]): void {
    for (const chunk of within)
      if (chunk.size === 1 && chunk.meanings.every(({ kind }) => kind !== 'signal') && GENERAL_NOUNS.has(stem(chunk.text))) this.use(chunk);
  }

  isJoinedBy(joint: 'and' | 'or'): boolean {
    return this.chunks.some((chunk) => chunk.kind === 'joint' && chunk.joint === joint && chunk.text !== ',');
  }
}
