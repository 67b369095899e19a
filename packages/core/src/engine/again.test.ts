import fc from 'fast-check';
import { pass, passAgain, passBack, readEntry, type Effect, type GoneEntry, type SubjectState } from '../index.ts';
import { actions, compiled, fresh, onOrder, order, rule, standingContact } from '../testing/acting.ts';
import { standing, treeOf } from '../testing/ledger.ts';
import { DAY, NOW, worlds } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const BACK = { kind: 'take back', ref: 'ada' } as const;
const AGAIN = { kind: 'again', ref: 'ada' } as const;
/** Ids of what takes back stand above those of what is taken back. */
const ABOVE = 10_000;

/** What was taken back, with what took it back, as the ledger would have it. */
function gone(effects: readonly Effect[], root: Effect, back: readonly Effect[]): readonly GoneEntry[] {
  const taken = treeOf(effects, root);
  return back.flatMap((effect, index): readonly GoneEntry[] => {
    const entry = taken.find(({ id }) => id === effect.reverses);
    const { kind, verb, definitionId, channel, before, after, at } = effect;
    const by = readEntry({ kind, verb, definitionId, channel, before, after });
    if (!entry || !by) return [];
    const { parent, rule: ran } = effects[entry.id - 1] as Effect;
    const parentId = typeof parent === 'object' ? effects.indexOf(parent) + 1 : parent;
    return [{ taken: entry, parent: parentId, rule: ran && { id: ran.id, version: ran.version }, back: { ...by, id: ABOVE + index, at } }];
  });
}

const firedBy = (effects: readonly Effect[], id: number): Effect =>
  effects.find((effect) => effect.kind === 'firing' && effect.verb === 'fired' && effect.definitionId === id) as Effect;

describe('doing again what was taken back', () => {
  it('is as if it had not been taken back, whatever a rule did', () => {
    let done = 0;
    fc.assert(
      fc.property(fc.array(actions, { minLength: 1, maxLength: 5 }), worlds, fc.integer({ min: 1, max: 3 * DAY }), (then, world, gap) => {
        const on = compiled(rule(101, { ...onOrder, where: [] }, then, {}));
        const worked = (): { state: SubjectState; effects: readonly Effect[] } => {
          const state = standingContact(on, world);
          pass(on, state, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
          const effects = pass(on, state, { kind: 'signal', signal: order(2, NOW + gap), data: {} }, NOW + gap);
          return { state, effects };
        };
        const without = worked();
        passBack(on, without.state, [], BACK, NOW + gap + 2);
        const { state, effects } = worked();
        const fired = firedBy(effects, 101);
        const back = passBack(on, state, treeOf(effects, fired), BACK, NOW + gap + 1);
        const again = passAgain(on, state, gone(effects, fired, back.effects), AGAIN, NOW + gap + 2);
        expect(again.stays).toEqual([]);
        done += again.effects.length;
        // A line that had held once may hold no more: what only time keeps is not brought back.
        expect({ ...(standing(state) as object), marks: [], scores: [], members: [] }).toEqual({
          ...(standing(without.state) as object),
          ...{ marks: [], scores: [], members: [] },
        });
        // What the rule did again came of its running again.
        const ran = firedBy(again.effects, 101);
        expect(ran.rule).toMatchObject({ id: 101 });
        expect(again.effects.filter(({ parent }) => typeof parent === 'number')).toEqual([ran]);
      }),
      { numRuns: RUNS },
    );
    expect(done).toBeGreaterThan(RUNS);
  });

  it('can be taken back in turn', () => {
    fc.assert(
      fc.property(fc.array(actions, { minLength: 1, maxLength: 5 }), worlds, (then, world) => {
        const on = compiled(rule(101, { ...onOrder, where: [] }, then, {}));
        const state = standingContact(on, world);
        const effects = pass(on, state, { kind: 'signal', signal: order(2, NOW), data: {} }, NOW);
        const fired = firedBy(effects, 101);
        const back = passBack(on, state, treeOf(effects, fired), BACK, NOW + 1);
        const before = standing(state);
        const again = passAgain(on, state, gone(effects, fired, back.effects), AGAIN, NOW + 2);
        const rows = again.effects.flatMap((effect, index) => {
          const { kind, verb, definitionId, channel, before: was, after, at } = effect;
          const entry = readEntry({ kind, verb, definitionId, channel, before: was, after });
          return entry ? [{ ...entry, id: index + 1, at }] : [];
        });
        passBack(on, state, rows, BACK, NOW + 3);
        expect(standing(state)).toEqual(before);
      }),
      { numRuns: RUNS },
    );
  });

  it('leaves what was changed since, and says why', () => {
    const definitions = compiled(
      rule(101, onOrder, [
        { do: 'set field', field: 10, value: 'Seen' },
        { do: 'add tag', tag: 30 },
        { do: 'increase field', field: 11, by: 3 },
      ]),
    );
    const contact = fresh();
    const effects = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    const fired = firedBy(effects, 101);
    const back = passBack(definitions, contact, treeOf(effects, fired), BACK, NOW + 1);
    const cause = { kind: 'person', ref: 'ada' } as const;
    const changes = [
      { kind: 'field', field: 10, value: { fact: 'mine', shown: 'Mine' } },
      { kind: 'field', field: 11, value: { fact: 1_000_000 } },
    ] as const;
    pass(definitions, contact, { kind: 'edit', changes, cause }, NOW + 2);
    const again = passAgain(definitions, contact, gone(effects, fired, back.effects), AGAIN, NOW + 3);
    expect(again.stays).toEqual([{ entry: expect.any(Number) as number, why: 'it has been changed since' }]);
    expect(contact.shown.get(10)).toBe('Mine');
    expect(contact.facts.get(11)).toBe(4_000_000);
    expect(contact.tags.get(30)?.since).toBe(NOW);
  });
});
