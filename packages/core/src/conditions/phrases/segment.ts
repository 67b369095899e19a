import { type Window } from '../../time/window.ts';
import { type Chunk } from './chunks.ts';
import { type Meaning } from './lexicon.ts';
import { type Limit } from './limits.ts';
import { meaningOf, type MeaningOf } from './meanings.ts';
import { isNoName, isOfOthers, SAYS_SO } from './names.ts';
import { stem } from './tokens.ts';
import { type Cue } from './words/cues.ts';
import { GENERAL_NOUNS } from './words/language.ts';

/** How much it costs, for each word, to take words that mean something here as mere text. */
const AS_TEXT = 1.6;
/** Words between others, which say nothing where they are not needed. */
const BETWEEN: ReadonlySet<Cue> = new Set(['from', 'to', 'contains', 'tag', 'ever', 'days']);
const NO_LONGER = /^(former|formerly|ex\b.*|used to\b.*|previously|in the past|before now|once had)$/i;
/** Kinds of things whose names may well be a detail of something that happened: an evening is a form's name and an event's. */
const NAMES_TOO: ReadonlySet<Meaning['kind']> = new Set(['family', 'form', 'message', 'pipeline']);
/** Between what happened and what it happened to. */
const ARTICLE = /^(a|an|the|some|any|of|new|our|their|to|for|on|in)$/i;
const CONTENT: ReadonlySet<Chunk['kind']> = new Set(['thing', 'free', 'limit', 'window', 'next']);

/** `spring-fair` is one word. */
const isHyphen = (chunks: readonly Chunk[], chunk: Chunk): boolean => {
  const at = chunks.indexOf(chunk);
  return chunk.text === '-' && chunks[at - 1]?.to === chunk.from && chunks[at + 1]?.from === chunk.to;
};

/** `Mill Group`: written like a name, it is part of the one before it. */
const isPartOfAName = (chunks: readonly Chunk[], { text, from }: Chunk): boolean => {
  const before = chunks.find(({ to }) => to === from - 1);
  return /^\p{Lu}\p{Ll}/u.test(text) && before?.kind === 'free' && /^\p{Lu}/u.test(before.text);
};

/** Words of one text, with spaces where they were typed. */
const asTyped = (words: readonly Chunk[]): string =>
  words.map(({ typed, from }, index) => (index > 0 && words[index - 1]?.to !== from ? ` ${typed}` : typed)).join('');

const WAS = /^(was|were|had been|used to be|formerly|previously|now|currently)$/i;

/** The pieces of what may be one line, and which of them a reading has made use of. */
export class Segment {
  readonly chunks: readonly Chunk[];
  readonly #used = new Set<Chunk>();
  /** what the line is about, which may stand on either side of a "not" */
  readonly #heads = new Set<Chunk>();
  /** the keys of the types of signals that the line is about */
  #types: readonly string[] = [];
  #cost = 0;
  #isRefused = false;

  constructor(chunks: readonly Chunk[]) {
    this.chunks = chunks;
  }

  use(...chunks: readonly (Chunk | undefined)[]): void {
    for (const chunk of chunks) if (chunk) this.#used.add(chunk);
  }

  /** Takes what the line is about. */
  head(chunk: Chunk | undefined): void {
    this.use(chunk);
    if (chunk) this.#heads.add(chunk);
  }

  isUsed(chunk: Chunk): boolean {
    return this.#used.has(chunk);
  }

