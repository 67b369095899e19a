import fc from 'fast-check';
import { Catalogue, Compiled, pass, passBack, type AnyDefinition, type Change, type Condition, type RuleAction } from '../index.ts';
import { BARE, ruleOf } from '../testing/engine.ts';
import { COMPANY_NUMBER, definition, NOW, WORKSPACE } from '../testing/world.ts';
import { circlesIn } from './circles.ts';
import { MadeUpWorld } from './made-up-world.ts';
import { reachedFrom, setsOff } from './rule-graph.ts';
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
      { rules: [100, 101], verdict: 'proved', witness: { of: 'contact', before: [], change: ['the tag fam.one'], round: [100, 101] } },
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

  it('are found where only somebody with a pin goes round, and left open where points are given as well', () => {
    const without = definition(91, 'audience', 'without', 'Without', { kind: 'live', of: 'contact', condition: lacks(31) });
    const inside: Condition = { kind: 'audience', audience: 91, op: 'in' };
    const rules = [rule(100, all(has(30), inside), remove(30), add(31)), rule(101, lacks(30), add(30))];
    const [found] = circles(without, ...rules);
    expect(found?.verdict).toBe('proved');
    expect([...(found?.witness?.before ?? []), ...(found?.witness?.change ?? [])]).toContain('a pin in Without');
    const card = definition(40, 'scorecard', 'card', 'Liking', {
      ...{ of: 'contact', min: 0, max: 30, bands: [{ key: 'low', name: 'low', from: 0 }] },
      lines: [{ key: 'one', kind: 'fact', condition: lacks(30), points: 20, stands: 'while' }],
    });
    const high: Condition = { kind: 'score', scorecard: 40, op: '>', value: 10 };
    const quiet = [card, rule(100, all(high, has(31)), add(30)), rule(101, all(has(30), lacks(30)), remove(30))];
    const given = ruleOf(103, { when: { kind: 'sweep' }, then: [{ do: 'give points', scorecard: 40, points: 5, keeps: 'forever' }] });
    expect(circles(...quiet).map(({ verdict }) => verdict)).not.toContain('possible');
    expect(circles(...quiet, given).map(({ verdict }) => verdict)).toContain('possible');
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

  const sizeOf = (op: string, value?: number): Condition => ({
    kind: 'field',
    of: 'company',
    field: COMPANY_NUMBER,
    op,
    ...(value === undefined ? {} : { value }),
  });
  const resize = (value: number): RuleAction => ({ do: 'set company field', field: COMPANY_NUMBER, value });
  const ofCompany = (id: number, condition: Condition, ...then: RuleAction[]): AnyDefinition =>
    ruleOf(id, { of: 'company', when: { kind: 'becomes', condition }, then });

  it('are found among rules of companies, and ruled out there', () => {
    const shrink = ofCompany(100, sizeOf('>', 5), resize(1));
    const [proved] = circles(shrink, ofCompany(101, sizeOf('<', 3), resize(9)));
    expect(proved).toEqual({
      rules: [100, 101],
      verdict: 'proved',
      witness: { of: 'company', before: [], change: ['number 0'], round: [101, 100] },
    });
    expect(circles(shrink, ofCompany(101, sizeOf('<', 3), resize(4)))).toEqual([{ rules: [100, 101], verdict: 'ruled out' }]);
  });

  it('are found where contacts and their company set each other off', () => {
    const list = definition(90, 'audience', 'list', 'The list', { kind: 'fixed', of: 'contact' });
    const on: Condition = { kind: 'audience', audience: 90, op: 'in' };
    const off: Condition = { kind: 'audience', audience: 90, op: 'out' };
    const [puts, takes] = [
      ofCompany(100, sizeOf('>', 5), { do: 'put on list', audience: 90 }),
      ofCompany(101, sizeOf('<', 3), { do: 'take off list', audience: 90 }),
    ];
    const [shrinks, grows] = [rule(102, on, resize(1)), rule(103, off, resize(9))];
    expect(circles(list, puts, takes, shrinks, grows)).toMatchObject([
      { rules: [100, 101, 102, 103], verdict: 'proved', witness: { round: expect.arrayContaining([100, 101, 102, 103]) } },
    ]);
    expect(circles(list, puts, takes, shrinks)).toMatchObject([{ verdict: 'possible' }]);
    expect(circles(list, puts, takes)).toEqual([]);
  });

  it('are found where it takes two contacts of a company', () => {
    const found = circles(
      rule(100, all(sizeOf('=', 1), has(30), lacks(31)), resize(2)),
      rule(101, all(sizeOf('=', 2), has(31), lacks(30)), resize(1)),
    );
    expect(found).toMatchObject([
      { verdict: 'proved', witness: { before: expect.arrayContaining([expect.stringContaining('a colleague with the tag fam.')]) } },
    ]);
  });

  it('are never met by companies and their contacts where none are seen', () => {
    const ofOne = fc.constantFrom<Condition>(has(30), lacks(30), has(31), sizeOf('>', 5), sizeOf('<=', 5), sizeOf('is empty'));
    const ofFirm = fc.constantFrom<Condition>(
      ...[sizeOf('>', 5), sizeOf('<=', 5), sizeOf('is empty')],
      ...[has(30), lacks(31)].map((condition): Condition => ({ kind: 'contacts', condition })),
    );
    const joined = (leaf: fc.Arbitrary<Condition>) => fc.array(leaf, { minLength: 1, maxLength: 2 }).map((of) => all(...of));
    const acts = fc.constantFrom<RuleAction>(add(30), remove(30), add(31), remove(31), resize(3), resize(8));
    const firmActs = fc.constantFrom<RuleAction>(resize(3), resize(8), { do: 'clear field', field: COMPANY_NUMBER });
    const some = fc.array(
      fc.oneof(
        fc.record({ of: fc.constant('contact' as const), condition: joined(ofOne), then: fc.array(acts, { minLength: 1, maxLength: 2 }) }),
        fc.record({
          of: fc.constant('company' as const),
          condition: joined(ofFirm),
          then: fc.array(firmActs, { minLength: 1, maxLength: 1 }),
        }),
      ),
      { minLength: 1, maxLength: 3 },
    );
    // Two rules that undo each other through the company are a circle, unless others come between.
    const round = [
      { of: 'contact' as const, condition: all(sizeOf('>', 5)), then: [resize(3)] },
      { of: 'contact' as const, condition: all(sizeOf('<=', 5)), then: [resize(8)] },
    ];
    const bodies = fc.tuple(some, fc.boolean()).map(([rules, goRound]) => [...rules, ...(goRound ? round : [])]);
    const byHand = fc.record({
      who: fc.constantFrom(0, 1, 2),
      tag: fc.constantFrom(30, 31),
      adds: fc.boolean(),
      size: fc.constantFrom(undefined, 3, 5, 8),
    });
    let [met, quiet] = [0, 0];
    fc.assert(
      fc.property(bodies, fc.array(byHand, { minLength: 6, maxLength: 14 }), (rules, acted) => {
        const set = compiled(
          ...rules.map(({ of, condition, then }, index) => ruleOf(100 + index, { of, when: { kind: 'becomes', condition }, then })),
        );
        const found = circlesIn(set, NOW, 2_000);
        const graph = setsOff(set);
        const seen = new Set(found.filter(({ verdict }) => verdict !== 'ruled out').flatMap((circle) => circle.rules));
        const world = new MadeUpWorld(set, NOW, { company: true, contacts: 3 });
        world.settle();
        for (const { who, tag, adds, size } of acted) {
          const contact = world.contacts[who];
          const change: Change = adds
            ? { kind: 'tag', tag, add: true, reason: { kind: 'hand', ref: 'x' } }
            : { kind: 'tag', tag, add: false, reasons: 'all' };
          const grown: Change = {
            kind: 'field',
            field: COMPANY_NUMBER,
            value: size === undefined ? undefined : { fact: size * 1_000_000 },
          };
          const effects = [
            ...(contact ? world.change(contact, [change]) : []),
            ...(world.company ? world.change(world.company, [grown]) : []),
          ];
          const went = effects.filter(({ verb }) => verb === 'circling').map(({ rule: by, definitionId }) => by?.id ?? definitionId);
          // What a circle sets off over and over again is stopped as well.
          for (const id of went) expect([...seen].some((each) => each === id || reachedFrom(each, graph).has(id ?? -1))).toBe(true);
          if (went.length > 0) met += 1;
        }
        if (seen.size === 0) quiet += 1;
      }),
      { numRuns: RUNS },
    );
    expect(met).toBeGreaterThan(0);
    expect(quiet).toBeGreaterThan(0);
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
    const round = [
      { when: all(has(30), lacks(31)), if: undefined, then: [add(31)] },
      { when: has(31), if: undefined, then: [remove(31)] },
    ];
    const rulesOf = fc
      .tuple(fc.array(one, { minLength: 1, maxLength: 3 }), fc.integer({ min: 0, max: 4 }))
      .map(([some, dice]) => (dice === 0 ? [...some, ...round] : some));
    let [proved, ruledOut] = [0, 0];
    fc.assert(
      fc.property(rulesOf, fc.array(lived, { minLength: 12, maxLength: 12 }), (bodies, lives) => {
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
