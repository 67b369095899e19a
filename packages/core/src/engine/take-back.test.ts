import fc from 'fast-check';
import { pass, passBack, type Compiled, type Effect, type SubjectState } from '../index.ts';
import { actions, compiled, fresh, onOrder, order, rule, standingContact } from '../testing/acting.ts';
import { standing, treeOf } from '../testing/ledger.ts';
import { DAY, NOW, worlds, type MadeWorld } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
describe('taking back', () => {
  const worked = (definitions: Compiled, world: MadeWorld, gap: number): { state: SubjectState; effects: readonly Effect[] } => {
    const state = standingContact(definitions, world);
    pass(definitions, state, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    const effects = pass(definitions, state, { kind: 'signal', signal: order(2, NOW + gap), data: {} }, NOW + gap);
    // Taking nothing back brings up all that the clock has changed meanwhile, as taking something back does.
    passBack(definitions, state, [], { kind: 'take back', ref: 'test' }, NOW + gap);
    return { state, effects };
  };

  it('a rule right after it ran is as if it had not run, whatever it does', () => {
    let taken = 0;
    fc.assert(
      fc.property(fc.array(actions, { minLength: 1, maxLength: 5 }), worlds, fc.integer({ min: 1, max: 3 * DAY }), (then, world, gap) => {
        const acting = rule(101, { ...onOrder, where: [] }, then, {});
        // The rule is there in both, and in one of them its "if" never holds.
        const idle = { ...acting, body: { ...acting.body, if: { match: 'any', of: [] } } } as typeof acting;
        const without = worked(compiled(idle), world, gap);
        // The first order is before the rule was there.
        const state = standingContact(compiled(idle), world);
        pass(compiled(idle), state, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
        const on = compiled(acting);
        const effects = pass(on, state, { kind: 'signal', signal: order(2, NOW + gap), data: {} }, NOW + gap);
        const fired = effects.find((effect) => effect.kind === 'firing' && effect.verb === 'fired' && effect.definitionId === 101);
        expect(fired).toBeDefined();
        const back = passBack(on, state, treeOf(effects, fired as Effect), { kind: 'take back', ref: 'test' }, NOW + gap);
        expect(back.stays).toEqual([]);
        taken += back.effects.length;
        expect(standing(state)).toEqual(standing(without.state));
        expect(back.effects.some((effect) => effect.verb === 'fired')).toBe(false);
      }),
      { numRuns: RUNS },
    );
    expect(taken).toBeGreaterThan(RUNS);
  });

  it('a signal right after it came is as if it had never come, whatever rules made of it', () => {
    let taken = 0;
    fc.assert(
      fc.property(fc.array(actions, { minLength: 1, maxLength: 5 }), worlds, fc.integer({ min: 1, max: 3 * DAY }), (then, world, gap) => {
        const on = compiled(rule(101, { ...onOrder, where: [] }, then, {}));
        const once = (): SubjectState => {
          const state = standingContact(on, world);
          pass(on, state, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
          return state;
        };
        const without = once();
        passBack(on, without, [], { kind: 'take back', ref: 'test' }, NOW + gap);
        const state = once();
        const effects = pass(on, state, { kind: 'signal', signal: order(2, NOW + gap), data: {} }, NOW + gap);
        const came = effects.filter(({ cause, parent }) => cause.kind === 'signal' && cause.signalId === 2 && parent === undefined);
        const tree = [...new Map(came.flatMap((root) => treeOf(effects, root)).map((entry) => [entry.id, entry])).values()];
        const back = passBack(on, state, tree, { kind: 'take back', ref: 'test' }, NOW + gap, { signals: new Set([2]) });
        taken += back.effects.filter(({ kind, verb }) => kind === 'signal' && verb === 'taken back').length;
        expect([...state.signals.values()].flat().map(({ id }) => id)).not.toContain(2);
        expect(standing(state)).toEqual(standing(without));
        expect(back.effects.some(({ verb }) => verb === 'fired')).toBe(false);
      }),
      { numRuns: RUNS },
    );
    expect(taken).toBe(RUNS);
  });

  it('leaves what was changed since, and says why', () => {
    const definitions = compiled(
      rule(101, onOrder, [
        { do: 'set field', field: 10, value: 'Seen' },
        { do: 'add tag', tag: 30 },
      ]),
    );
    const contact = fresh();
    const effects = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    const by = { kind: 'person', ref: 'ada' } as const;
    pass(
      definitions,
      contact,
      { kind: 'edit', changes: [{ kind: 'field', field: 10, value: { fact: 'mine', shown: 'Mine' } }], cause: by },
      NOW + 1,
    );
    const hand = { kind: 'hand', ref: 'ada' } as const;
    pass(definitions, contact, { kind: 'edit', changes: [{ kind: 'tag', tag: 30, add: true, reason: hand }], cause: by }, NOW + 2);
    const fired = effects.find((effect) => effect.verb === 'fired' && effect.definitionId === 101) as Effect;
    const back = passBack(definitions, contact, treeOf(effects, fired), { kind: 'take back', ref: 'ada' }, NOW + 3);
    expect(back.stays).toEqual([{ entry: expect.any(Number) as number, why: 'it has been changed since' }]);
    expect(contact.shown.get(10)).toBe('Mine');
    expect(contact.tags.get(30)?.reasons).toEqual([hand]);
  });

  it('subtracts an increase, whatever was added since', () => {
    const definitions = compiled(rule(101, onOrder, [{ do: 'increase field', field: 11, by: 3 }]));
    const contact = fresh();
    const first = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    pass(definitions, contact, { kind: 'signal', signal: order(2, NOW + 1), data: {} }, NOW + 1);
    expect(contact.facts.get(11)).toBe(6_000_000);
    const fired = first.find((effect) => effect.verb === 'fired') as Effect;
    passBack(definitions, contact, treeOf(first, fired), { kind: 'take back', ref: 'ada' }, NOW + 2);
    expect(contact.facts.get(11)).toBe(3_000_000);
    expect(contact.firings.get(101)).toMatchObject({ times: 1 });
  });

  it('gives a tag back the value that it had before another reason came with another value', () => {
    const definitions = compiled(rule(101, onOrder, [{ do: 'add tag', tag: 32, value: 4 }]));
    const contact = fresh();
    const hand = { kind: 'hand', ref: 'ada' } as const;
    const by = { kind: 'person', ref: 'ada' } as const;
    pass(definitions, contact, { kind: 'edit', changes: [{ kind: 'tag', tag: 32, add: true, reason: hand, value: 1 }], cause: by }, NOW);
    const effects = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW + 1), data: {} }, NOW + 1);
    expect(contact.tags.get(32)?.value).toBe(4_000_000);
    const fired = effects.find((effect) => effect.verb === 'fired') as Effect;
    passBack(definitions, contact, treeOf(effects, fired), { kind: 'take back', ref: 'ada' }, NOW + 2);
    expect(contact.tags.get(32)).toEqual({ since: NOW, reasons: [hand], value: 1 });
    expect(contact.pastTags.get(32)).toEqual([]);
  });

  it('leaves what a tag once was when the value goes that it was given later', () => {
    const definitions = compiled(rule(101, onOrder, [{ do: 'add tag', tag: 32, value: 4 }]));
    const contact = fresh();
    const past = { since: NOW - DAY, until: NOW - 1, value: undefined, went: true };
    contact.tags.set(32, { since: NOW - DAY, reasons: [{ kind: 'hand', ref: 'ada' }], value: undefined });
    contact.pastTags.set(32, [past]);
    const effects = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    const fired = effects.find((effect) => effect.verb === 'fired') as Effect;
    passBack(definitions, contact, treeOf(effects, fired), { kind: 'take back', ref: 'ada' }, NOW + 1);
    expect(contact.tags.get(32)).toMatchObject({ since: NOW - DAY, value: undefined });
    expect(contact.pastTags.get(32)).toEqual([past]);
  });

  it('lets a rule run again that may run once', () => {
    const definitions = compiled(rule(101, onOrder, [{ do: 'add tag', tag: 30 }], { limit: 1 }));
    const contact = fresh();
    const effects = pass(definitions, contact, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
    const fired = effects.find((effect) => effect.verb === 'fired' && effect.definitionId === 101) as Effect;
    passBack(definitions, contact, treeOf(effects, fired), { kind: 'take back', ref: 'ada' }, NOW + 1);
    expect(contact.tags.has(30)).toBe(false);
    pass(definitions, contact, { kind: 'signal', signal: order(2, NOW + 2), data: {} }, NOW + 2);
    expect(contact.tags.has(30)).toBe(true);
  });
});
