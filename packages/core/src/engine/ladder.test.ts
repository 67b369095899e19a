import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  effectWords,
  Moment,
  waysTo,
  type AnyDefinition,
  type Change,
  type Effect,
  type SubjectState,
} from '../index.ts';
import { BARE, edit, newcomer, ruleOf, told } from '../testing/engine.ts';
import { definition, NOW, typeId, WORKSPACE, ZONE } from '../testing/world.ts';
import { pass } from './pass.ts';

const NAMES = ['heard', 'in touch', 'customer', 'regular'];
const FIRST = 135;
const TAG = 30;
const HAS_TAG = { kind: 'tag', tag: TAG, op: 'has' };
const PIPELINE = definition(139, 'pipeline', 'trade', 'Trade', {
  stages: ['asked', 'talks', 'won'].map((key) => ({ key, name: key })),
});
type More = Readonly<Record<number, object>>;
const compiledOf = (more: More = {}, ...others: readonly AnyDefinition[]): Compiled =>
  new Compiled(
    new Catalogue(WORKSPACE, [
      ...BARE.filter(({ kind }) => kind !== 'stage' && kind !== 'pipeline'),
      PIPELINE,
      ...others,
      ...NAMES.map((name, index) => definition(FIRST + index, 'stage', name, name, { position: index + 1, ...more[index] })),
    ]),
  );
const toStage = (index: number, backward = false): Change => ({ kind: 'stage', stage: FIRST + index, backward });
const standing = (state: SubjectState): number => (state.stage === undefined ? -1 : state.stage.id - FIRST);
const deal = (stage: string): Change => ({
  kind: 'deal',
  deal: { id: 1, outsideId: 'd', pipeline: 139, stage, facts: new Map() },
});
const words = (effects: readonly Effect[], { catalogue }: Compiled): string[] =>
  effects.map((effect) => effectWords({ ...effect, ruleVersion: null } as never, catalogue));

