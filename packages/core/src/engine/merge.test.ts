import fc from 'fast-check';
import { Catalogue, Compiled, differences, pass, passBack, passMerge, type Effect, type SubjectState } from '../index.ts';
import { NOBODY } from '../testing/contacts.ts';
import { standing, treeOf } from '../testing/ledger.ts';
import { conditions, DEFINITIONS, definition, NOW, statesOf, typeId, WORKSPACE, worlds } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const CARD = definition(40, 'scorecard', 'card', 'Liking', {
  of: 'contact',
  min: 0,
  max: 100,
  bands: [
    { key: 'low', name: 'low', from: 0 },
    { key: 'high', name: 'high', from: 8 },
  ],
  lines: [
    { key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 10, stands: 'while' },
    { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 3, counts: { upTo: 2, per: 'all' }, keeps: { dropAfter: 30 } },
  ],
});
const NOTICES = definition(102, 'rule', 'notices', 'Notices', {
  when: { kind: 'becomes', condition: { kind: 'band', scorecard: 40, op: 'is', value: 'high' } },
  then: [{ do: 'set stage', stage: 36 }],
  of: 'contact',
  howOften: {},
  beginsWith: 'from now on',
  maxAgeDays: 7,
  position: 1,
  on: true,
});
const base = [...DEFINITIONS.filter((each) => each.kind !== 'scorecard' && each.kind !== 'audience'), CARD, NOTICES];
const alone = conditions.filter((condition) => !/"(audience|score|band)"/.test(JSON.stringify(condition)));
const pairs = worlds.filter((world) => world.contacts.length > 1);
const CAUSE = { kind: 'merge', ref: 'ada' } as const;

describe('merging two contacts', () => {
  const pair = (compiled: Compiled, world: Parameters<typeof statesOf>[0]): readonly [SubjectState, SubjectState] => {
    const [one, other] = statesOf(world).contacts as [SubjectState, SubjectState];
    for (const state of [one, other]) {
      state.memberships.clear();
      state.scores.clear();
      state.leavings.clear();
      // As if each had been worked before: everything that is derived stands.
      state.epoch = -1;
      pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'test' } }, NOW);
      pass(compiled, state, { kind: 'edit', changes: [], cause: { kind: 'person', ref: 'test' } }, NOW);
    }
    return [one, other];
  };

  it('takes everything over, sets nothing off, and ends where a computation from scratch ends; parted again, each is as before', () => {
    let taken = 0;
    fc.assert(
      fc.property(alone, pairs, (condition, world) => {
        const audience = definition(95, 'audience', 'made', 'Made', { kind: 'live', of: 'contact', condition });
        const compiled = new Compiled(new Catalogue(WORKSPACE, [...base, audience]));
        const [one, other] = pair(compiled, world);
        const [before, theirs] = [standing(one), standing(other)];
        const merged = passMerge(compiled, one, other, CAUSE, NOW);
        expect(standing(other)).toEqual(theirs);
        expect(merged.effects.some((effect) => effect.verb === 'fired')).toBe(false);
        expect(differences(compiled, one, NOW)).toEqual([]);
        for (const [type, list] of other.signals) expect(one.signals.get(type)?.length).toBeGreaterThanOrEqual(list.length);
        for (const [tag] of other.tags) expect(one.tags.has(tag)).toBe(true);
        taken += merged.effects.length;
        const root = merged.effects.find((effect) => effect.verb === 'merged' && effect.kind === 'contact') as Effect;
        const back = passBack(compiled, one, treeOf(merged.effects, root), CAUSE, NOW, { parted: merged.taken });
        expect(back.stays).toEqual([]);
        expect(differences(compiled, one, NOW)).toEqual([]);
        expect(standing(one)).toEqual(before);
      }),
      { numRuns: RUNS },
    );
    expect(taken).toBeGreaterThan(RUNS);
  });

  it('leaves what this contact changed at that same instant as it was', () => {
    const compiled = new Compiled(new Catalogue(WORKSPACE, base));
    const [one, other] = statesOf({ contacts: [NOBODY, { ...NOBODY, stage: { id: 35, since: NOW } }], companies: [] }).contacts as [
      SubjectState,
      SubjectState,
    ];
    const own = { at: NOW, from: '34', to: '35' };
    one.keepChange('stage', own);
    one.epoch = other.epoch = compiled.epoch;
    const merged = passMerge(compiled, one, other, CAUSE, NOW);
    one.changes.get('stage')?.reverse();
    const root = merged.effects.find((effect) => effect.verb === 'merged' && effect.kind === 'contact') as Effect;
    passBack(compiled, one, treeOf(merged.effects, root), CAUSE, NOW, { parted: merged.taken });
    expect(one.stage).toBeUndefined();
    expect(one.changes.get('stage')).toEqual([own]);
  });
});
