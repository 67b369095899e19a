import fc from 'fast-check';
import { goesAt } from './expiry.ts';
import { clockTo, compiledWith, edit, newcomer, ruleOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW, WORKSPACE } from '../testing/world.ts';
import { Catalogue, Compiled, pass, readDay, startOfDay, type Change, type Effect, type SubjectState, type TagExpiry } from '../index.ts';

const ZONE = WORKSPACE.timeZone;
const SHORT = definition(131, 'tag', 'fam.short', 'short', { family: 29, expires: { afterDays: 3 } });
const DATED = definition(132, 'tag', 'fam.dated', 'dated', { family: 29, value: 'date', expires: 'on its date' });
const LASTING = definition(133, 'tag', 'fam.lasting', 'lasting', { family: 29 });
const GONE = ruleOf(134, {
  when: { kind: 'becomes', condition: { kind: 'tag', tag: 131, op: 'lost' } },
  then: [{ do: 'add tag', tag: 133 }],
});
const compiled = compiledWith(SHORT, DATED, LASTING, GONE);
const give = (tag: number, reason: string, value?: number): Change => ({
  ...{ kind: 'tag', tag, add: true, reason: { kind: 'hand', ref: reason } },
  ...(value === undefined ? {} : { value }),
});
const day = (text: string): number => readDay(text) as number;
const removed = (effects: readonly Effect[], tag: number): readonly number[] =>
  effects.filter(({ kind, verb, definitionId }) => kind === 'tag' && verb === 'removed' && definitionId === tag).map(({ at }) => at);

describe('a tag that goes by itself', () => {
  it('goes so many days after it came on, at that instant, and sets off what waits for it', () => {
    const state = newcomer();
    edit(compiled, state, [give(131, 'a')], NOW);
    // Being given for another reason does not prolong it.
    edit(compiled, state, [give(131, 'b')], NOW + DAY);
    expect(clockTo(compiled, state, NOW + 3 * DAY - 1)).toEqual([]);
    const effects = clockTo(compiled, state, NOW + 3 * DAY);
    expect(removed(effects, 131)).toEqual([NOW + 3 * DAY]);
    expect(effects.find(({ kind }) => kind === 'tag')?.cause).toEqual({ kind: 'clock' });
    expect(told(effects)).toEqual(['tag removed', 'firing fired', 'tag added']);
    expect([...state.tags.keys()]).toEqual([133]);
  });

  it('goes when its day begins, and waits where it carries none yet', () => {
    const state = newcomer();
    edit(compiled, state, [give(132, 'a')], NOW);
    expect(state.dueAt).toBeUndefined();
    edit(compiled, state, [give(132, 'a', day('2026-12-24'))], NOW + 1);
    const at = startOfDay(day('2026-12-24'), ZONE);
    expect(removed(clockTo(compiled, state, at + 5 * DAY), 132)).toEqual([at]);
    // A day that is over already: it does not stay.
    edit(compiled, state, [give(132, 'a', day('2020-01-01'))], at + 6 * DAY);
    expect(state.tags.has(132)).toBe(false);
  });

  it('never stands for longer than it may, whatever comes when', () => {
    const gift = fc.record({
      after: fc.integer({ min: 0, max: 5 * DAY }),
      tag: fc.constantFrom(131, 132, 133),
      reason: fc.constantFrom('a', 'b'),
      on: fc.integer({ min: day('2026-11-20'), max: day('2026-12-20') }),
      off: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(gift, { minLength: 1, maxLength: 15 }), (gifts) => {
        const state = newcomer();
        let now = NOW;
        for (const { after, tag, reason, on, off } of gifts) {
          now += after;
          clockTo(compiled, state, now);
          const change: Change = off
            ? { kind: 'tag', tag, add: false, reasons: { kind: 'hand', ref: reason } }
            : give(tag, reason, tag === 132 ? on : undefined);
          edit(compiled, state, [change], now);
          for (const [id, held] of state.tags) {
            const expires: TagExpiry | undefined = compiled.expiries.get(id);
            if (expires) expect(goesAt(expires, held, ZONE)).toBeGreaterThan(now);
          }
        }
      }),
    );
  });

  it('goes in silence from whoever has had it for longer when that is said', () => {
    const lasting = { ...SHORT, body: { family: 29 } } as typeof SHORT;
    const before = compiledWith(lasting, LASTING, GONE);
    const state: SubjectState = newcomer();
    edit(before, state, [give(131, 'a')], NOW);
    edit(before, state, [], NOW + 5 * DAY);
    const after = new Compiled(new Catalogue(WORKSPACE, [...before.catalogue.every('family'), SHORT, LASTING, GONE]), 7);
    const effects = pass(after, state, { kind: 'build', cause: { kind: 'definition', ref: '131/2' } }, NOW + 6 * DAY);
    expect(told(effects)).toEqual(['tag removed']);
    expect(state.tags.size).toBe(0);
  });
});