  unused(within: readonly Chunk[] = this.chunks): readonly Chunk[] {
    return within.filter((chunk) => !this.#used.has(chunk));
  }

  /** Whether the pieces cannot be one line, since a "not" stands between them. */
  get isRefused(): boolean {
    return this.#isRefused;
  }

  /** What of the phrase is left that should have meant something. Of joints those count that part what was read. */
  get unread(): readonly Chunk[] {
    const [first, last] = [
      this.chunks.findIndex((chunk) => this.#used.has(chunk)),
      this.chunks.findLastIndex((chunk) => this.#used.has(chunk)),
    ];
    return this.chunks.filter((chunk, index) => {
      if (this.#used.has(chunk) || chunk.kind === 'filler') return false;
      if (chunk.kind === 'joint') return index > first && index < last && chunk.text !== ',';
      // `formerly in Sweden` is not so any more.
      if (chunk.cue === 'ever' && NO_LONGER.test(chunk.text)) return true;
      return !(chunk.kind === 'cue' && chunk.cue && BETWEEN.has(chunk.cue));
    });
  }

  /** The more of the phrase a reading makes use of, the better it is; what it leaves out counts heavily. */
  get score(): number {
    const read = this.chunks.filter((chunk) => this.#used.has(chunk) && chunk.kind !== 'joint').reduce((sum, chunk) => sum + chunk.size, 0);
    const unread = this.unread.reduce((sum, chunk) => sum + (chunk.kind === 'cue' ? 1 : 3 * chunk.size), 0);
    return read - unread - this.#cost;
  }

  /** A reading that is less likely than its words say. */
  doubt(cost: number): void {
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

  /** Takes a word that is no cue by itself. */
  takeWord(word: RegExp): boolean {
    const chunk = this.chunks.find((each) => word.test(each.text) && !this.#used.has(each));
    this.use(chunk);
    return chunk !== undefined;
  }

  /** Takes a cue however often it stands there. */
  takeCues(cue: Cue): boolean {
    const isThere = this.takeCue(cue);
    while (this.takeCue(cue));
    return isThere;
  }

  /**
   * Whether it is said that it is not so. A "not" is about what follows it: where something stands before it and something behind it, these are
   * two lines and not one, so the reading is refused. Two that follow each other are none.
   */
  takeNot(within: readonly Chunk[] = this.chunks): boolean {
    const nots = within.filter((chunk) => chunk.kind === 'not' && !this.#used.has(chunk));
    const [first, last] = [nots[0], nots.at(-1)];
    if (!first || !last) return false;
    this.use(...nots);
    const isContent = (chunk: Chunk): boolean => CONTENT.has(chunk.kind) && !this.#heads.has(chunk);
    const [from, to] = [within.indexOf(first), within.indexOf(last)];
    const isBefore = within.slice(0, from).some(isContent);
    const between = within.slice(from, to);
    // `no deals, companies without deals`: across a joint they are said of two things, and do not cancel out.
    const isBetween = between.some((chunk) => isContent(chunk) || this.#heads.has(chunk) || chunk.kind === 'joint');
    // `at least 3 times without ordering`: the number is of something else.
    const isCounted =
      within.slice(0, from).some(({ kind }) => kind === 'limit') && within.slice(to).some((chunk) => this.#heads.has(chunk));
    // `has the tag, but not since May`: what stands before it is so.
    // `does not only throw`: what else they do is not said.
    if (/^(only|just|merely)$/i.test(within[to + 1]?.text ?? '')) this.#isRefused = true;
    const isApart = within[from - 1]?.kind === 'joint' && within.slice(0, from - 1).some((chunk) => this.#heads.has(chunk));
    if (isApart || isBetween || isCounted || (isBefore && within.slice(to).some(isContent))) this.#isRefused = true;
    return nots.length % 2 === 1;
  }

  takeWindow(within: readonly Chunk[] = this.chunks): Window | undefined {
    const chunk = this.unused(within).find((each) => each.kind === 'window');
    this.use(chunk);
    return chunk?.window;
  }

  /**
   * Since when something stands. `for a week` is since a week ago or earlier; of what does not stand it would say something else, and is left.
   */
  takeSince(isNot: boolean): Window | undefined {
    const chunk = this.unused().find((each) => each.kind === 'window');
    const window = chunk?.window;
    const isFor =
      /^for (?!less|under|fewer|below|within|not|no|at most|up|<)/i.test(chunk?.text ?? '') &&
      typeof window === 'object' &&
      'last' in window;
    if (isFor && isNot) return undefined;
    this.use(chunk);
    return isFor ? { olderThan: window.last, unit: window.unit } : window;
  }

  /** The pieces cannot be one line. */
  refuse(): void {
    this.#isRefused = true;
  }

  takeLimit(within: readonly Chunk[] = this.chunks): Limit | undefined {
    const chunk = this.unused(within).find((each) => each.kind === 'limit');
    this.use(chunk);
    return chunk?.limit;
  }

  /** All things of a kind for which something holds, each by its first such meaning, with what joins them. */
  takeAll<Kind extends Meaning['kind']>(
    kind: Kind,
    fits: (meaning: MeaningOf<Kind>) => boolean = () => true,
    within: readonly Chunk[] = this.chunks,
  ): MeaningOf<Kind>[] {
    const found = this.unused(within).flatMap((chunk) => {
      const meaning = chunk.meanings.find((each): each is MeaningOf<Kind> => each.kind === kind && fits(each as MeaningOf<Kind>));
      return meaning ? [{ chunk, meaning }] : [];
    });
    this.join(found.map(({ chunk }) => chunk));
    return found.map(({ meaning }) => meaning);
  }

  /** Takes values of one line, and what joins one to the next. */
  join(values: readonly Chunk[]): void {
    this.use(...values);
    for (const [index, value] of values.entries()) {
      const next = values[index + 1];
      if (!next) break;
      const between = this.chunks.slice(this.chunks.indexOf(value), this.chunks.indexOf(next));
      // `from in talks to customer, and who is a regular`, `Mill End but lives abroad`: another line begins there.
      const isApart = between.some(({ text }) => /^(but|who)$/i.test(text)) && !between.some(({ kind }) => kind === 'not');
      // `was in talks but is a customer now` is one.
      if (isApart && !this.chunks.some(({ text }) => WAS.test(text))) this.refuse();
      this.use(...between.filter((chunk) => chunk.kind === 'joint'));
    }
  }

  /**
   * What is left as text: words that stand together are one value, and what "or" or a comma parts are several.
   *
   * @param within where to look
   * @param isKnown whether a chunk is known to be one of these texts, so that nothing else needs to be meant by it
   */
  takeTexts(within: readonly Chunk[] = this.chunks, isKnown: (chunk: Chunk) => boolean = () => false): string[] {
    this.passOver(within);
    const texts: Chunk[][] = [];
    const taken: Chunk[] = [];
    let isOpen = false;
    /** right behind the word of what happened, or another text, it can hardly be anything else */
    let isDirect = false;
    /** behind an "or" it may be another line as well */
    let isAfterOr = false;
    for (const [at, chunk] of within.entries()) {
      // `no city, email or phone`: behind a joint a fact is one of its own.
      const isAnotherFact = this.#types.length === 0 && within[at - 1]?.kind === 'joint' && meaningOf(chunk, 'field') !== undefined;
      if (
        !this.#used.has(chunk) &&
        !isAnotherFact &&
        !isNoName(chunk, {
          within,
          types: this.#types,
          isOpen,
          isDirect,
          isAfterOr,
          isKnown: isKnown(chunk),
          last: taken.at(-1),
        }) &&
        (chunk.kind === 'free' || (chunk.kind === 'thing' && !meaningOf(chunk, 'signal') && !meaningOf(chunk, 'planEnd')))
      ) {
        if (!isOpen) texts.push([]);
        texts.at(-1)?.push(chunk);
        taken.push(chunk);
        if (chunk.kind === 'thing' && !isDirect && !isKnown(chunk) && !chunk.meanings.every(({ kind }) => NAMES_TOO.has(kind)))
          this.#cost += AS_TEXT * chunk.size;
        isOpen = true;
        isDirect = true;
      } else if (isOpen && chunk.kind === 'cue' && chunk.cue === 'audience' && chunk.size === 1) {
        // A price list is no list of people.
        texts.at(-1)?.push(chunk);
        taken.push(chunk);
      } else if (isOpen && isHyphen(within, chunk)) {
        texts.at(-1)?.push(chunk);
        this.use(chunk);
      } else if (chunk.kind === 'filler') {
        if (!/^(of|the|a|an)$/i.test(chunk.text)) isOpen = false;
        isDirect = SAYS_SO.test(chunk.text) || (isDirect && ARTICLE.test(chunk.text));
      } else {
        isOpen = false;
        isAfterOr = chunk.joint === 'or';
        isDirect =
          (isDirect && (chunk.kind === 'limit' || /^(no|none)$/i.test(chunk.text))) ||
          meaningOf(chunk, 'signal') !== undefined ||
          chunk.joint === 'or' ||
          chunk.cue === 'contains' ||
          chunk.cue === 'line' ||
          chunk.cue === 'product';
      }
    }
    this.join(taken);
    return texts.map((words) => asTyped(words).replace(/^the (?=\S)/i, ''));
  }

  /** Says by their keys of which types of signals the line is. */
  isOfTypes(keys: readonly string[]): void {
    this.#types = keys;
  }

  /** Nouns that go with what happened and name nothing in particular: nobody finishes a form where a course is meant. */
  passOver(within: readonly Chunk[]): void {
    for (const [at, chunk] of within.entries())
      if (
        chunk.size === 1 &&
        !meaningOf(chunk, 'signal') &&
        !this.#isOfAFact(within[at - 1]) &&
        !isHadBehindAJoint(within, at) &&
        // `no city, has email`: that is a fact of its own.
        !(this.#types.length === 0 && meaningOf(chunk, 'field')) &&
        !isPartOfAName(within, chunk) &&
        (GENERAL_NOUNS.has(stem(chunk.text)) || this.#isAnyPlan(chunk) || this.#isAnyEvent(chunk, within[within.indexOf(chunk) - 1])) &&
        !isOfOthers(chunk, this.#types) &&
        !this.#isTag(chunk)
      )
        this.use(chunk);
  }

  /** `campaign source is newsletter`: right behind a fact or its “is” a noun is what it is. */
  #isOfAFact(before: Chunk | undefined): boolean {
    return this.#types.length === 0 && before !== undefined && (SAYS_SO.test(before.text) || meaningOf(before, 'field') !== undefined);
  }

  /** `cancelled their subscription`: no plan is called so. */
  #isAnyPlan({ text }: Chunk): boolean {
    return /^subscriptions?$/i.test(text) && this.#types.length > 0 && this.#types.every((key) => key.startsWith('plan.'));
  }

  /** `came to two classes`: where no event is known by that word, each of them is one. */
  #isAnyEvent(chunk: Chunk, before: Chunk | undefined): boolean {
    const isEvent = this.#types.length > 0 && this.#types.every((key) => key.startsWith('event.'));
    const isEvening = /^evenings?$/i.test(chunk.text) && (/^an$/i.test(before?.text ?? '') || before?.kind === 'limit');
    // What is bought by that word is no event.
    const isKnown = chunk.meanings.some((each) => each.kind === 'detail' && each.path === 'event');
    if (!isEvent || isKnown) return false;
    return isEvening || /^(class|workshop|lesson|session)$/.test(stem(chunk.text).replace(/classe$/, 'class'));
  }

  /** `members who never ordered`: of what is not about plans a member is said to be one. */
  #isTag(chunk: Chunk): boolean {
    return meaningOf(chunk, 'tag') !== undefined && !this.#types.some((key) => key.startsWith('plan.'));
  }

  isJoinedBy(joint: 'and' | 'or'): boolean {
    return this.chunks.some((chunk) => chunk.joint === joint && chunk.text !== ',');
  }
}

/** `inactive for 45 days, has a plan`: that is said of nothing that stands before it. */
function isHadBehindAJoint(chunks: readonly Chunk[], at: number): boolean {
  const before = chunks.slice(0, at).filter(({ text }) => !/^(an?|the|any|some)$/i.test(text));
  return /^(has|have|having|with)$/i.test(before.at(-1)?.text ?? '') && before.at(-2)?.kind === 'joint';
}
