import { lapsedBy } from '../index.ts';
import { compiledWith, newcomer, send } from '../testing/engine.ts';
import { DAY, NOW } from '../testing/world.ts';

const compiled = compiledWith();
const until = (days: number): string => new Date(NOW + days * DAY).toISOString();
const lapsed = (state: ReturnType<typeof newcomer>, now: number): unknown[] =>
  lapsedBy(compiled, state, now).map(({ plan, at }) => [plan, at - NOW]);

describe('a plan', () => {
  it('lapses by itself when its end passes, and its contact is due just then', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(10) });
    expect(state.dueAt).toBe(NOW + 10 * DAY);
    expect(lapsed(state, NOW + 10 * DAY - 1)).toEqual([]);
    expect(lapsed(state, NOW + 10 * DAY)).toEqual([['bench', 10 * DAY]]);
  });

  it('that is renewed lapses at its new end only', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(10) });
    send(compiled, state, 'plan.renewed', { plan: 'bench', until: until(40) }, NOW + 5 * DAY);
    expect(lapsed(state, NOW + 39 * DAY)).toEqual([]);
    expect(lapsed(state, NOW + 40 * DAY)).toEqual([['bench', 40 * DAY]]);
  });

  it('that has lapsed does not lapse again, until it begins anew', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(10) });
    send(compiled, state, 'plan.lapsed', { plan: 'bench' }, NOW + 10 * DAY);
    expect(lapsed(state, NOW + 50 * DAY)).toEqual([]);
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(60) }, NOW + 50 * DAY);
    expect(lapsed(state, NOW + 60 * DAY)).toEqual([['bench', 60 * DAY]]);
  });

  it('without an end goes on', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench' });
    expect(state.dueAt).toBeUndefined();
    expect(lapsed(state, NOW + 5_000 * DAY)).toEqual([]);
  });

  it('is one of several, each by its own name', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(10) });
    send(compiled, state, 'plan.started', { plan: 'kiln', until: until(20) });
    expect(state.dueAt).toBe(NOW + 10 * DAY);
    expect(lapsed(state, NOW + 20 * DAY)).toEqual([
      ['bench', 10 * DAY],
      ['kiln', 20 * DAY],
    ]);
  });

  it('whose end had passed when it was told of lapses when it began', () => {
    const state = newcomer();
    send(compiled, state, 'plan.started', { plan: 'bench', until: until(-3) });
    expect(lapsed(state, NOW)).toEqual([['bench', 0]]);
  });
});
