import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  pass,
  rehearse,
  withRuleOn,
  type AnyDefinition,
  type Definition,
  type Effect,
  type Signal,
  type SubjectState,
} from '../index.ts';
import { conditions, DAY, definition, DEFINITIONS, NOW, statesOf, typeId, WORKSPACE, worlds } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const EPOCH = 4;
const CARD = definition(40, 'scorecard', 'card', 'Liking', {
  of: 'contact',
  min: 0,
  max: 100,
  bands: [
    { key: 'low', name: 'low', from: 0 },
    { key: 'high', name: 'high', from: 8 },
  ],
  lines: [{ key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 10, stands: 'while' }],
});
const KEEN = definition(91, 'audience', 'keen', 'Keen', {
  kind: 'live',
  of: 'contact',
  condition: { kind: 'band', scorecard: 40, op: 'is', value: 'high' },
});
const NOTICES = definition(102, 'rule', 'notices', 'Notices', {
  when: { kind: 'becomes', condition: { kind: 'audience', audience: 91, op: 'in' } },
  then: [{ do: 'set stage', stage: 36 }],
  of: 'contact',
  howOften: {},
  beginsWith: 'from now on',
  maxAgeDays: 7,
  position: 1,
  on: true,
});
const base = [...DEFINITIONS.filter((each) => each.kind !== 'scorecard' && each.kind !== 'audience'), CARD, KEEN, NOTICES];
const ruleOf = (when: object, condition: object | undefined): Definition<'rule'> =>
  definition(101, 'rule', 'tried', 'Tried', {
    when,
    ...(condition ? { if: condition } : {}),
    then: [
      { do: 'add tag', tag: 30 },
      { do: 'increase field', field: 11, by: 2 },
    ],
    of: 'contact',
    howOften: { limit: 2 },
    beginsWith: 'everyone',
    maxAgeDays: 7,
    position: 1,
    on: false,
  }) as unknown as Definition<'rule'>;

/** Conditions of what a contact is and does; nothing here is read that is being defined. */
const alone = conditions.filter((condition) => !/"(audience|score|band)"/.test(JSON.stringify(condition)));
const whens = fc.oneof(
  fc.constantFrom('order.placed', 'message.opened', 'form.answered').map((type) => ({ kind: 'signal', type: typeId(type) })),
  alone.map((condition) => ({ kind: 'becomes', condition })),
  fc.constant({ kind: 'date', field: 13, days: 1, yearly: false, hour: 9 }),
  fc.constant({ kind: 'sweep' }),
);

const told = (effects: readonly Effect[]): unknown =>
  effects.map(({ kind, verb, definitionId, before, after, at }) => ({ kind, verb, definitionId, before, after, at }));

/** What the rule did in the first pass after it was turned on, whatever that pass was for. */
function didFirst(definitions: readonly AnyDefinition[], state: SubjectState): readonly Effect[] {
  const compiled = new Compiled(new Catalogue(WORKSPACE, definitions), EPOCH + 1);
  const visit: Signal = {
    id: 77,
    typeId: typeId('page.visited'),
    time: NOW - DAY,
    source: 's',
    senderId: 'first',
    details: {},
    historic: true,
  };
  const effects = pass(compiled, state, { kind: 'signal', signal: visit, data: {} }, NOW);
  const inside = new Set<Effect>();
  for (const effect of effects) {
    const root = effect.kind === 'firing' && effect.definitionId === 101 && effect.cause.kind === 'definition';
    if (root || (typeof effect.parent === 'object' && inside.has(effect.parent))) inside.add(effect);
  }
  return effects.filter((effect) => inside.has(effect));
}

describe('a rehearsal', () => {
  it('tells exactly what then happens, cascades included, whatever comes first', () => {
    let did = 0;
    fc.assert(
      fc.property(whens, fc.option(alone, { nil: undefined }), worlds, (when, condition, world) => {
        const rule = ruleOf(when, condition);
        const before = new Compiled(new Catalogue(WORKSPACE, base), EPOCH);
        const worked = (): SubjectState => {
          const [state] = statesOf(world).contacts as [SubjectState];
          pass(before, state, { kind: 'build', cause: { kind: 'definition', ref: 'test' } }, NOW - DAY);
          return state;
        };
        const rehearsed = rehearse(withRuleOn(before, rule), worked(), 101, NOW);
        const on = { ...rule, epoch: EPOCH + 1, onEpoch: EPOCH + 1, body: { ...rule.body, on: true } } as AnyDefinition;
        const then = didFirst([...base, on], worked());
        expect(told(rehearsed)).toEqual(told(then));
        did += then.length;
      }),
      { numRuns: RUNS },
    );
    expect(did).toBeGreaterThan(RUNS / 5);
  });

  it('tells exactly what running the rule once does, and a second run does no more than the rule may', () => {
    let did = 0;
    fc.assert(
      fc.property(whens, fc.option(alone, { nil: undefined }), worlds, (when, condition, world) => {
        const rule = { ...ruleOf(when, condition), epoch: EPOCH };
        const compiled = new Compiled(new Catalogue(WORKSPACE, [...base, rule as AnyDefinition]), EPOCH);
        const [state, other] = [statesOf(world).contacts[0], statesOf(world).contacts[0]] as [SubjectState, SubjectState];
        for (const each of [state, other]) pass(compiled, each, { kind: 'build', cause: { kind: 'definition', ref: 'test' } }, NOW - DAY);
        const rehearsed = rehearse(withRuleOn(compiled, rule), other, 101, NOW);
        const run = { kind: 'sweep', of: 101, cause: { kind: 'sweep', ref: '1' } } as const;
        const swept = pass(compiled, state, run, NOW);
        expect(told(swept)).toEqual(told(rehearsed));
        const fired = swept.filter((effect) => effect.kind === 'firing' && effect.verb === 'fired' && effect.definitionId === 101).length;
        const again = pass(compiled, state, run, NOW);
        expect(again.filter((effect) => effect.verb === 'fired' && effect.definitionId === 101).length + fired).toBeLessThanOrEqual(2);
        did += swept.length;
      }),
      { numRuns: RUNS },
    );
    expect(did).toBeGreaterThan(RUNS / 5);
  });
});
