import { differences, pass, type Condition } from '../index.ts';
import { arrive, compiledWith, edit, newcomer, ruleOf, signalOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW, typeId } from '../testing/world.ts';

const onOrder = { kind: 'signal', type: typeId('order.placed') } as const;
const orders = (value: number): Condition => ({ kind: 'signal', type: typeId('order.placed'), count: { op: '>=', value } });
const twice = definition(90, 'audience', 'twice', 'Twice', { kind: 'live', of: 'contact', condition: orders(2) });
const onSignal = ruleOf(101, { when: onOrder, then: [{ do: 'add tag', tag: 30 }] });
const onBecoming = ruleOf(102, { when: { kind: 'becomes', condition: orders(2) }, then: [{ do: 'add tag', tag: 31 }] });
const fired = (effects: ReturnType<typeof pass>): number[] =>
  effects.filter((effect) => effect.verb === 'fired').map((effect) => Number(effect.definitionId));

describe('a signal that comes late', () => {
  it('takes its place in time, and what is derived follows', () => {
    const compiled = compiledWith(twice);
    const state = newcomer();
    arrive(compiled, state, signalOf('order.placed', { order: '2' }, NOW));
    arrive(compiled, state, signalOf('order.placed', { order: '1' }, NOW - 3 * DAY), {}, NOW + DAY);
    expect(state.signals.get(typeId('order.placed'))?.map((each) => each.details['order'])).toEqual(['1', '2']);
    expect(state.memberships.get(90)).toEqual({ since: NOW + DAY });
    expect(state.lastNow).toBe(NOW + DAY);
    expect(differences(compiled, state, NOW + DAY)).toEqual([]);
  });

  it.each([
    [7 * DAY, [101]],
    [7 * DAY + 1, []],
  ])('by %i ms sets off %j', (late, rules) => {
    const compiled = compiledWith(onSignal);
    expect(fired(arrive(compiled, newcomer(), signalOf('order.placed', { order: '1' }, NOW - late), {}, NOW))).toEqual(rules);
  });

  it('goes by what its rule says of age', () => {
    const patient = ruleOf(101, { when: onOrder, then: [{ do: 'add tag', tag: 30 }], maxAgeDays: 100 });
    expect(fired(arrive(compiledWith(patient), newcomer(), signalOf('order.placed', {}, NOW - 90 * DAY), {}, NOW))).toEqual([101]);
  });

  it('makes true now what becomes true, however old it is', () => {
    const compiled = compiledWith(onBecoming);
    const state = newcomer();
    arrive(compiled, state, signalOf('order.placed', { order: '2' }, NOW));
    const effects = arrive(compiled, state, signalOf('order.placed', { order: '1' }, NOW - 300 * DAY), {}, NOW + 1);
    expect(fired(effects)).toEqual([102]);
    expect(effects.find((effect) => effect.kind === 'tag')?.at).toBe(NOW + 1);
  });

  it('is known by its id, and not taken twice', () => {
    const compiled = compiledWith(twice);
    const state = newcomer();
    const signal = signalOf('order.placed', { order: '1' });
    arrive(compiled, state, signal);
    arrive(compiled, state, signal, {}, NOW + 1);
    expect(state.signals.get(typeId('order.placed'))).toHaveLength(1);
    expect(state.memberships.has(90)).toBe(false);
  });
});

describe('a historic signal', () => {
  it('counts, and sets off no rule that waits for it', () => {
    const compiled = compiledWith(onSignal, onBecoming, twice);
    const state = newcomer();
    edit(compiled, state, []);
    const past = (order: string) => signalOf('order.placed', { order }, NOW - DAY, { historic: true });
    expect(fired(arrive(compiled, state, past('1'), {}, NOW))).toEqual([]);
    // What becomes true becomes true now, whatever it rests on.
    expect(told(arrive(compiled, state, past('2'), {}, NOW))).toEqual(expect.arrayContaining(['membership joined', 'firing fired']));
    expect(state.tags.has(30)).toBe(false);
    expect(state.tags.has(31)).toBe(true);
  });
});

describe('a signal dated a little ahead', () => {
  it('counts only when its time has come, and its contact is due just then', () => {
    const compiled = compiledWith(definition(91, 'audience', 'once', 'Once', { kind: 'live', of: 'contact', condition: orders(1) }));
    const state = newcomer();
    arrive(compiled, state, signalOf('order.placed', {}, NOW + 60_000), {}, NOW);
    expect(state.memberships.has(91)).toBe(false);
    expect(state.dueAt).toBe(NOW + 60_000);
    pass(compiled, state, { kind: 'due' }, NOW + 60_000);
    expect(state.memberships.get(91)).toEqual({ since: NOW + 60_000 });
  });
});
