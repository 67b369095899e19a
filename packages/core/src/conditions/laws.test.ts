import fc from 'fast-check';
import {
  changesAt,
  holds,
  lineText,
  Moment,
  normalise,
  opposite,
  operatorsOf,
  orThrow,
  parseCondition,
  passes,
  prepare,
  prepareTest,
  read,
  toKeys,
  type Condition,
  type ConditionNode,
  type Leaf,
  type SubjectKind,
  type SubjectState,
} from '../index.ts';
import {
  catalogue,
  companyConditions,
  companyLeaves,
  conditions,
  DAY,
  leaves,
  NOW,
  statesOf,
  worlds,
  ZONE,
  type MadeWorld,
} from '../testing/world.ts';
import { isOpposite } from './operators/operator.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 1_200);
const moment = new Moment(NOW, ZONE);
/** A line that was asked so often has met both. */
const OFTEN = 150;
/** What is asked of the generators is asked of the same draws every time: whether the lines are various is no matter of chance. */
const SEED = 11;

/** A world takes longer to make than a condition: so many are asked of each. */
const A_WORLD = 4;
const several = <T>(of: fc.Arbitrary<T>): fc.Arbitrary<T[]> => fc.array(of, { minLength: A_WORLD, maxLength: A_WORLD });

interface LawSubject {
  readonly kind: SubjectKind;
  readonly any: fc.Arbitrary<Condition>;
  readonly lines: fc.Arbitrary<Condition>;
  readonly of: (world: MadeWorld) => readonly SubjectState[];
}
const CONTACTS: LawSubject = { kind: 'contact', any: conditions, lines: leaves, of: (world) => statesOf(world).contacts };
const COMPANIES: LawSubject = { kind: 'company', any: companyConditions, lines: companyLeaves, of: (world) => statesOf(world).companies };

describe.each([CONTACTS, COMPANIES])('conditions on each $kind', ({ kind, any, lines, of }) => {
  it('are all true or false for everyone, and never throw', () => {
    let truths = 0;
    let asked = 0;
    fc.assert(
      fc.property(several(any), worlds, (all, world) => {
        const states = of(world);
        for (const condition of all) {
          const node = orThrow(prepare(condition, catalogue, kind));
          for (const state of states) {
            const truth = holds(node, state, moment);
            asked += 1;
            truths += truth ? 1 : 0;
            expect(typeof truth).toBe('boolean');
          }
        }
      }),
      { numRuns: Math.ceil(RUNS / A_WORLD) },
    );
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });

  it('are each true for some and false for others, whatever kind of line it is', () => {
    const seen = new Map<string, boolean[]>();
    fc.assert(
      fc.property(several(lines), worlds, (all, world) => {
        const states = of(world);
        for (const line of all) {
          const node = orThrow(prepare(line, catalogue, kind));
          const { kind: of_, op = '' } = line as Leaf & { op?: string };
          const truths = seen.get(`${of_} ${op}`) ?? [];
          for (const state of states) truths.push(holds(node, state, moment));
          seen.set(`${of_} ${op}`, truths);
        }
      }),
      { numRuns: 1_000, seed: SEED },
    );
    expect(seen.size).toBeGreaterThan(50);
    const often = [...seen].filter(([, truths]) => truths.length >= OFTEN);
    expect(often.length).toBeGreaterThan(6);
    expect(often.filter(([, truths]) => new Set(truths).size < 2).map(([line]) => line)).toEqual([]);
  });

  it('never change before they say they do', () => {
    const fractions = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 6 });
    fc.assert(
      fc.property(several(any), worlds, fractions, (all, world, parts) => {
        const state = of(world)[0] as SubjectState;
        for (const condition of all) {
          const node = orThrow(prepare(condition, catalogue, kind));
          const now = holds(node, state, moment);
          const until = Math.min(changesAt(node, state, moment), NOW + 800 * DAY);
          expect(until).toBeGreaterThan(NOW);
          for (const at of [...parts.map((part) => Math.floor(NOW + part * (until - NOW - 1))), until - 1])
            expect(holds(node, state, new Moment(at, ZONE))).toBe(now);
        }
      }),
      { numRuns: Math.ceil(RUNS / A_WORLD) },
    );
  });

  it('read back from what is written for them', () => {
    fc.assert(
      fc.property(lines, (leaf) => {
        const normal = normalise(leaf, catalogue) as Leaf;
        const text = lineText(normal, catalogue);
        expect({ text, leaf: read(text, catalogue, kind).leaf }).toEqual({ text, leaf: { ok: true, value: normal } });
      }),
      { numRuns: RUNS },
    );
  });

  it('turn into their exact opposite', () => {
    fc.assert(
      fc.property(several(lines), worlds, (all, world) => {
        const states = of(world);
        for (const leaf of all) {
          const turned = opposite(leaf as Leaf);
          if (turned === undefined) continue;
          const [there, back] = [leaf, turned].map((each) => orThrow(prepare(each, catalogue, kind)));
          for (const state of states)
            expect(holds(back as ConditionNode, state, moment)).toBe(!holds(there as ConditionNode, state, moment));
        }
      }),
      { numRuns: Math.ceil(RUNS / A_WORLD) },
    );
  });

  it('come back the same from keys', () => {
    fc.assert(
      fc.property(any, (condition) => {
        const normal = normalise(condition, catalogue);
        expect(orThrow(parseCondition(toKeys(normal, catalogue), catalogue, kind)).condition).toEqual(normal);
      }),
      { numRuns: RUNS },
    );
  });
});

it('reading a line never throws, whatever is typed', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.oneof(
          leaves.map((leaf) => lineText(normalise(leaf, catalogue) as Leaf, catalogue)),
          fc.string({ unit: 'grapheme' }),
        ),
        { maxLength: 3 },
      ),
      fc.nat(60),
      (parts, cut) => {
        const text = parts.join(' ').slice(0, cut);
        expect(typeof read(text, catalogue).leaf.ok).toBe('boolean');
      },
    ),
    { numRuns: RUNS },
  );
});

describe('counting no further than makes a difference', () => {
  it.each(Object.entries(operatorsOf.number).filter(([, entry]) => !isOpposite(entry)))('is settled from there on: %s', (op) => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 6 }), fc.integer({ min: 0, max: 6 }), fc.integer({ min: 0, max: 20 }), (one, other, count) => {
        const value = op === 'between' ? [Math.min(one, other), Math.max(one, other)] : one;
        const test = orThrow(prepareTest('number', op, value, { zone: ZONE, places: 0, path: [] }));
        if (test.ask !== 'operator' || !test.positive.enough) throw new Error(`${op} does not say when it is settled`);
        const enough = test.positive.enough(test.operand);
        expect(passes(test, Math.min(count, enough), moment)).toBe(passes(test, count, moment));
      }),
    );
  });
});
