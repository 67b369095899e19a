import fc from 'fast-check';
import { Catalogue, Compiled, Moment, pass, type AnyDefinition, type ConditionNode, type SubjectState } from '../index.ts';
import { bringingUp } from '../engine/at-once.ts';
import { conditions, DAY, definition, DEFINITIONS, NOW, statesOf, WORKSPACE, worlds, ZONE, type MadeWorld } from '../testing/world.ts';
import { ContactColumns } from './contact-columns.ts';
import { countTogether } from './count.ts';
import { LineSets } from './line-sets.ts';
import { movesOf, type KeptCondition } from './moves.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 600);
const EPOCH = 5;
const SAVED = 170;
const READER = 171;
const BUILD = { kind: 'build', cause: { kind: 'definition', ref: '1/1' } } as const;

const audience = (condition: unknown): AnyDefinition => ({
  ...definition(SAVED, 'audience', 'saved', 'Saved', { kind: 'live', of: 'contact', condition }),
  epoch: EPOCH,
});
const rule = (condition: unknown, more: object = {}): AnyDefinition => ({
  ...definition(SAVED, 'rule', 'saved', 'Saved', {
    of: 'contact',
    when: { kind: 'becomes', condition },
    then: [],
    howOften: {},
    on: true,
    position: 0,
    maxAgeDays: 7,
    beginsWith: 'from now on',
    ...more,
  }),
  epoch: EPOCH,
});
const compiledWith = (...saved: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, ...saved]), EPOCH);
const without = compiledWith();
const nodeOf = (compiled: Compiled): ConditionNode => (compiled.derived.find(({ id }) => id === SAVED) as KeptCondition).node;

/** What a contact had to do with the definition before it was saved as it is now. */
const befores = fc.infiniteStream(
  fc.record({
    isIn: fc.boolean(),
    due: fc.constantFrom(undefined, NOW + DAY / 2, NOW + 40 * DAY),
    pin: fc.option(fc.boolean(), { nil: undefined, freq: 4 }),
  }),
);
type Before = typeof befores extends fc.Arbitrary<fc.Stream<infer Value>> ? Value : never;

/** Everyone of the world as they stood after what was there before, twice alike. */
function standing(world: MadeWorld, given: readonly Before[], isAudience: boolean): readonly SubjectState[] {
  return statesOf(world).contacts.map((state, index) => {
    pass(without, state, BUILD, NOW - 1);
    state.epoch = EPOCH - 1;
    const { isIn, due, pin } = given[index] as Before;
    state.dueAt = due;
    if (isIn) state.memberships.set(SAVED, { since: NOW - DAY });
    if (pin !== undefined && isAudience) {
      state.pins.set(SAVED, { in: pin, until: undefined, reason: 'a test', since: NOW - DAY, by: 'ada@test.example' });
      if (pin) state.memberships.set(SAVED, { since: NOW - DAY });
      else state.memberships.delete(SAVED);
    }
    return state;
  });
}

