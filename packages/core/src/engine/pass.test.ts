import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  SubjectState,
  differences,
  pass,
  type AnyDefinition,
  type Condition,
  type Effect,
  type RuleBody,
  type Signal,
} from '../index.ts';
import { conditions, contacts, DEFINITIONS, NOW, typeId, WORKSPACE } from '../testing/world.ts';

const DAY = 86_400_000;
const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const definition = (id: number, kind: string, body: unknown): AnyDefinition =>
  ({ id, kind, key: `${kind}-${id}`, name: `${kind} ${id}`, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;
const bands = [
  { key: 'low', name: 'low', from: 0 },
  { key: 'mid', name: 'mid', from: 10 },
  { key: 'top', name: 'top', from: 20 },
];
const card = definition(40, 'scorecard', {
  of: 'contact',
  min: 0,
  max: 30,
  bands,
  lines: [
    { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 7, counts: { upTo: 1, per: 'day' }, keeps: { dropAfter: 7 } },
    { key: 'opens', kind: 'activity', type: typeId('message.opened'), points: 6, counts: 'every time', keeps: { halveEvery: 3 } },
    { key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 10, stands: 'once held' },
  ],
});
const without = DEFINITIONS.filter((each) => each.kind !== 'scorecard' && each.kind !== 'audience');
const audience = (id: number, condition: Condition) => definition(id, 'audience', { kind: 'live', of: 'contact', condition });
const rule = (id: number, body: Partial<RuleBody> & Pick<RuleBody, 'when' | 'then'>) =>
  definition(id, 'rule', { of: 'contact', howOften: {}, beginsWith: 'from now on', maxAgeDays: 7, position: 100, on: true, ...body });
const compiled = (...more: AnyDefinition[]): Compiled => new Compiled(new Catalogue(WORKSPACE, [...without, card, ...more]));
const fresh = (): SubjectState => new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
const order = (id: number, time = NOW): Signal => ({
  id,
  typeId: typeId('order.placed'),
  time,
  source: 's',
  senderId: String(id),
  details: {},
  historic: false,
});
const arrive = (definitions: Compiled, state: SubjectState, signal: Signal, now = NOW): readonly Effect[] =>
  pass(definitions, state, { kind: 'signal', signal, data: {} }, now);

/** Works every step of the clock up to an instant, each at its own. */
function until(definitions: Compiled, state: SubjectState, instant: number): void {
  for (let steps = 0; state.dueAt !== undefined && state.dueAt <= instant; steps += 1) {
    const due = state.dueAt;
    pass(definitions, state, { kind: 'due' }, due);
    expect(state.dueAt === undefined || state.dueAt > due).toBe(true);
    expect(steps).toBeLessThan(3_000);
  }
}

const derivedOf = (state: SubjectState): unknown => ({
  scores: [...state.scores].map(([id, score]) => [id, score.points, score.band]),
  members: [...state.memberships.keys()].sort((a, b) => a - b),
});

/** A condition that reads no audience: the one that is being defined would rest on itself. */
const alone = conditions.filter((condition) => !JSON.stringify(condition).includes('"audience"'));

describe('passes', () => {
  it('one after another, with the clock, end where a computation from scratch ends', () => {
    fc.assert(
      fc.property(
        alone,
        alone,
        contacts,
        fc.array(fc.integer({ min: 0, max: 20 * DAY }), { maxLength: 4 }),
        // What reads may have been made before what it reads.
        fc.constantFrom([41, 42], [24, 23], [27, 45]),
        (first, second, made, jumps, [one = 0, two = 0]) => {
          const definitions = compiled(
            audience(one, first),
            audience(two, { match: 'all', of: [{ kind: 'audience', audience: one, op: 'in' }, second] }),
          );
          const state = fresh();
          let now = NOW;
          pass(
            definitions,
            state,
            {
              kind: 'edit',
              cause: { kind: 'api', ref: 't' },
              changes: made.facts.map(({ field, fact, shown }) => ({
                kind: 'field',
                field,
                value: { fact, ...(shown === undefined ? {} : { shown }) },
              })),
            },
            now,
          );
          made.signals.forEach((signal, index) => {
            now += jumps[index] ?? 0;
            until(definitions, state, now);
            arrive(definitions, state, signal, now);
            expect(differences(definitions, state, state.lastNow)).toEqual([]);
          });
          for (const jump of jumps) {
            now += jump;
            until(definitions, state, now);
            expect(differences(definitions, state, now)).toEqual([]);
          }
        },
      ),
      { numRuns: RUNS },
    );
  });

  it('in any order of arrival end in the same derived state', () => {
    fc.assert(
      fc.property(alone, contacts, fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), (condition, made, chance) => {
        const definitions = compiled(audience(41, condition));
        const worked = (signals: readonly Signal[]): unknown => {
          const state = fresh();
          for (const signal of signals) arrive(definitions, state, signal);
          return derivedOf(state);
        };
        const shuffled = made.signals
          .map((signal) => ({ signal, at: chance.next().value as number }))
          .sort((a, b) => a.at - b.at)
          .map(({ signal }) => signal);
        if (made.signals.length > 0) expect(worked(shuffled)).toEqual(worked(made.signals));
      }),
      { numRuns: RUNS },
    );
  });

  it('of definitions made in another order come to the same', () => {
    const parts = [
      audience(43, { kind: 'audience', audience: 42, op: 'out' }),
      audience(42, { kind: 'band', scorecard: 40, op: 'is', value: 'low' }),
    ];
    const [one, other] = [parts, [...parts].reverse()].map((order_) => {
      const definitions = compiled(...order_);
      const state = fresh();
      arrive(definitions, state, order(1));
      return derivedOf(state);
    });
    expect(one).toEqual(other);
    expect(one).toMatchObject({ members: [42] });
  });

  it('keep a tag while one reason stands, and one tag of a family whose tags come one at a time', () => {
    const single = definition(28, 'family', { prefix: 'one', purpose: '', many: false });
    const definitions = compiled(
      single,
      definition(32, 'tag', { family: 28 }),
      definition(33, 'tag', { family: 28 }),
      rule(60, { when: { kind: 'signal', type: typeId('order.placed') }, then: [{ do: 'add tag', tag: 30 }] }),
    );
    const state = fresh();
    expect(arrive(definitions, state, order(1)).map((effect) => `${effect.kind} ${effect.verb}`)).toEqual([
      'contact added',
      'firing fired',
      'tag added',
      'band crossed',
    ]);
    expect(arrive(definitions, state, order(2)).map((effect) => effect.verb)).toEqual(['fired', 'reason added']);
    expect(state.tags.get(30)?.reasons).toHaveLength(2);
    const add = (tag: number) =>
      pass(
        definitions,
        state,
        {
          kind: 'edit',
          cause: { kind: 'person', ref: 'a' },
          changes: [{ kind: 'tag', tag, add: true, reason: { kind: 'hand', ref: 'a' } }],
        },
        NOW,
      );
    add(32);
    expect(add(33).map((effect) => [effect.verb, effect.definitionId])).toEqual([
      ['added', 33],
      ['removed', 32],
    ]);
  });

  it('judge every rule of a wave on the same snapshot, and apply them by position', () => {
    const lacksTwo: Condition = { kind: 'tag', tag: 31, op: 'lacks' };
    const definitions = compiled(
      rule(61, { when: { kind: 'signal', type: typeId('order.placed') }, if: lacksTwo, then: [{ do: 'add tag', tag: 30 }], position: 2 }),
      rule(62, { when: { kind: 'signal', type: typeId('order.placed') }, then: [{ do: 'add tag', tag: 31 }], position: 1 }),
    );
    const state = fresh();
    expect(
      arrive(definitions, state, order(1))
        .filter((effect) => effect.kind === 'tag')
        .map((effect) => effect.definitionId),
    ).toEqual([31, 30]);
  });

  it('bring a contact up to a changed definition in silence first, and let a rule begin with it once, whichever comes to it first', () => {
    const ordered: Condition = { kind: 'signal', type: typeId('order.placed') };
    const before = compiled();
    const newer = (each: AnyDefinition): AnyDefinition => ({ ...each, epoch: 5, onEpoch: 5 }) as AnyDefinition;
    const after = new Compiled(
      new Catalogue(WORKSPACE, [
        ...without,
        card,
        newer(audience(42, ordered)),
        newer(rule(66, { when: { kind: 'becomes', condition: ordered }, then: [{ do: 'add tag', tag: 31 }] })),
        newer(
          rule(67, { when: { kind: 'signal', type: typeId('order.placed') }, then: [{ do: 'add tag', tag: 30 }], beginsWith: 'everyone' }),
        ),
      ]),
      5,
    );
    const one = fresh();
    arrive(before, one, order(1));
    const other = fresh();
    arrive(before, other, order(1));
    const signalFirst = arrive(after, one, order(2));
    const buildFirst = [
      ...pass(after, other, { kind: 'build', cause: { kind: 'definition', ref: 'x' } }, NOW),
      ...arrive(after, other, order(2)),
    ];
    const told = (effects: readonly Effect[]): unknown => effects.map((effect) => [effect.kind, effect.verb, effect.definitionId]);
    expect(told(signalFirst)).toEqual(told(buildFirst));
    // It had ordered before the rule was there: nothing became true. The rule for everyone met its one past order, and then the new one.
    expect(signalFirst.filter((effect) => effect.verb === 'fired').map((effect) => [effect.definitionId, effect.cause.kind])).toEqual([
      [67, 'definition'],
      [67, 'signal'],
    ]);
    expect(pass(after, one, { kind: 'build', cause: { kind: 'definition', ref: 'x' } }, NOW)).toEqual([]);
  });

  it('hold to how often a rule may run: a limit, and a pause by the calendar', () => {
    const definitions = compiled(
      rule(63, {
        when: { kind: 'signal', type: typeId('order.placed') },
        then: [{ do: 'add tag', tag: 30 }],
        howOften: { limit: 2, pauseDays: 2 },
      }),
    );
    const state = fresh();
    const verbs = [0, 1, 2, 5].map((days) =>
      arrive(definitions, state, order(days + 1, NOW + days * DAY), NOW + days * DAY)
        .filter((effect) => effect.kind === 'firing')
        .map((effect) => [effect.verb, effect.after]),
    );
    expect(verbs.map((each) => each[0]?.[0])).toEqual(['fired', 'refused', 'fired', 'refused']);
    expect([verbs[1]?.[0]?.[1], verbs[3]?.[0]?.[1]]).toEqual(['pause', 'limit']);
  });

  it('stop a rule that circles, keep what was done, and hold it back for that contact', () => {
    const has = (op: 'has' | 'lacks'): Condition => ({ kind: 'tag', tag: 30, op });
    const definitions = compiled(
      rule(64, { when: { kind: 'becomes', condition: has('lacks') }, then: [{ do: 'add tag', tag: 30 }] }),
      rule(65, { when: { kind: 'becomes', condition: has('has') }, then: [{ do: 'remove tag', tag: 30 }] }),
    );
    const state = fresh();
    const effects = arrive(definitions, state, order(1));
    expect(effects.filter((effect) => effect.verb === 'circling').length).toBeGreaterThan(0);
    expect(state.suspendedRules.size).toBeGreaterThan(0);
    expect(arrive(definitions, state, order(2)).filter((effect) => effect.verb === 'fired')).toEqual([]);
  });

  it('name broken definitions and circles, and go on without them', () => {
    const definitions = compiled(
      audience(42, { kind: 'audience', audience: 43, op: 'in' }),
      audience(43, { kind: 'audience', audience: 42, op: 'in' }),
      audience(44, { kind: 'tag', tag: 999, op: 'has' }),
    );
    expect(definitions.broken.map((each) => [each.id, each.faults[0]?.code])).toEqual([
      [42, 'definition.circle'],
      [43, 'definition.circle'],
      [44, 'reference.gone'],
    ]);
  });

  it('bring up whoever reads a change of a band after the score, whichever of them was made first', () => {
    const rose: Condition = { kind: 'change', what: 'band', key: 40, to: ['mid'], within: { last: 7, unit: 'days' } };
    const definitions = compiled(
      audience(27, rose),
      rule(60, { when: { kind: 'becomes', condition: rose }, then: [{ do: 'add tag', tag: 31 }] }),
    );
    const state = fresh();
    arrive(definitions, state, order(1));
    expect(state.scores.get(40)?.band).toBe('low');
    arrive(definitions, state, order(2, NOW + DAY), NOW + DAY);
    expect(state.scores.get(40)?.band).toBe('mid');
    expect(state.memberships.has(27)).toBe(true);
    expect(state.tags.has(31)).toBe(true);
    expect(differences(definitions, state, NOW + DAY)).toEqual([]);
  });

  it('count a line that reads the history of its own band as soon as the band has moved', () => {
    const rose: Condition = { kind: 'change', what: 'band', key: 45, to: ['mid'], within: { last: 7, unit: 'days' } };
    const lines = [
      { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 12, counts: 'every time', keeps: { dropAfter: 30 } },
      { key: 'rose', kind: 'fact', condition: rose, points: 10, stands: 'while' },
    ];
    const definitions = compiled(definition(45, 'scorecard', { of: 'contact', min: 0, max: 90, bands, lines }));
    const state = fresh();
    pass(definitions, state, { kind: 'edit', changes: [], cause: { kind: 'person', ref: 'ada' } }, NOW - 1);
    arrive(definitions, state, order(1));
    expect(state.scores.get(45)).toMatchObject({ points: 22_000, band: 'top' });
    expect(differences(definitions, state, NOW)).toEqual([]);
  });

  it('never go back in time', () => {
    const definitions = compiled();
    const state = fresh();
    arrive(definitions, state, order(1), NOW);
    arrive(definitions, state, order(2), NOW - DAY);
    expect(state.lastNow).toBe(NOW);
  });
});
