import fc from 'fast-check';
import { type ConditionNode, type LeafNode } from '../conditions/node.ts';
import { Decided, sieveTests } from '../audiences/sieve.ts';
import { Bits, countSets, linesOf } from './bits.ts';

const SIZE = 100;
const places = fc.uniqueArray(fc.integer({ min: 0, max: SIZE - 1 }));

describe('a set of places', () => {
  it('is combined and counted as a set is', () => {
    fc.assert(
      fc.property(places, places, (a, b) => {
        const [x, y] = [Bits.of(a, SIZE), Bits.of(b, SIZE)];
        const inside = (bits: Bits): number[] => Array.from({ length: SIZE }, (_, place) => place).filter((place) => bits.has(place));
        const sorted = (list: number[]): number[] => [...list].sort((p, q) => p - q);
        expect([inside(x), x.count]).toEqual([sorted(a), a.length]);
        expect(inside(x.and(y))).toEqual(sorted(a.filter((place) => b.includes(place))));
        expect(inside(x.or(y))).toEqual(sorted([...new Set([...a, ...b])]));
        expect(inside(x.without(y))).toEqual(sorted(a.filter((place) => !b.includes(place))));
        expect(x.and(y).count + x.without(y).count).toBe(a.length);
      }),
    );
  });

  it('counts full words', () => {
    expect(
      Bits.of(
        Array.from({ length: 96 }, (_, place) => place),
        96,
      ).count,
    ).toBe(96);
  });
});

/** Lines stand for sets here: what they ask is of no account. */
const LINES = Array.from({ length: 5 }, (_, n) => ({ kind: 'tag', tag: n, op: 'has' }) as unknown as LeafNode);
const node: fc.Arbitrary<ConditionNode> = fc.letrec<{ node: ConditionNode }>((tie) => ({
  node: fc.oneof(
    { depthSize: 'small' },
    fc.constantFrom<ConditionNode>(...LINES),
    fc.record({
      kind: fc.constant('group' as const),
      match: fc.constantFrom('all', 'any', 'none'),
      of: fc.array(tie('node'), { maxLength: 4 }),
    }) as fc.Arbitrary<ConditionNode>,
  ),
})).node;
const group = fc.record({
  kind: fc.constant('group' as const),
  match: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
  of: fc.array(node, { minLength: 1, maxLength: 5 }),
});

const holds = (asked: ConditionNode, of: (line: LeafNode) => boolean): boolean => {
  if (asked.kind !== 'group') return of(asked);
  const parts = asked.of.map((each) => holds(each, of));
  return asked.match === 'all' ? parts.every(Boolean) : parts.some(Boolean) === (asked.match === 'any');
};

describe('counts out of the sets of lines', () => {
  it('are those of asking one after another, for conditions and for what decides in a sieve', () => {
    fc.assert(
      fc.property(group, places, fc.array(places, { minLength: 5, maxLength: 5 }), (condition, all, sets) => {
        const { nodes, deciding } = sieveTests(condition as Parameters<typeof sieveTests>[0]);
        const everyone = Bits.of(all, SIZE);
        const held = new Map(LINES.map((line, index) => [line, Bits.of(sets[index] ?? [], SIZE).and(everyone)]));
        const counted = countSets({ nodes, deciding }, everyone, (line) => held.get(line) ?? Bits.none(SIZE));
        const decided = new Decided(deciding.of.length);
        const counts = nodes.map(() => 0);
        for (const place of all) {
          const answers = nodes.map((each) => holds(each, (line) => held.get(line)?.has(place) ?? false));
          answers.forEach((is, index) => (counts[index] = (counts[index] ?? 0) + (is ? 1 : 0)));
          decided.ask(deciding, (index) => answers[index] === true);
        }
        expect(counted.counts).toEqual(counts);
        expect(counted.decided).toEqual(decided);
      }),
      { numRuns: 500 },
    );
  });

  it('ask each line once', () => {
    const [one, two] = LINES as [LeafNode, LeafNode];
    expect([...linesOf([one, { kind: 'group', match: 'any', of: [two, one] }])]).toEqual([one, two]);
  });
});
