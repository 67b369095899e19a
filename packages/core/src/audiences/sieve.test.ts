import fc from 'fast-check';
import {
  Decided,
  holds,
  Moment,
  orThrow,
  prepare,
  sieveList,
  sieveTests,
  type Condition,
  type ConditionNode,
  type SubjectState,
} from '../index.ts';
import { catalogue, conditions, contacts, DAY, NOW, NUMBER_FIELD, stateOf, typeId, ZONE } from '../testing/world.ts';
import { newcomer, signalOf } from '../testing/engine.ts';

type GroupNode = Extract<ConditionNode, { kind: 'group' }>;

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 400);
const moment = new Moment(NOW, ZONE);
const groupOf = (match: 'all' | 'any' | 'none', ...of: readonly Condition[]): GroupNode =>
  orThrow(prepare({ match, of: [...of] }, catalogue)) as GroupNode;
const holdsFor = (node: ConditionNode, state: SubjectState): boolean => holds(node, state, moment);

/** Somebody with a number, and so many orders, the last of them so many days ago. */
function person(number: number | undefined, orders = 0, daysAgo = 1): SubjectState {
  const state = newcomer();
  if (number !== undefined) state.facts.set(NUMBER_FIELD, number * 1_000_000);
  for (let index = 0; index < orders; index += 1) state.addSignal(signalOf('order.placed', { order: String(index) }, NOW - daysAgo * DAY));
  return state;
}

const moreThanOne: Condition = { kind: 'field', of: 'contact', field: NUMBER_FIELD, op: '>', value: 1 };
const tooFewLately: Condition = {
  kind: 'signal',
  type: typeId('order.placed'),
  count: { op: '=', value: 0 },
  within: { last: 30, unit: 'days' },
};
const ordersAtLeast = (value: number): Condition => ({ kind: 'signal', type: typeId('order.placed'), count: { op: '>=', value } });

describe('the lists beside a line', () => {
  it('of those held back by it alone are who would come through without it and do not with it', () => {
    let missed = 0;
    fc.assert(
      fc.property(
        fc.constantFrom('all' as const, 'none' as const),
        fc.array(conditions, { minLength: 1, maxLength: 4 }),
        fc.array(contacts, { minLength: 1, maxLength: 5 }),
        (match, of, world) => {
          const group = groupOf(match, ...of);
          for (const [at, made] of world.entries()) {
            const state = stateOf(made, at + 1);
            group.of.forEach((_line, index) => {
              const list = sieveList(group, index, 'missed') as ConditionNode;
              const without: GroupNode = { ...group, of: group.of.filter((_, each) => each !== index) };
              const expected = holdsFor(without, state) && !holdsFor(group, state);
              expect(holdsFor(list, state)).toBe(expected);
              if (expected) missed += 1;
            });
          }
        },
      ),
      { numRuns: RUNS },
    );
    expect(missed).toBeGreaterThan(RUNS / 4);
  });

  it('are counted by the sieve with the same conditions', () => {
    fc.assert(
      fc.property(fc.array(conditions, { minLength: 1, maxLength: 3 }), fc.array(contacts, { minLength: 1, maxLength: 5 }), (of, world) => {
        const group = groupOf('all', ...of);
        const states = world.map((made, at) => stateOf(made, at + 1));
        const count = (node: ConditionNode | undefined): number | null =>
          node ? states.filter((state) => holdsFor(node, state)).length : null;
        const { nodes, deciding, read } = sieveTests(group);
        const decided = new Decided(deciding.of.length);
        for (const state of states) decided.ask(deciding, (index) => holdsFor(nodes[index] as ConditionNode, state));
        read((index) => count(nodes[index]) as number, decided).forEach((line, index) => {
          expect([line.onLimit, line.empty, line.never]).toEqual(
            (['limit', 'empty', 'never'] as const).map((list) => count(sieveList(group, index, list))),
          );
          const all = states.filter((state) => holdsFor(group, state)).length;
          expect(line.others - all).toBe(count(sieveList(group, index, 'missed')));
        });
      }),
      { numRuns: RUNS },
    );
  });

  it('of an "any" group hold nobody back by one line', () => {
    expect(sieveList(groupOf('any', moreThanOne, tooFewLately), 0, 'missed')).toBeUndefined();
  });

  it('of a line that is not there, and of a group inside, are none', () => {
    const group = groupOf('all', { match: 'any', of: [moreThanOne] });
    expect(sieveList(group, 5, 'missed')).toBeUndefined();
    for (const list of ['limit', 'empty', 'never'] as const) expect(sieveList(group, 0, list)).toBeUndefined();
  });
});

describe('those on a limit', () => {
  it.each([
    ['of a number', moreThanOne, person(1), [person(0), person(2), person(undefined)]],
    ['of a count', ordersAtLeast(2), person(0, 2), [person(0, 1), person(0, 3)]],
  ])('%s stand exactly there', (_of, line, on, off) => {
    const list = sieveList(groupOf('all', line), 0, 'limit') as ConditionNode;
    expect(holdsFor(list, on)).toBe(true);
    expect(off.map((each) => holdsFor(list, each))).toEqual(off.map(() => false));
  });

  it('are none where the limit is to have done it at all', () => {
    expect(sieveList(groupOf('all', { kind: 'signal', type: typeId('order.placed') }), 0, 'limit')).toBeDefined();
    expect(sieveList(groupOf('all', tooFewLately), 0, 'limit')).toBeUndefined();
  });
});

describe('those who never did it', () => {
  it('are told from those who did it, but not lately', () => {
    const group = groupOf('all', tooFewLately);
    const never = sieveList(group, 0, 'never') as ConditionNode;
    const [silent, long, lately] = [person(0), person(0, 1, 90), person(0, 1, 2)];
    expect([silent, long, lately].map((each) => holdsFor(group, each))).toEqual([true, true, false]);
    expect([silent, long, lately].map((each) => holdsFor(never, each))).toEqual([true, false, false]);
  });
});

describe('those without a value', () => {
  it('are those for whom a field is empty', () => {
    const empty = sieveList(groupOf('all', moreThanOne), 0, 'empty') as ConditionNode;
    expect([person(undefined), person(0), person(5)].map((each) => holdsFor(empty, each))).toEqual([true, false, false]);
  });

  it('are asked of either side of a comparison', () => {
    const compared: Condition = { kind: 'compare', left: { field: NUMBER_FIELD }, op: '>', right: { type: typeId('order.placed') } };
    const empty = sieveList(groupOf('all', compared), 0, 'empty') as ConditionNode;
    expect([person(undefined, 1), person(3, 0)].map((each) => holdsFor(empty, each))).toEqual([true, false]);
  });
});
