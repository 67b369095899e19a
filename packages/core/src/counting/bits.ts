import { Decided, type Deciding } from '../audiences/sieve.ts';
import { type ConditionNode, type LeafNode } from '../conditions/node.ts';

const WORD = 32;

/** Which of the bits of a word is the lowest that is set. */
const lowestBit = (word: number): number => 31 - Math.clz32(word & -word);

/** A set of contacts or companies, a bit for each place. Sets that are taken together are of one size. */
export class Bits {
  readonly #words: Uint32Array;

  private constructor(words: Uint32Array) {
    this.#words = words;
  }

  /** @param size one more than the highest place that there can be */
  static none(size: number): Bits {
    return new Bits(new Uint32Array(Math.ceil(size / WORD)));
  }

  static of(places: Iterable<number>, size: number): Bits {
    const bits = Bits.none(size);
    for (const place of places) bits.#words[place >>> 5] = (bits.#words[place >>> 5] ?? 0) | (1 << (place & 31));
    return bits;
  }

  has(place: number): boolean {
    return ((this.#words[place >>> 5] ?? 0) & (1 << (place & 31))) !== 0;
  }

  /** Puts a place in or takes it out. For whoever keeps the set: to others it stands still. */
  put(place: number, isIn: boolean): void {
    const word = this.#words[place >>> 5] ?? 0;
    const bit = 1 << (place & 31);
    this.#words[place >>> 5] = isIn ? word | bit : word & ~bit;
  }

  /** A set of its own with the same places, and room for more. */
  copy(size: number): Bits {
    const copy = Bits.none(size);
    copy.#words.set(this.#words);
    return copy;
  }

  /** The set itself where it has room for so many already. */
  grown(size: number): Bits {
    return Math.ceil(size / WORD) === this.#words.length ? this : this.copy(size);
  }

  /** How much memory it takes, in bytes. */
  get bytes(): number {
    return this.#words.byteLength;
  }

  /** The places that are in, rising. */
  *places(): Generator<number> {
    for (let index = 0; index < this.#words.length; index += 1) {
      for (let word = this.#words[index] as number; word !== 0; word &= word - 1) yield index * WORD + lowestBit(word);
    }
  }

  /** The places that are in, falling. */
  falling(): Uint32Array {
    const places = new Uint32Array(this.count);
    let at = places.length;
    for (let index = 0; index < this.#words.length; index += 1) {
      for (let word = this.#words[index] as number; word !== 0; word &= word - 1) places[(at -= 1)] = index * WORD + lowestBit(word);
    }
    return places;
  }

  get count(): number {
    let count = 0;
    for (const word of this.#words) {
      // Bits are added up in parallel: in pairs, in fours, in bytes, and all bytes by one multiplication (Hacker's Delight, 5-1).
      let sum = word - ((word >>> 1) & 0x55555555);
      sum = (sum & 0x33333333) + ((sum >>> 2) & 0x33333333);
      sum = (sum + (sum >>> 4)) & 0x0f0f0f0f;
      count += Math.imul(sum, 0x01010101) >>> 24;
    }
    return count;
  }

  and(other: Bits): Bits {
    return new Bits(this.#words.map((word, index) => word & (other.#words[index] ?? 0)));
  }

  or(other: Bits): Bits {
    return new Bits(this.#words.map((word, index) => word | (other.#words[index] ?? 0)));
  }

  /** Those of this set that are not in another. */
  without(other: Bits): Bits {
    return new Bits(this.#words.map((word, index) => word & ~(other.#words[index] ?? 0)));
  }
}

interface Asked {
  readonly nodes: readonly ConditionNode[];
  readonly deciding: Deciding;
}

/**
 * Counts conditions, and which of them decided for whom, out of the sets of their lines: groups and sieves are operations on whole sets.
 *
 * @param everyone of whom it is asked
 * @param holding of whom each line holds, among everyone
 */
export function countSets(
  { nodes, deciding }: Asked,
  everyone: Bits,
  holding: (line: LeafNode) => Bits,
): { readonly counts: readonly number[]; readonly decided: Decided } {
  const sets = nodes.map((node) => setOf(node, everyone, holding));
  const decided = new Decided(deciding.of.length);
  let [once, again] = [everyone.without(everyone), everyone.without(everyone)];
  const firsts = deciding.of.map((index) => {
    const set = sets[index] ?? everyone.without(everyone);
    const decides = deciding.at ? set : everyone.without(set);
    const first = decides.without(once);
    again = again.or(once.and(decides));
    once = once.or(decides);
    return first;
  });
  firsts.forEach((first, line) => {
    const shared = first.and(again).count;
    decided.add(line, true, first.count - shared);
    decided.add(line, false, shared);
  });
  decided.add(deciding.of.length, false, everyone.count - once.count);
  return { counts: sets.map((set) => set.count), decided };
}

/** For whom a condition holds, out of the sets of its lines. */
export function setOf(node: ConditionNode, everyone: Bits, holding: (line: LeafNode) => Bits): Bits {
  if (node.kind !== 'group') return holding(node);
  const parts = node.of.map((each) => setOf(each, everyone, holding));
  if (node.match === 'all') return parts.reduce((all, part) => all.and(part), everyone);
  const any = parts.reduce((all, part) => all.or(part), everyone.without(everyone));
  return node.match === 'any' ? any : everyone.without(any);
}

/** The lines of conditions, each once. */
export function linesOf(nodes: readonly ConditionNode[]): ReadonlySet<LeafNode> {
  const lines = new Set<LeafNode>();
  const add = (node: ConditionNode): void => {
    if (node.kind === 'group') node.of.forEach(add);
    else lines.add(node);
  };
  nodes.forEach(add);
  return lines;
}
