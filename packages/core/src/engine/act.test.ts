import { type Effect, type RuleAction, type SubjectState } from '../index.ts';
import { arrive, compiledWith, edit, newcomer, ruleOf, send, signalOf, told } from '../testing/engine.ts';
import { BANDS, DAY, definition, NOW, NUMBER_FIELD, typeId } from '../testing/world.ts';

const LIST = definition(90, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' });
const CARD = definition(40, 'scorecard', 'card', 'Liking', { of: 'contact', min: 0, max: 30, bands: BANDS, lines: [] });
const ROWS = {
  rows: [
    { key: 'tagged', if: { kind: 'tag', tag: 31, op: 'has' }, owners: ['one@test.example'] },
    { key: 'rest', owners: ['one@test.example', 'two@test.example'] },
  ],
};
const routingOf = (more: object = {}) => definition(91, 'routing', 'desk', 'the desk', { ...ROWS, ...more });
const BUNDLE = definition(92, 'bundle', 'greet', 'Greet', {
  then: [{ action: { do: 'add tag', tag: 30 } }, { if: { kind: 'tag', tag: 31, op: 'has' }, action: { do: 'set stage', stage: 36 } }],
});

/** What one action does when an order sets its rule off. */
function did(
  then: readonly RuleAction[],
  prepare: (state: SubjectState, compiled: ReturnType<typeof compiledWith>) => void = () => undefined,
  data: object = { order: 'o1', amount: 120.5, currency: 'SEK' },
  routing: object = {},
): { readonly state: SubjectState; readonly effects: readonly Effect[] } {
  const compiled = compiledWith(
    LIST,
    CARD,
    routingOf(routing),
    BUNDLE,
    ruleOf(101, { when: { kind: 'signal', type: typeId('order.placed') }, then: [...then] }),
  );
  const state = newcomer();
  edit(compiled, state, []);
  prepare(state, compiled);
  const signal = signalOf('order.placed', data);
  const effects = arrive(compiled, state, signal, data);
  return { state, effects: effects.filter((effect) => effect.kind !== 'firing' && effect.kind !== 'contact') };
}

describe('an action of a rule', () => {
  it('adds a tag whose reason is the rule and the signal, and removes its own reasons or all', () => {
    const { state, effects } = did([{ do: 'add tag', tag: 30 }]);
    expect(told(effects)).toEqual(['tag added']);
    expect(state.tags.get(30)?.reasons).toEqual([{ kind: 'rule', ref: expect.stringMatching(/^101\/\d+$/) }]);

    const byHand = { kind: 'tag', tag: 30, add: true, reason: { kind: 'hand', ref: 'ada' } } as const;
    const kept = did(
      [
        { do: 'add tag', tag: 30 },
        { do: 'remove tag', tag: 30, only: 'this rule' },
      ],
      (each, compiled) => void edit(compiled, each, [byHand]),
    );
    expect(kept.state.tags.get(30)?.reasons).toEqual([{ kind: 'hand', ref: 'ada' }]);
    const gone = did([{ do: 'remove tag', tag: 30 }], (each, compiled) => void edit(compiled, each, [byHand]));
    expect(gone.state.tags.has(30)).toBe(false);
    expect(gone.state.pastTags.get(30)).toMatchObject([{ went: true }]);
  });

  it('gives a valued tag what is written, or what the signal says', () => {
    expect(did([{ do: 'add tag', tag: 32, value: 4.5 }]).state.tags.get(32)?.value).toBe(4_500_000);
    expect(did([{ do: 'add tag', tag: 32, value: { detail: 'amount' } }]).state.tags.get(32)?.value).toBe(120_500_000);
    expect(did([{ do: 'add tag', tag: 33, value: '2026-04-02' }]).state.tags.get(33)?.value).toBe(Date.UTC(2026, 3, 2) / DAY);
    expect(did([{ do: 'add tag', tag: 32, value: { detail: 'nothing.there' } }]).state.tags.get(32)?.value).toBeUndefined();
  });

  it('sets, clears and increases a field, and leaves it where the signal has nothing that fits', () => {
    expect(did([{ do: 'set field', field: 10, value: ' Seen ' }]).state.facts.get(10)).toBe('seen');
    expect(did([{ do: 'set field', field: 10, value: { detail: 'order' } }]).state.facts.get(10)).toBe('o1');
    expect(did([{ do: 'set field', field: 12, value: { detail: 'amount' } }]).state.facts.get(12)).toBe(12_050);
    expect(did([{ do: 'set field', field: NUMBER_FIELD, value: { detail: 'order' } }]).effects).toEqual([]);
    const day = (order: string): unknown =>
      did([{ do: 'set field', field: 13, value: { detail: 'order' } }], undefined, { order }).state.facts.get(13);
    expect(day('2026-04-02')).toBe(Date.UTC(2026, 3, 2) / DAY);
    // The day that it was in the workspace's zone, as everywhere else.
    expect(day('2026-04-02T23:30:00Z')).toBe(Date.UTC(2026, 3, 3) / DAY);
    expect(day('soon')).toBeUndefined();
    const two = did([
      { do: 'increase field', field: NUMBER_FIELD, by: 2 },
      { do: 'increase field', field: NUMBER_FIELD, by: 0.5 },
    ]);
    expect(two.state.facts.get(NUMBER_FIELD)).toBe(2_500_000);
    expect(told(two.effects)).toEqual(['field increased', 'field increased']);
    const cleared = did([
      { do: 'set field', field: 10, value: 'x' },
      { do: 'clear field', field: 10 },
      { do: 'clear field', field: 10 },
    ]);
    expect(cleared.state.facts.has(10)).toBe(false);
    expect(told(cleared.effects)).toEqual(['field set', 'field cleared']);
  });

  it('puts on a fixed list and takes off it, once each', () => {
    const on = did([
      { do: 'put on list', audience: 90 },
      { do: 'put on list', audience: 90 },
    ]);
    expect(told(on.effects)).toEqual(['membership joined']);
    const off = did([
      { do: 'put on list', audience: 90 },
      { do: 'take off list', audience: 90 },
    ]);
    expect(off.state.memberships.has(90)).toBe(false);
    expect(off.state.leavings.get(90)).toBe(NOW);
  });

  it('gives points that count from the signal, each firing its own', () => {
    const compiled = compiledWith(
      CARD,
      ruleOf(101, {
        when: { kind: 'signal', type: typeId('order.placed') },
        then: [{ do: 'give points', scorecard: 40, points: 6, keeps: { dropAfter: 3 } }],
      }),
    );
    const state = newcomer();
    send(compiled, state, 'order.placed', { order: '1' }, NOW - DAY);
    expect(state.scores.get(40)).toMatchObject({ points: 6_000, band: 'low' });
    const effects = send(compiled, state, 'order.placed', { order: '2' }, NOW);
    expect(told(effects)).toEqual(['firing fired', 'points given', 'band crossed']);
    expect(state.scores.get(40)).toMatchObject({ points: 12_000, band: 'mid' });
    expect([...state.points.values()].map((each) => each.at)).toEqual([NOW - DAY, NOW]);
  });

  it('sets a stage forward, marks what it jumps over, and goes back only where it is told to', () => {
    const forward = did([{ do: 'set stage', stage: 37 }]);
    expect(forward.state.stage?.id).toBe(37);
    expect(forward.effects[0]?.after).toMatchObject({ stage: 37, skipped: [35, 36] });
    const stays = did([
      { do: 'set stage', stage: 37 },
      { do: 'set stage', stage: 35 },
    ]);
    expect(stays.state.stage?.id).toBe(37);
    expect(told(stays.effects)).toEqual(['stage set', 'kept as it is']);
    expect(
      did([
        { do: 'set stage', stage: 37 },
        { do: 'set stage', stage: 35, backward: true },
      ]).state.stage?.id,
    ).toBe(35);
  });

  it('assigns an owner only where there is none, unless it says so', () => {
    const twice: readonly RuleAction[] = [
      { do: 'assign owner', owner: 'one@test.example' },
      { do: 'assign owner', owner: 'two@test.example' },
    ];
    const { state, effects } = did(twice);
    expect(state.owner).toBe('one@test.example');
    expect(told(effects)).toEqual(['owner set', 'kept as it is']);
    expect(did([twice[0] as RuleAction, { do: 'assign owner', owner: 'two@test.example', replace: true }]).state.owner).toBe(
      'two@test.example',
    );
  });

  it('asks a routing table by its first row that fits: one owner is given at once, of several the table says whose turn it is', () => {
    const tagged = did([
      { do: 'add tag', tag: 31 },
      { do: 'assign owner', routing: 91 },
    ]);
    expect(tagged.state.owner).toBe('one@test.example');
    const { effects, state } = did([{ do: 'assign owner', routing: 91 }]);
    expect(state.owner).toBeUndefined();
    expect(effects[0]).toMatchObject({
      kind: 'asked',
      verb: 'sent',
      request: { to: 'routing', id: 91, rows: ['rest'], replace: false, hop: 1 },
    });
  });

  it('asks a routing table in all rows that fit where the first one names somebody who does not take all that comes', () => {
    const asking: readonly RuleAction[] = [
      { do: 'add tag', tag: 31 },
      { do: 'assign owner', routing: 91 },
    ];
    const { effects, state } = did(asking, undefined, undefined, { people: [{ who: 'one@test.example', share: 1, perDay: 5 }] });
    expect(state.owner).toBeUndefined();
    expect(effects.at(-1)?.request).toMatchObject({ to: 'routing', rows: ['tagged', 'rest'] });
  });

  it('gives whoever gets a contact by a routing table its task and its notice, and nobody where there is an owner already', () => {
    const more = { task: { title: 'Say hello', dueDays: 0 }, notice: 'One more for you' };
    const asking: readonly RuleAction[] = [
      { do: 'add tag', tag: 31 },
      { do: 'assign owner', routing: 91 },
    ];
    const { effects } = did(asking, undefined, undefined, more);
    expect(told(effects)).toEqual(['tag added', 'owner set', 'task made', 'notice made']);
    const owned = effects.find((effect) => effect.kind === 'owner');
    expect(effects.slice(2).map(({ parent, workItem }) => [parent === owned, workItem])).toEqual([
      [true, expect.objectContaining({ title: 'Say hello', for: 'one@test.example' })],
      [true, { what: 'notice', text: 'One more for you', to: 'one@test.example' }],
    ]);
    const owns: RuleAction = { do: 'assign owner', owner: 'two@test.example' };
    expect(told(did([owns, ...asking], undefined, undefined, more).effects)).toEqual(['owner set', 'tag added', 'kept as it is']);
  });

  it('asks the company for a change of its field, and nobody where there is no company', () => {
    const action: RuleAction = { do: 'set company field', field: 20, value: 'customer' };
    expect(did([action]).effects).toEqual([]);
    const { effects } = did([action], (state) => {
      state.company = 700;
    });
    expect(effects[0]?.request).toMatchObject({
      to: 'company',
      id: 700,
      changes: [{ kind: 'field', field: 20, value: { fact: 'customer' } }],
    });
  });

  it('makes tasks that are due at the end of a local day, and notices, for whoever is named or minds the contact', () => {
    const { effects } = did([
      { do: 'assign owner', owner: 'one@test.example' },
      { do: 'make task', title: 'Call', dueDays: 1 },
      { do: 'make task', title: 'Write', dueDays: 0, for: 'two@test.example' },
      { do: 'notify', text: 'Look' },
    ]);
    expect(effects.flatMap((effect) => effect.workItem ?? [])).toEqual([
      { what: 'task', title: 'Call', due: Date.parse('2026-03-31T23:59:59.999+02:00'), for: 'one@test.example' },
      { what: 'task', title: 'Write', due: Date.parse('2026-03-30T23:59:59.999+02:00'), for: 'two@test.example' },
      { what: 'notice', text: 'Look', to: 'one@test.example' },
    ]);
  });

  it('runs what is in a bundle, each as far as its own condition holds', () => {
    const { state } = did([{ do: 'run bundle', bundle: 92 }]);
    expect(state.tags.has(30)).toBe(true);
    expect(state.stage).toBeUndefined();
    const byHand = { kind: 'tag', tag: 31, add: true, reason: { kind: 'hand', ref: 'ada' } } as const;
    expect(did([{ do: 'run bundle', bundle: 92 }], (each, compiled) => void edit(compiled, each, [byHand])).state.stage?.id).toBe(36);
  });
});
