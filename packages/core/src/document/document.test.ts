import fc from 'fast-check';
import { catalogue, conditions } from '../testing/world.ts';
import {
  clauseOf,
  describe as words,
  isGroup,
  keyFrom,
  keySchema,
  laneOf,
  LANES,
  normalise,
  Decided,
  sieveTests,
  orThrow,
  prepare,
  toDocument,
  toDocumentItem,
  toStoredBody,
  holds,
  Moment,
  type AnyDefinition,
  type Condition,
  type ConditionNode,
  type Leaf,
} from '../index.ts';
import { stateOf } from '../testing/world.ts';
import { contacts, NOW, ZONE } from '../testing/world.ts';

describe('keys', () => {
  it('are made from any name, always fit, and are never taken twice', () => {
    expect([keyFrom('Glaze keepers'), keyFrom('  Ätt — 12% '), keyFrom('山田'), keyFrom('a', new Set(['a', 'a-2']))]).toEqual([
      'glaze-keepers',
      'att-12',
      'thing',
      'a-3',
    ]);
    fc.assert(fc.property(fc.string({ unit: 'grapheme' }), (name) => expect(keySchema.safeParse(keyFrom(name)).success).toBe(true)));
  });
});

describe('lanes', () => {
  it('spread contacts evenly, however their ids run', () => {
    const filled = new Array<number>(LANES).fill(0);
    for (let id = 1; id <= 64_000; id += 1) filled[laneOf(id)] = (filled[laneOf(id)] ?? 0) + 1;
    expect(Math.min(...filled)).toBeGreaterThan(900);
    expect(Math.max(...filled)).toBeLessThan(1_100);
  });
});

describe('the document', () => {
  it('gives back every definition as it was stored', () => {
    fc.assert(
      fc.property(conditions, (condition) => {
        const normal = normalise(condition, catalogue);
        const definition = {
          id: 90,
          kind: 'audience',
          key: 'x',
          name: 'X',
          version: 1,
          retired: false,
          epoch: 0,
          body: { kind: 'live', of: 'contact', condition: normal },
        } as unknown as AnyDefinition;
        const { key: _key, name: _name, ...written } = toDocumentItem(definition, catalogue);
        expect(toStoredBody('audience', JSON.parse(JSON.stringify(written)), catalogue, [])).toEqual({ ok: true, value: definition.body });
      }),
      { numRuns: 300 },
    );
    expect(Object.keys(toDocument(catalogue))).toEqual(
      expect.arrayContaining(['language', 'fields', 'tags', 'forms', 'audiences', 'scorecards']),
    );
  });
});

describe('a sentence', () => {
  it('leaves no line out', () => {
    fc.assert(
      fc.property(conditions, (condition) => {
        const sentence = words(condition, catalogue);
        const lines = (each: Condition): readonly Leaf[] => (isGroup(each) ? each.of.flatMap(lines) : [each]);
        for (const line of lines(condition)) expect(sentence).toContain(clauseOf(line, catalogue, 'many').text);
        expect(sentence).not.toMatch(/undefined|\[object|NaN/);
        expect(sentence.endsWith('.')).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
});

const matches = fc.constantFrom('all' as const, 'any' as const, 'none' as const);

describe('the sieve', () => {
  it('counts what a count one by one counts: alone, in order, all but one, and on the limit', () => {
    fc.assert(
      fc.property(
        matches,
        fc.array(conditions, { minLength: 1, maxLength: 4 }),
        fc.array(contacts, { minLength: 1, maxLength: 6 }),
        (match, of, world) => {
          const group = orThrow(prepare({ match, of }, catalogue)) as Extract<ConditionNode, { kind: 'group' }>;
          const moment = new Moment(NOW, ZONE);
          const states = world.map((made, index) => stateOf(made, index + 1));
          const counted = (node: ConditionNode): number => states.filter((state) => holds(node, state, moment)).length;
          const tests = sieveTests(group);
          const decided = new Decided(tests.deciding.of.length);
          for (const state of states) decided.ask(tests.deciding, (index) => holds(tests.nodes[index] as ConditionNode, state, moment));
          const lines = tests.read((index) => counted(tests.nodes[index] as ConditionNode), decided);
          lines.forEach((line, index) => {
            const passes = (except: number, until: number) => {
              const some = group.of.filter((_, at) => at !== except && at <= until);
              return counted({ kind: 'group', match, of: some });
            };
            const alone = counted(group.of[index] as ConditionNode);
            expect(line.alone).toBe(match === 'none' ? states.length - alone : alone);
            expect(line.remain).toBe(passes(-1, index));
            expect(line.others).toBe(passes(index, group.of.length));
            if (line.empty !== null) expect(line.empty).toBeLessThanOrEqual(states.length);
          });
          expect(lines.at(-1)?.remain).toBe(counted(group));
        },
      ),
      { numRuns: 200 },
    );
  });
});
