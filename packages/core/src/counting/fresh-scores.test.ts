import fc from 'fast-check';
import { Catalogue, Compiled, Moment, orThrow, pass, prepare, type AnyDefinition, type KeptScore, type SubjectState } from '../index.ts';
import { bringingUp } from '../engine/at-once.ts';
import { type Derived } from '../engine/derived.ts';
import {
  conditions,
  DAY,
  definition,
  DEFINITIONS,
  NOW,
  statesOf,
  typeId,
  WORKSPACE,
  worlds,
  ZONE,
  type MadeWorld,
} from '../testing/world.ts';
import { ContactColumns } from './contact-columns.ts';
import { countTogether } from './count.ts';
import { freshScores, type FreshScores } from './fresh-scores.ts';
import { LineSets } from './line-sets.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 600);
const EPOCH = 5;
const SAVED = 170;
const RULE = 171;
const BUILD = { kind: 'build', cause: { kind: 'definition', ref: '1/1' } } as const;
const BANDS = [
  { key: 'low', name: 'Low', from: -50 },
  { key: 'middle', name: 'In the middle', from: 1 },
  { key: 'high', name: 'High', from: 12 },
];

const points = fc.integer({ min: -20, max: 40 });
const keeps = fc.constantFrom<unknown>('forever', { dropAfter: 3 }, { dropAfter: 400 }, { halveEvery: 7 });
const lines = fc.array(
  fc.oneof(
    fc.record({ kind: fc.constant('fact'), condition: conditions, points, stands: fc.constant('while') }),
    fc.record({
      kind: fc.constant('activity'),
      type: fc.constantFrom(typeId('page.visited'), typeId('order.placed')),
      points,
      counts: fc.constantFrom<unknown>(
        'every time',
        'once',
        { upTo: 2, per: 'all' },
        { upTo: 1, per: 'week' },
        {
          steps: [
            { at: 1, points: 3 },
            { at: 2, points: -7 },
          ],
        },
      ),
      keeps,
    }),
  ),
  { minLength: 1, maxLength: 4 },
);
const card = (made: readonly object[]): AnyDefinition => ({
  ...definition(SAVED, 'scorecard', 'saved', 'Saved', {
    of: 'contact',
    min: -50,
    max: 60,
    bands: BANDS,
    lines: made.map((line, index) => ({ ...line, key: `line-${index}` })),
  }),
  epoch: EPOCH,
});
const compiledWith = (...saved: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, ...saved]), EPOCH);
const without = compiledWith();

/** What a contact had by the scorecard before it was saved as it is now. */
const befores = fc.infiniteStream(
  fc.record({
    kept: fc.option(
      fc.record({
        points: fc.integer({ min: -50, max: 60 }).map((each) => each * 1_000),
        band: fc.constantFrom('low', 'middle', 'high', 'of before'),
        bandSince: fc.constant(NOW - 3 * DAY),
        exactUntil: fc.constantFrom(Infinity, NOW + DAY),
      }),
      { nil: undefined },
    ),
    due: fc.constantFrom(undefined, NOW + DAY / 2, NOW + 40 * DAY),
    given: fc.option(fc.record({ points: points.map((each) => each * 1_000), days: fc.integer({ min: -2, max: 30 }), keeps }), {
      nil: undefined,
      freq: 3,
    }),
  }),
);
type Before = typeof befores extends fc.Arbitrary<fc.Stream<infer Value>> ? Value : never;

/** Everyone of the world as they stood after what was there before, each time alike. */
const standing = (world: MadeWorld, given: readonly Before[]): readonly SubjectState[] =>
  statesOf(world).contacts.map((state, index) => {
    pass(without, state, BUILD, NOW - 1);
    state.epoch = EPOCH - 1;
    const before = given[index] as Before;
    state.dueAt = before.due;
    if (before.kept) state.scores.set(SAVED, before.kept);
    if (before.given)
      state.points.set('1', {
        scorecard: SAVED,
        rule: RULE,
        points: before.given.points,
        at: NOW - before.given.days * DAY,
        keeps: before.given.keeps as never,
      });
    return state;
  });