describe('the ladder', () => {
  it('is climbed one after the other where a stage says so, whatever is asked for, and otherwise marks what is jumped over', () => {
    const inOrder = fc.uniqueArray(fc.integer({ min: 0, max: 3 }));
    const asked = fc.array(fc.record({ to: fc.integer({ min: 0, max: 3 }), backward: fc.boolean() }), { minLength: 1, maxLength: 12 });
    fc.assert(
      fc.property(inOrder, asked, (strict, steps) => {
        const compiled = compiledOf(Object.fromEntries(strict.map((index) => [index, { inOrder: true }])));
        const state = newcomer();
        let before = -1;
        for (const { to, backward } of steps) {
          const effects = edit(compiled, state, [toStage(to, backward)]);
          const goes = to < before ? backward : to > before && (!strict.includes(to) || to === before + 1);
          expect(standing(state)).toBe(goes ? to : before);
          const set = effects.find(({ kind }) => kind === 'stage');
          const skipped = (set?.after as { skipped?: number[] } | undefined)?.skipped ?? [];
          expect(skipped).toEqual(goes && to > before ? Array.from({ length: to - before - 1 }, (_, n) => FIRST + before + 1 + n) : []);
          before = standing(state);
        }
      }),
    );
  });

  it('lets nobody come to a stage before what it needs is so, and everybody then', () => {
    const compiled = compiledOf({ 1: { needs: HAS_TAG } });
    const state = newcomer();
    const held = edit(compiled, state, [toStage(1)]);
    expect(told(held)).toContain('kept as it is');
    expect(words(held, compiled)).toContain('The stage stays: in touch is only reached if they have the tag fam.one');
    expect(standing(state)).toBe(-1);
    // What comes in the same change counts when it has been made before.
    edit(compiled, state, [{ kind: 'tag', tag: TAG, add: true, reason: { kind: 'hand', ref: 'ada' } }, toStage(1)]);
    expect(standing(state)).toBe(1);
    edit(compiled, state, [{ kind: 'tag', tag: TAG, add: false, reasons: 'all' }]);
    expect(standing(state)).toBe(1);
  });

  it('asks for what is missing by a task, each time a rule is held back and says so', () => {
    const asking = ruleOf(120, {
      when: { kind: 'signal', type: typeId('order.placed') },
      then: [{ do: 'set stage', stage: FIRST + 1, ask: 'Ask them for it' }],
      howOften: { limit: 2 },
    });
    const compiled = compiledOf({ 1: { needs: HAS_TAG } }, asking);
    const state = newcomer();
    const ordered = (id: number): readonly Effect[] => {
      const signal = { id, typeId: typeId('order.placed'), time: NOW, source: 's', senderId: String(id), details: {}, historic: false };
      return pass(compiled, state, { kind: 'signal', signal, data: {} }, NOW + id);
    };
    const made = (effects: readonly Effect[]): unknown[] => effects.flatMap(({ workItem }) => workItem ?? []);
    const first = ordered(1);
    expect(made(first)).toMatchObject([{ what: 'task', title: 'Ask them for it' }]);
    expect(first.find(({ kind }) => kind === 'task')?.parent).toBe(first.find(({ kind }) => kind === 'kept'));
    expect(made(ordered(2))).toHaveLength(1);
    expect(made(ordered(3))).toHaveLength(0);
    edit(compiled, state, [{ kind: 'tag', tag: TAG, add: true, reason: { kind: 'hand', ref: 'ada' } }]);
    const free = newcomer();
    edit(compiled, free, [{ kind: 'tag', tag: TAG, add: true, reason: { kind: 'hand', ref: 'ada' } }]);
    const signal = { id: 9, typeId: typeId('order.placed'), time: NOW, source: 's', senderId: '9', details: {}, historic: false };
    expect(made(pass(compiled, free, { kind: 'signal', signal, data: {} }, NOW + 9))).toEqual([]);
    expect(standing(free)).toBe(1);
  });

  it('takes what a file says of somebody as it is', () => {
    const compiled = compiledOf({ 2: { needs: HAS_TAG, inOrder: true } });
    const state = newcomer();
    pass(compiled, state, { kind: 'edit', changes: [toStage(2)], cause: { kind: 'import', ref: '1' } }, NOW);
    expect(standing(state)).toBe(2);
  });

  it('keeps in step with what a fact says, forward alone, and by the same rules', () => {
    const status = (key: string): Change => ({ kind: 'field', field: 190, value: { fact: key } });
    const STATUS = definition(190, 'field', 'status', 'status with sales', {
      of: 'contact',
      type: 'one choice',
      options: [
        { key: 'talks', name: 'in talks' },
        { key: 'ours', name: 'one of ours', replacedBy: 'won' },
        { key: 'won', name: 'won over' },
      ],
    });
    const said = (value: string) => ({ facts: [{ field: 190, value }] });
    const compiled = compiledOf({ 1: said('talks'), 2: { ...said('ours'), inOrder: true } }, STATUS);
    const climbs = newcomer();
    const moved = edit(compiled, climbs, [status('talks')]);
    expect(standing(climbs)).toBe(1);
    expect(moved.find(({ kind }) => kind === 'stage')?.parent).toBe(moved.find(({ kind }) => kind === 'field'));
    edit(compiled, climbs, [status('won')]);
    expect(standing(climbs)).toBe(2);
    expect(told(edit(compiled, climbs, [status('talks')]))).toEqual(['field set']);
    const jumps = newcomer();
    expect(words(edit(compiled, jumps, [status('won')]), compiled)).toContain(
      'The stage stays: customer is only reached from the stage before it',
    );
    const why = waysTo(compiled, jumps, new Moment(NOW, ZONE), { of: 'stage', id: FIRST + 1 });
    expect(why).toMatchObject([{ kind: 'field', key: 'status', because: 'Not so: status with sales becomes in talks.' }]);
    const wrong = compiledOf({ 1: said('nothing'), 2: { facts: [{ field: 11, value: 'talks' }] } }, STATUS);
    expect([wrong.whyBroken.get(FIRST + 1), wrong.whyBroken.get(FIRST + 2)]).toEqual([
      expect.stringContaining('one of talks, won'),
      expect.stringContaining('a field of contacts with one choice'),
    ]);
  });

  it('keeps in step with deals, forward alone, and by the same rules', () => {
    const won = { deals: [{ pipeline: 139, stage: 'won' }] };
    const talks = { deals: [{ pipeline: 139, stage: 'talks' }] };
    const compiled = compiledOf({ 1: talks, 2: { ...won, inOrder: true } });
    const jumps = newcomer();
    edit(compiled, jumps, [deal('asked')]);
    expect(standing(jumps)).toBe(-1);
    expect(words(edit(compiled, jumps, [deal('won')]), compiled)).toContain(
      'The stage stays: customer is only reached from the stage before it',
    );
    const climbs = newcomer(2);
    const moved = edit(compiled, climbs, [deal('talks')]);
    expect(standing(climbs)).toBe(1);
    const [set, from] = [moved.find(({ kind }) => kind === 'stage'), moved.find(({ kind }) => kind === 'deal')];
    expect(set?.parent).toBe(from);
    edit(compiled, climbs, [deal('won')]);
    expect(standing(climbs)).toBe(2);
    expect(told(edit(compiled, climbs, [deal('talks')]))).toEqual(['deal set']);
    expect(standing(climbs)).toBe(2);
  });

  it('stands still where what a stage needs cannot be answered any more', () => {
    const compiled = compiledOf({ 1: { needs: { kind: 'tag', tag: 9_999, op: 'has' } } });
    const state = newcomer();
    edit(compiled, state, [toStage(1)]);
    expect(standing(state)).toBe(-1);
    expect(compiled.isBroken(FIRST + 1)).toBe(true);
  });
});
