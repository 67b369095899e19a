import fc from 'fast-check';
import { Catalogue, Compiled, pass, passBack, type AnyDefinition, type Change, type Condition, type RuleAction } from '../index.ts';
import { BARE, ruleOf } from '../testing/engine.ts';
import { definition, NOW, WORKSPACE } from '../testing/world.ts';
import { circlesIn } from './circles.ts';
import { SubjectState } from './state.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 40);
const has = (tag: number): Condition => ({ kind: 'tag', tag, op: 'has' });
const lacks = (tag: number): Condition => ({ kind: 'tag', tag, op: 'lacks' });
const all = (...of: Condition[]): Condition => ({ match: 'all', of });
const rule = (id: number, condition: Condition, ...then: RuleAction[]): AnyDefinition =>
  ruleOf(id, { when: { kind: 'becomes', condition }, then });
const compiled = (...definitions: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...BARE, ...definitions]), 1);
const add = (tag: number): RuleAction => ({ do: 'add tag', tag });
const remove = (tag: number): RuleAction => ({ do: 'remove tag', tag });
const circles = (...definitions: readonly AnyDefinition[]) => circlesIn(compiled(...definitions), NOW);

describe('circles of rules', () => {
  it('are proved by a contact who goes round, with how they were, what changed and which rules ran', () => {
    const found = circles(rule(100, all(has(30), lacks(31)), add(31)), rule(101, has(31), remove(31)));
    expect(found).toEqual([
      { rules: [100, 101], verdict: 'proved', witness: { before: [], change: ['the tag fam.one'], round: [100, 101] } },
    ]);
  });

  it('are ruled out where what one does keeps the other from running again', () => {
    const found = circles(rule(100, all(has(30), lacks(31)), add(31)), rule(101, has(31), remove(30), remove(31)));
    expect(found).toEqual([{ rules: [100, 101], verdict: 'ruled out' }]);
  });

  it('go through audiences and scores', () => {
    const card = definition(40, 'scorecard', 'card', 'Liking', {
      ...{ of: 'contact', min: 0, max: 30 },
      bands: [
        { key: 'low', name: 'low', from: 0 },
        { key: 'top', name: 'top', from: 10 },
      ],
      lines: [{ key: 'one', kind: 'fact', condition: lacks(30), points: 20, stands: 'while' }],
    });
    const keen = definition(91, 'audience', 'keen', 'Keen', {
      ...{ kind: 'live', of: 'contact' },
      condition: { kind: 'band', scorecard: 40, op: 'is', value: 'top' },
    });
    const found = circles(card, keen, rule(100, { kind: 'audience', audience: 91, op: 'in' }, add(30)), rule(101, has(30), remove(30)));
    expect(found).toMatchObject([{ rules: [100, 101], verdict: 'proved' }]);
  });

  it('are not seen in rules that lead nowhere back, are off, or stop by themselves', () => {
    expect(circles(rule(100, has(30), add(31)), rule(101, has(31), { do: 'set stage', stage: 36 }))).toEqual([]);
    const [give, take] = [rule(100, all(has(30), lacks(31)), add(31)), rule(101, has(31), remove(31))];
    const off = { ...take, body: { ...take.body, on: false } } as AnyDefinition;
    expect(circles(give, off)).toEqual([{ rules: [100], verdict: 'ruled out' }]);
    const once = { ...take, body: { ...take.body, howOften: { limit: 1 } } } as AnyDefinition;
    expect(circles(give, once)).toMatchObject([{ verdict: 'ruled out' }]);
  });

  it('are possible where something decides that made-up contacts do not have', () => {
    const owned: Condition = { kind: 'owner', op: 'is filled' };
    const found = circles(rule(100, all(owned, has(30), lacks(31)), add(31)), rule(101, has(31), remove(31)));
    expect(found).toEqual([{ rules: [100, 101], verdict: 'possible' }]);
  });

  it('really circle where they are proved, and nobody ever does where they are ruled out or not seen', () => {
    const leaf: fc.Arbitrary<Condition> = fc.oneof(
      fc.constantFrom(has(30), lacks(30), has(31), lacks(31)),
      fc.constantFrom<Condition>({ kind: 'stage', op: 'is', value: 36 }, { kind: 'stage', op: 'is at least', value: 36 }),
      fc.constantFrom('>', '<=').map((op): Condition => ({ kind: 'field', of: 'contact', field: 11, op, value: 5 })),
    );
    const condition = fc.oneof(
      leaf,
      fc
        .tuple(fc.constantFrom('all', 'any', 'none'), fc.array(leaf, { minLength: 1, maxLength: 2 }))
        .map(([match, of]): Condition => ({ match, of }) as Condition),
    );
    const action: fc.Arbitrary<RuleAction> = fc.oneof(
      fc.constantFrom(add(30), remove(30), add(31), remove(31)),
      fc.constantFrom<RuleAction>({ do: 'set stage', stage: 35, backward: true }, { do: 'set stage', stage: 36 }),
      fc.constant<RuleAction>({ do: 'set field', field: 11, value: 5 }),
    );
    const any = fc.record({
      when: condition,
      if: fc.option(leaf, { nil: undefined }),
      then: fc.array(action, { minLength: 1, maxLength: 2 }),
    });
    // What undoes its own condition is half a circle.
    const halves = [
      { when: has(30), then: remove(30) },
      { when: lacks(30), then: add(30) },
      { when: has(31), then: remove(31) },
      { when: lacks(31), then: add(31) },
    ];
    const half = fc
      .record({ half: fc.constantFrom(...halves), also: fc.option(leaf, { nil: undefined }) })
      .map(({ half: { when, then }, also }) => ({ when: also ? all(when, also) : when, if: undefined, then: [then] }));
    const one = fc.oneof(any, { arbitrary: half, weight: 3 });
    const changes: fc.Arbitrary<Change> = fc.oneof(
      fc
        .record({ tag: fc.constantFrom(30, 31), add: fc.boolean() })
        .map(({ tag, add: adds }): Change =>
          adds ? { kind: 'tag', tag, add: true, reason: { kind: 'hand', ref: 'x' } } : { kind: 'tag', tag, add: false, reasons: 'all' },
        ),
      fc.constantFrom(undefined, 35, 36, 37).map((stage): Change => ({ kind: 'stage', stage, backward: true })),
      fc
        .constantFrom(undefined, 4, 5, 5.5, 6, 9)
        .map((fact): Change => ({ kind: 'field', field: 11, value: fact === undefined ? undefined : { fact } })),
    );
    const lived = fc.array(fc.array(changes, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 6 });
    let [proved, ruledOut] = [0, 0];
    fc.assert(
      fc.property(fc.array(one, { minLength: 1, maxLength: 3 }), fc.array(lived, { minLength: 12, maxLength: 12 }), (bodies, lives) => {
        const rules = bodies.map(({ when, if: only, then }, index) =>
          ruleOf(100 + index, { when: { kind: 'becomes', condition: when }, ...(only ? { if: only } : {}), then }),
        );
        const set = compiled(...rules);
        const found = circlesIn(set, NOW);
        for (const circle of found) {
          expect(circle.verdict).not.toBe('possible');
          if (circle.verdict === 'proved') expect(circle.witness?.round.length).toBeGreaterThan(0);
        }
        proved += found.filter(({ verdict }) => verdict === 'proved').length;
        ruledOut += found.filter(({ verdict }) => verdict === 'ruled out').length;
        if (found.some(({ verdict }) => verdict === 'proved')) return;
        for (const life of lives) {
          const state = new SubjectState({ id: 1, isNew: true, lastNow: NOW, dueAt: undefined, epoch: 1 });
          passBack(set, state, [], { kind: 'person', ref: 'x' }, NOW);
          for (const made of life) {
            const effects = pass(set, state, { kind: 'edit', changes: made, cause: { kind: 'person', ref: 'x' } }, NOW);
            expect(effects.filter(({ verb }) => verb === 'circling')).toEqual([]);
          }
        }
      }),
      { numRuns: RUNS },
    );
    expect(proved).toBeGreaterThan(0);
    expect(ruledOut).toBeGreaterThan(0);
  });
});
