import fc from 'fast-check';
import { Catalogue, Compiled, pass, type AnyDefinition } from '../index.ts';
import { arrive, BARE, newcomer, ruleOf, signalOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW, typeId, WORKSPACE } from '../testing/world.ts';

const ordered = typeId('order.placed');
const audience = (id: number, condition: unknown): AnyDefinition =>
  definition(id, 'audience', `a-${id}`, `A ${id}`, { kind: 'live', of: 'contact', condition });
const signal = (more: object = {}) => ({ kind: 'signal', type: ordered, ...more });
const compiled = new Compiled(
  new Catalogue(WORKSPACE, [
    ...BARE,
    audience(170, signal()),
    audience(171, signal({ count: { op: '>=', value: 3 } })),
    audience(172, { match: 'none', of: [signal({ within: { last: 90, unit: 'days' } })] }),
    audience(173, { kind: 'signal', type: typeId('page.visited') }),
    ruleOf(150, {
      when: { kind: 'becomes', condition: { match: 'none', of: [signal() as never] } },
      then: [{ do: 'set stage', stage: 36 }],
    }),
  ]),
);
const CAUSE = { kind: 'definition', ref: `${ordered}/2` } as const;

describe('signals that are forgotten', () => {
  it('are as if they had never been, for whatever rests on them now; nothing is set off, and one row tells of all of a type', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ daysAgo: fc.integer({ min: 1, max: 200 }), type: fc.constantFrom('order.placed', 'page.visited') }), {
          maxLength: 12,
        }),
        fc.integer({ min: 1, max: 200 }),
        (all, keepDays) => {
          const signals = all
            .map(({ daysAgo, type }) => signalOf(type, type === 'order.placed' ? { order: '1' } : {}, NOW - daysAgo * DAY))
            .sort((a, b) => a.time - b.time);
          const isOld = ({ time, typeId: type }: (typeof signals)[number]): boolean => type === ordered && time < NOW - keepDays * DAY;
          const state = newcomer();
          for (const each of signals) arrive(compiled, state, each);
          const stage = state.stage;
          const gone = signals.filter(isOld);
          const effects = pass(compiled, state, { kind: 'forget', signals: new Set(gone.map(({ id }) => id)), cause: CAUSE }, NOW);
          const fresh = newcomer();
          for (const each of signals.filter((one) => !isOld(one))) arrive(compiled, fresh, each);
          pass(compiled, fresh, { kind: 'due' }, NOW);
          expect([...state.memberships.keys()].sort()).toEqual([...fresh.memberships.keys()].sort());
          expect(state.stage).toEqual(stage);
          expect(told(effects).filter((each) => each.startsWith('signal') || each.startsWith('firing'))).toEqual(
            gone.length > 0 ? ['signal forgotten'] : [],
          );
        },
      ),
      { numRuns: 300 },
    );
  });
});