function worked(columns: ContactColumns, compiled: Compiled, lanes?: readonly number[]): FreshScores {
  const { card: prepared } = compiled.derived.find(({ id }) => id === SAVED) as Extract<Derived, { kind: 'score' }>;
  const steps = freshScores(columns, prepared, new Moment(NOW, ZONE), lanes && columns.inLanes(lanes));
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
const scoreOfEach = ({ contacts, points: all, bands, until }: FreshScores) =>
  new Map(contacts.map((id, index) => [id, [all[index], bands[index], until[index] ?? Infinity] as const]));

describe('the scores of all at once', () => {
  it('are what a pass of each would work out, with when the clock comes', () => {
    const seen = { asked: 0, others: 0, due: 0, crossed: 0 };
    fc.assert(
      fc.property(worlds, lines, befores, (world, made, stream) => {
        const given = [...stream.take(world.contacts.length)];
        const compiled = compiledWith(card(made));
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const columns = new ContactColumns();
        for (const state of standing(world, given)) columns.put(state);
        const found = scoreOfEach(worked(columns, compiled));
        const control = standing(world, given);
        for (const [index, state] of standing(world, given).entries()) {
          const before = state.scores.get(SAVED);
          const effects = pass(compiled, state, BUILD, NOW);
          pass(without, control[index] as SubjectState, BUILD, NOW);
          const kept = state.scores.get(SAVED) as KeptScore;
          const [, , until = Infinity] = found.get(state.id) ?? [];
          expect(found.get(state.id)).toEqual([kept.points, kept.band, kept.exactUntil]);
          expect(Math.min(until, control[index]?.dueAt ?? Infinity)).toBe(state.dueAt ?? Infinity);
          // What else a pass leaves: since when the band is so, and an effect where another was left.
          const isCrossed = before !== undefined && before.band !== kept.band;
          expect(kept.bandSince).toBe(before && !isCrossed ? before.bandSince : NOW);
          expect(effects.map(({ kind, verb }) => `${kind} ${verb}`)).toEqual(isCrossed ? ['band crossed'] : []);
          seen.asked += 1;
          seen.others += before?.points === kept.points ? 0 : 1;
          seen.due += until === Infinity ? 0 : 1;
          seen.crossed += isCrossed ? 1 : 0;
        }
      }),
      { numRuns: RUNS },
    );
    expect(seen.others / seen.asked).toBeGreaterThan(0.1);
    expect(seen.crossed / seen.asked).toBeGreaterThan(0.05);
    expect(seen.due / seen.asked).toBeGreaterThan(0.02);
  });

  it('tell who is moved: where something rests on the scorecard, a pass changes nothing for others but until when their points are exact', () => {
    const seen = { moved: 0, others: 0, until: 0 };
    const ranked = { kind: 'score', scorecard: SAVED, op: '>', value: 3 };
    const became = { kind: 'change', what: 'band', key: SAVED, to: ['high'] };
    fc.assert(
      fc.property(worlds, lines, lines, conditions, (world, before, after, other) => {
        const reader = definition(RULE, 'audience', 'reader', 'Reader', {
          kind: 'live',
          of: 'contact',
          condition: { match: 'any', of: [ranked, became, other] },
        });
        const was = new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, { ...card(before), epoch: EPOCH - 1 }, reader]), EPOCH - 1);
        const compiled = compiledWith(card(after), { ...reader, epoch: EPOCH - 1 });
        fc.pre(bringingUp(was, SAVED) === 'a pass of those it moves' && bringingUp(compiled, SAVED) === 'a pass of those it moves');
        const stood = (): readonly SubjectState[] =>
          statesOf(world).contacts.map((state) => {
            pass(was, state, BUILD, NOW);
            return state;
          });
        const columns = new ContactColumns();
        for (const state of stood()) columns.put(state);
        const found = worked(columns, compiled);
        const moved = new Set(found.moved);
        const control = stood();
        for (const [index, state] of stood().entries()) {
          const effects = pass(compiled, state, BUILD, NOW);
          const { memberships, tags, scores, changes } = control[index] as SubjectState;
          const [had, has] = [scores.get(SAVED), state.scores.get(SAVED)] as readonly KeptScore[];
          expect([state.id, had?.points === has?.points && had?.band === has?.band]).toEqual([state.id, !moved.has(state.id)]);
          if (moved.has(state.id)) {
            seen.moved += 1;
            continue;
          }
          seen.others += 1;
          expect(effects).toEqual([]);
          expect([state.memberships, state.tags, state.changes]).toEqual([memberships, tags, changes]);
          expect({ ...has, exactUntil: 0 }).toEqual({ ...had, exactUntil: 0 });
          if (has?.exactUntil !== had?.exactUntil) seen.until += 1;
        }
      }),
      { numRuns: RUNS / 2 },
    );
    expect(seen.moved).toBeGreaterThan(seen.others / 20);
    expect(seen.others).toBeGreaterThan(seen.moved / 10);
    expect(seen.until).toBeGreaterThan(0);
  });

  it('are asked of some lanes alone, which together are everyone', () => {
    fc.assert(
      fc.property(worlds, lines, (world, made) => {
        const compiled = compiledWith(card(made));
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const columns = new ContactColumns();
        for (const state of statesOf(world).contacts) columns.put(state);
        const lanes = Array.from({ length: 64 }, (_, lane) => lane);
        const parts = [lanes.slice(0, 20), lanes.slice(20, 21), lanes.slice(21)].flatMap((each) => [
          ...scoreOfEach(worked(columns, compiled, each)),
        ]);
        expect(new Map(parts)).toEqual(scoreOfEach(worked(columns, compiled)));
        expect(parts).toHaveLength(columns.size);
      }),
      { numRuns: RUNS / 4 },
    );
  });

  it('put into the columns, answer lines about the scorecard that were asked before', () => {
    fc.assert(
      fc.property(worlds, lines, befores, (world, made, stream) => {
        const compiled = compiledWith(card(made));
        fc.pre(bringingUp(compiled, SAVED) === 'at once');
        const sets = new LineSets(new ContactColumns());
        for (const state of standing(world, [...stream.take(world.contacts.length)])) sets.columns.put(state);
        const asked = [
          { kind: 'band', scorecard: SAVED, op: 'is one of', value: ['high'] },
          { kind: 'score', scorecard: SAVED, op: '>', value: 3 },
        ].map((condition) => orThrow(prepare(condition as never, compiled.catalogue)));
        const moment = new Moment(NOW, ZONE);
        countTogether(sets, asked, moment);
        const { contacts, points: all, bands } = worked(sets.columns, compiled);
        sets.columns.score(
          SAVED,
          contacts.map((id, index) => [id, all[index] as number, bands[index] as string, NOW] as const),
        );
        expect(countTogether(sets, asked, moment)).toEqual([
          bands.filter((band) => band === 'high').length,
          all.filter((each) => each > 3_000).length,
        ]);
      }),
      { numRuns: RUNS / 4 },
    );
  });
});
