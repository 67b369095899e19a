import fc from 'fast-check';
import {
  differences,
  holds,
  Moment,
  orThrow,
  passBack,
  passMerge,
  prepare,
  type Change,
  type Compiled,
  type Effect,
  type SubjectState,
} from '../index.ts';
import { clockTo, compiledWith, edit, newcomer, told } from '../testing/engine.ts';
import { treeOf } from '../testing/ledger.ts';
import { catalogue, conditions, contacts, DAY, definition, NOW, stateOf, ZONE } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const PINNED = 95;
const RESTS_ON_IT = 96;
const FIXED = 97;
const OF_COMPANIES = 98;
const NOBODY = { match: 'any', of: [] };

const live = (id: number, condition: object, of = 'contact') =>
  definition(id, 'audience', `a${id}`, `A ${id}`, { kind: 'live', of, condition });
const under = (condition: object): Compiled =>
  compiledWith(
    live(PINNED, condition),
    live(RESTS_ON_IT, { kind: 'audience', audience: PINNED, op: 'in' }),
    definition(FIXED, 'audience', 'fixed', 'Fixed', { kind: 'fixed', of: 'contact' }),
    live(OF_COMPANIES, NOBODY, 'company'),
  );
const compiled = under(NOBODY);
const alone = conditions.filter((condition) => !/"(audience|score|scorecard|band)"/.test(JSON.stringify(condition)));

const pin = (is: boolean, until?: number, audience = PINNED): Change => ({
  kind: 'pin',
  audience,
  pin: { in: is, reason: 'they asked', until, by: 'ada@test.example' },
});
const unpin: Change = { kind: 'pin', audience: PINNED, pin: undefined };
const pinned = (definitions: Compiled, state: SubjectState, change: Change, now = NOW): readonly Effect[] =>
  edit(definitions, state, [change], now);
const someone = (id = 1): SubjectState => {
  const state = newcomer(id);
  edit(compiled, state, []);
  return state;
};
const membersOf = (state: SubjectState): number[] => [...state.memberships.keys()].filter((id) => id >= PINNED).sort((a, b) => a - b);

describe('a pin', () => {
  it('stands above the conditions while it stands, whatever they say and however time goes on', () => {
    const steps = fc.array(
      fc.record({
        wait: fc.integer({ min: 0, max: 9 * DAY }),
        is: fc.option(fc.boolean()),
        lasts: fc.option(fc.integer({ min: 1, max: 6 * DAY })),
      }),
      { maxLength: 4 },
    );
    let standing = 0;
    fc.assert(
      fc.property(alone, contacts, steps, (condition, made, all) => {
        const definitions = under(condition);
        const node = orThrow(prepare(condition, catalogue));
        const state = stateOf(made);
        state.memberships.clear();
        state.epoch = -1;
        let now = NOW;
        let expected: { is: boolean; until: number } | undefined;
        for (const { wait, is, lasts } of all) {
          now += wait;
          clockTo(definitions, state, now);
          const ends = lasts === null ? undefined : now + lasts;
          pinned(definitions, state, is === null ? unpin : pin(is, ends), now);
          expected = is === null ? undefined : { is, until: ends ?? Number.POSITIVE_INFINITY };
          for (const at of [now, now + DAY]) {
            clockTo(definitions, state, at);
            now = at;
            const isIn = expected && expected.until > at ? expected.is : holds(node, state, new Moment(at, ZONE));
            expect(membersOf(state)).toEqual(isIn ? [PINNED, RESTS_ON_IT] : []);
            expect(differences(definitions, state, at)).toEqual([]);
            if (expected && expected.until > at) standing += 1;
          }
        }
      }),
      { numRuns: RUNS },
    );
    expect(standing).toBeGreaterThan(RUNS / 4);
  });

  it('is recorded with why and by whom, and what rests on the audience follows', () => {
    const state = someone();
    const effects = pinned(compiled, state, pin(true));
    expect(told(effects)).toEqual(['pin set', 'membership joined', 'membership joined']);
    expect(effects[0]).toMatchObject({
      definitionId: PINNED,
      after: { in: true, reason: 'they asked', by: 'ada@test.example', until: null },
    });
    expect(effects[1]?.parent).toBe(effects[0]);
    expect(pinned(compiled, state, pin(true))).toEqual([]);
    expect(told(pinned(compiled, state, unpin))).toEqual(['pin cleared', 'membership left', 'membership left']);
  });

  it('ends at its own instant, by the clock', () => {
    const state = someone();
    pinned(compiled, state, pin(true, NOW + 3 * DAY));
    expect(state.dueAt).toBe(NOW + 3 * DAY);
    expect(clockTo(compiled, state, NOW + 3 * DAY - 1)).toEqual([]);
    const effects = clockTo(compiled, state, NOW + 3 * DAY);
    expect(told(effects)).toEqual(['pin ended', 'membership left', 'membership left']);
    expect(effects.every((effect) => effect.at === NOW + 3 * DAY && effect.cause.kind === 'clock')).toBe(true);
    expect(state.dueAt).toBeUndefined();
  });

  it('is of a live audience of the same kind only, and not of a time that is over', () => {
    const state = someone();
    expect(pinned(compiled, state, pin(true, undefined, FIXED))).toEqual([]);
    expect(pinned(compiled, state, pin(true, undefined, OF_COMPANIES))).toEqual([]);
    expect(pinned(compiled, state, pin(true, NOW))).toEqual([]);
    expect(state.pins.size).toBe(0);
  });

  it('is taken back to what was pinned before, unless it has been changed since', () => {
    const numbered = (effects: readonly Effect[]) => treeOf(effects, effects[0] as Effect);
    const state = someone();
    pinned(compiled, state, pin(true));
    const out = numbered(pinned(compiled, state, pin(false), NOW + 1));
    expect(membersOf(state)).toEqual([]);
    const back = passBack(compiled, state, out, { kind: 'take back', ref: 'ada' }, NOW + 2);
    expect(back.stays).toEqual([]);
    expect(membersOf(state)).toEqual([PINNED, RESTS_ON_IT]);
    expect(state.pins.get(PINNED)).toMatchObject({ in: true });

    const again = numbered(pinned(compiled, state, pin(false), NOW + 3));
    pinned(compiled, state, unpin, NOW + 4);
    expect(passBack(compiled, state, again, { kind: 'take back', ref: 'ada' }, NOW + 5).stays).toEqual([
      { entry: again[0]?.id, why: 'it has been changed since' },
    ]);
  });

  it('of either of two who are merged holds for both, and goes when they are parted', () => {
    const [one, other] = [someone(1), someone(2)];
    pinned(compiled, other, pin(true));
    const merged = passMerge(compiled, one, other, { kind: 'merge', ref: 'ada' }, NOW);
    expect(membersOf(one)).toEqual([PINNED, RESTS_ON_IT]);
    const root = merged.effects.find((effect) => effect.kind === 'contact' && effect.verb === 'merged') as Effect;
    const back = passBack(compiled, one, treeOf(merged.effects, root), { kind: 'merge', ref: 'ada' }, NOW, { parted: merged.taken });
    expect(back.stays).toEqual([]);
    expect(one.pins.size).toBe(0);
    expect(membersOf(one)).toEqual([]);
    expect(other.pins.size).toBe(1);
  });
});