describe('what bringing a condition up changes', () => {
  it('is for all at once what a pass of each would do: who joins, who leaves, and when the clock comes', () => {
    const seen = { joins: 0, leaves: 0, due: 0, asked: 0 };
    fc.assert(
      fc.property(worlds, conditions, befores, fc.boolean(), (world, condition, stream, isAudience) => {
        const befores = [...stream.take(world.contacts.length)];
        const saved = isAudience ? audience(condition) : rule(condition);
        const compiled = compiledWith(saved);
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const node = nodeOf(compiled);
        const columns = new ContactColumns();
        for (const state of standing(world, befores, isAudience)) columns.put(state);
        const moves = movesOf(new LineSets(columns), { id: SAVED, node }, new Moment(NOW, ZONE));

        const joins: number[] = [];
        const leaves: number[] = [];
        const [passed, control] = [standing(world, befores, isAudience), standing(world, befores, isAudience)];
        passed.forEach((state, index) => {
          const wasIn = state.memberships.has(SAVED);
          const effects = pass(compiled, state, BUILD, NOW);
          pass(without, control[index] as SubjectState, BUILD, NOW);
          const isIn = state.memberships.has(SAVED);
          if (isIn && !wasIn) joins.push(state.id);
          if (wasIn && !isIn) leaves.push(state.id);
          expect(effects.length).toBe(isAudience && wasIn !== isIn ? 1 : 0);
          const found = moves.due.find(([id]) => id === state.id)?.[1] ?? Infinity;
          expect(Math.min(found, control[index]?.dueAt ?? Infinity)).toBe(state.dueAt ?? Infinity);
        });
        expect(moves.joins).toEqual(joins);
        expect(moves.leaves).toEqual(leaves);
        seen.joins += joins.length;
        seen.leaves += leaves.length;
        seen.due += moves.due.length;
        seen.asked += passed.length;
      }),
      { numRuns: RUNS },
    );
    expect(seen.joins / seen.asked).toBeGreaterThan(0.05);
    expect(seen.leaves / seen.asked).toBeGreaterThan(0.05);
    // Most lines stand whatever the clock does.
    expect(seen.due / seen.asked).toBeGreaterThan(0.005);
  });

  it('is, where something rests on it, all that a pass of each would change: others stay as they are', () => {
    const seen = { moved: 0, others: 0, due: 0 };
    const isIn = { kind: 'audience', audience: SAVED, op: 'in' };
    const reading = (node: unknown): readonly AnyDefinition[] => [
      definition(READER, 'audience', 'reader', 'Reader', { kind: 'live', of: 'contact', condition: node }),
      { ...rule(node), id: (READER + 1) as never },
    ];
    fc.assert(
      fc.property(worlds, conditions, conditions, conditions, fc.boolean(), (world, before, after, other, any) => {
        const readers = reading({ match: any ? 'any' : 'all', of: [isIn, other] });
        const was = new Compiled(
          new Catalogue(WORKSPACE, [...DEFINITIONS, { ...audience(before), epoch: EPOCH - 1 }, ...readers]),
          EPOCH - 1,
        );
        const compiled = compiledWith(audience(after), ...readers.map((each) => ({ ...each, epoch: EPOCH - 1 })));
        fc.pre(bringingUp(was, SAVED) === 'a pass of those it moves' && bringingUp(compiled, SAVED) === 'a pass of those it moves');
        const stood = (): readonly SubjectState[] =>
          statesOf(world).contacts.map((state) => {
            pass(was, state, BUILD, NOW);
            return state;
          });
        const columns = new ContactColumns();
        for (const state of stood()) columns.put(state);
        const moves = movesOf(new LineSets(columns), { id: SAVED, node: nodeOf(compiled) }, new Moment(NOW, ZONE));
        const moved = new Set([...moves.joins, ...moves.leaves]);
        const due = new Map(moves.due);
        const control = stood();
        for (const [index, state] of stood().entries()) {
          const effects = pass(compiled, state, BUILD, NOW);
          const { memberships, tags, scores, changes, dueAt } = control[index] as SubjectState;
          if (moved.has(state.id)) {
            seen.moved += 1;
            expect(state.memberships.has(SAVED)).toBe(!memberships.has(SAVED));
            continue;
          }
          seen.others += 1;
          expect(effects).toEqual([]);
          expect([state.memberships, state.tags, state.scores, state.changes]).toEqual([memberships, tags, scores, changes]);
          // The clock never comes later than a pass would have it come.
          expect(Math.min(due.get(state.id) ?? Infinity, dueAt ?? Infinity)).toBeLessThanOrEqual(state.dueAt ?? Infinity);
          if (due.has(state.id)) seen.due += 1;
        }
      }),
      { numRuns: RUNS / 2 },
    );
    expect(seen.moved).toBeGreaterThan(seen.others / 20);
    expect(seen.others).toBeGreaterThan(seen.moved / 4);
    expect(seen.due).toBeGreaterThan(0);
  });

  it('put into the columns, leaves nobody to move, and lines about the audience are answered by it', () => {
    fc.assert(
      fc.property(worlds, conditions, befores, (world, condition, stream) => {
        const befores = [...stream.take(world.contacts.length)];
        const compiled = compiledWith(audience(condition));
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const node = nodeOf(compiled);
        const sets = new LineSets(new ContactColumns());
        for (const state of standing(world, befores, true)) sets.columns.put(state);
        const moment = new Moment(NOW, ZONE);
        const isIn = { kind: 'audience', audience: SAVED, op: 'in' } as const;
        const hasLeft = { kind: 'audience', audience: SAVED, op: 'left' } as const;
        const [before = 0] = countTogether(sets, [isIn, hasLeft], moment);
        const { joins, leaves } = movesOf(sets, { id: SAVED, node }, moment);
        sets.columns.move(SAVED, NOW, joins, leaves);
        expect(countTogether(sets, [isIn, hasLeft], moment)).toEqual([before + joins.length - leaves.length, leaves.length]);
        expect(movesOf(sets, { id: SAVED, node }, moment)).toMatchObject({ joins: [], leaves: [] });
      }),
      { numRuns: RUNS / 4 },
    );
  });

  it('is asked of some lanes alone, which together are everyone', () => {
    fc.assert(
      fc.property(worlds, conditions, (world, condition) => {
        const compiled = compiledWith(audience(condition));
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const node = nodeOf(compiled);
        const sets = new LineSets(new ContactColumns());
        for (const state of statesOf(world).contacts) sets.columns.put(state);
        const among = (lanes: readonly number[]) => sets.columns.inLanes(lanes);
        const moves = (lanes?: readonly number[]) => movesOf(sets, { id: SAVED, node }, new Moment(NOW, ZONE), lanes && among(lanes));
        const lanes = Array.from({ length: 64 }, (_, lane) => lane);
        const parts = [lanes.slice(0, 20), lanes.slice(20, 21), lanes.slice(21)].map((each) => moves(each));
        const rising = (ids: readonly number[]) => [...ids].sort((a, b) => a - b);
        expect(rising(parts.flatMap(({ joins }) => joins))).toEqual(moves().joins);
        expect(rising(parts.flatMap(({ due }) => due.map(([id]) => id)))).toEqual(moves().due.map(([id]) => id));
      }),
      { numRuns: RUNS / 4 },
    );
  });
});
