import {
  differences,
  passBack,
  type Change,
  type Compiled,
  type Effect,
  type RuleAction,
  type Stays,
  type SubjectState,
} from '../index.ts';
import { arrive, compiledWith, edit, newcomer, ruleOf, signalOf, told } from '../testing/engine.ts';
import { standing, treeOf } from '../testing/ledger.ts';
import { BANDS, DAY, definition, NOW, typeId } from '../testing/world.ts';

const CARD = definition(40, 'scorecard', 'card', 'Liking', {
  of: 'contact',
  min: 0,
  max: 30,
  bands: BANDS,
  lines: [{ key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 12, stands: 'once held' }],
});
const LIST = definition(90, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' });
const TAGGED = definition(91, 'audience', 'tagged', 'Tagged', {
  kind: 'live',
  of: 'contact',
  condition: { kind: 'tag', tag: 30, op: 'has' },
});
const BACK = { kind: 'take back', ref: 'ada' } as const;
const hand = (tag: number, value?: number): Change => ({ kind: 'tag', tag, add: true, reason: { kind: 'hand', ref: 'ada' }, value });
const field = (id: number, fact: number | string): Change => ({ kind: 'field', field: id, value: { fact } });

interface Done {
  readonly compiled: Compiled;
  readonly state: SubjectState;
  readonly firing: Effect;
  readonly effects: readonly Effect[];
  readonly before: unknown;
}

/** A rule that does some things to somebody who is prepared. */
function run(then: readonly RuleAction[], prepared: readonly Change[] = []): Done {
  const compiled = compiledWith(
    CARD,
    LIST,
    TAGGED,
    ruleOf(101, { when: { kind: 'signal', type: typeId('order.placed') }, then: [...then] }),
  );
  const state = newcomer();
  edit(compiled, state, prepared, NOW - DAY);
  // The signal stays when what it set off is taken back.
  const signal = signalOf('order.placed', { order: 'o', amount: 10, currency: 'SEK' });
  const idle = compiledWith(CARD, LIST, TAGGED);
  const twin = newcomer();
  edit(idle, twin, prepared, NOW - DAY);
  arrive(idle, twin, signal);
  const effects = arrive(compiled, state, signal);
  const firing = effects.find((effect) => effect.verb === 'fired') as Effect;
  return { compiled, state, firing, effects, before: standing(twin) };
}
const takeBack = ({ compiled, state, effects, firing }: Done, now = NOW + 1): { effects: readonly Effect[]; stays: readonly Stays[] } =>
  passBack(compiled, state, treeOf(effects, firing), BACK, now);

describe('taken back, it is as it was before', () => {
  it.each<[string, readonly RuleAction[], readonly Change[]]>([
    ['a tag', [{ do: 'add tag', tag: 30 }], []],
    ['one more reason for a tag', [{ do: 'add tag', tag: 30 }], [hand(30)]],
    ['a tag that was taken away', [{ do: 'remove tag', tag: 30 }], [hand(30)]],
    ['a tag’s value', [{ do: 'add tag', tag: 32, value: 4 }], [hand(32, 1_000_000)]],
    ['a field', [{ do: 'set field', field: 10, value: 'Oak' }], []],
    ['a field that had another value', [{ do: 'set field', field: 10, value: 'Oak' }], [field(10, 'ash')]],
    ['a field that was cleared', [{ do: 'clear field', field: 10 }], [field(10, 'ash')]],
    ['an increase from nothing', [{ do: 'increase field', field: 11, by: 2 }], []],
    [
      'two increases',
      [
        { do: 'increase field', field: 11, by: 2 },
        { do: 'increase field', field: 11, by: 3 },
      ],
      [field(11, 1_000_000)],
    ],
    ['a place on a list', [{ do: 'put on list', audience: 90 }], []],
    ['a place that was lost', [{ do: 'take off list', audience: 90 }], [{ kind: 'list', audience: 90, on: true }]],
    ['points', [{ do: 'give points', scorecard: 40, points: 15, keeps: 'forever' }], []],
    ['a stage', [{ do: 'set stage', stage: 37 }], [{ kind: 'stage', stage: 35, backward: true }]],
    ['a first stage', [{ do: 'set stage', stage: 35 }], []],
    [
      'an owner',
      [{ do: 'assign owner', owner: 'b@test.example', replace: true }],
      [{ kind: 'owner', owner: 'a@test.example', replace: true }],
    ],
    [
      'tasks and notices',
      [
        { do: 'make task', title: 'Call', dueDays: 1 },
        { do: 'notify', text: 'Look' },
      ],
      [],
    ],
    [
      'everything at once',
      [
        { do: 'add tag', tag: 30 },
        { do: 'set field', field: 10, value: 'x' },
        { do: 'set field', field: 10, value: 'y' },
        { do: 'set stage', stage: 36 },
        { do: 'put on list', audience: 90 },
      ],
      [],
    ],
  ])('%s', (_what, then, prepared) => {
    const done = run(then, prepared);
    expect(done.effects.length).toBeGreaterThan(1);
    const { stays } = takeBack(done);
    expect(stays).toEqual([]);
    expect(standing(done.state)).toEqual(done.before);
    expect(differences(done.compiled, done.state, NOW + 1)).toEqual([]);
  });

  it('with what was derived of it, and the mark of a line that once held', () => {
    const done = run([{ do: 'add tag', tag: 30 }]);
    expect(done.state.scores.get(40)?.band).toBe('mid');
    expect(done.state.latchedLines.size).toBe(1);
    const { effects } = takeBack(done);
    expect(told(effects)).toEqual(expect.arrayContaining(['firing taken back', 'tag removed', 'membership left', 'band crossed']));
    expect(done.state.latchedLines.size).toBe(0);
    expect(done.state.memberships.has(91)).toBe(false);
  });
});

describe('what was changed since stays, and is named with why', () => {
  it.each<[string, RuleAction, Change, string]>([
    ['a field', { do: 'set field', field: 10, value: 'Oak' }, field(10, 'birch'), 'it has been changed since'],
    ['a stage', { do: 'set stage', stage: 36 }, { kind: 'stage', stage: 37, backward: true }, 'it has been changed since'],
    [
      'an owner',
      { do: 'assign owner', owner: 'a@test.example' },
      { kind: 'owner', owner: 'b@test.example', replace: true },
      'it has been changed since',
    ],
    [
      'a tag that has gone',
      { do: 'add tag', tag: 31 },
      { kind: 'tag', tag: 31, add: false, reasons: 'all' },
      'the tag no longer stands for that reason',
    ],
    ['a place on a list', { do: 'put on list', audience: 90 }, { kind: 'list', audience: 90, on: false }, 'it has been changed since'],
  ])('%s', (_what, action, since, why) => {
    const done = run([action]);
    edit(done.compiled, done.state, [since], NOW + 1);
    const before = standing(done.state);
    const { stays, effects } = takeBack(done, NOW + 2);
    expect(stays.map((each) => each.why)).toEqual([why]);
    expect(told(effects)).toEqual(['firing taken back']);
    // Nothing but the firing is other than it was.
    expect({ ...(standing(done.state) as object), firings: [] }).toEqual({ ...(before as object), firings: [] });
  });

  it('an increase is subtracted all the same', () => {
    const done = run([{ do: 'increase field', field: 11, by: 2 }]);
    edit(done.compiled, done.state, [field(11, 10_000_000)], NOW + 1);
    expect(takeBack(done, NOW + 2).stays).toEqual([]);
    expect(done.state.facts.get(11)).toBe(8_000_000);
  });

  it('a tag that got another reason keeps it', () => {
    const done = run([{ do: 'add tag', tag: 30 }]);
    edit(done.compiled, done.state, [hand(30)], NOW + 1);
    expect(takeBack(done, NOW + 2).stays).toEqual([]);
    expect(done.state.tags.get(30)?.reasons).toEqual([{ kind: 'hand', ref: 'ada' }]);
  });
});

describe('taking back what has gone since', () => {
  it('forgets that a line once held because of it', () => {
    const done = run([{ do: 'add tag', tag: 30 }]);
    edit(done.compiled, done.state, [{ kind: 'tag', tag: 30, add: false, reasons: 'all' }], NOW + 1);
    expect(done.state.scores.get(40)?.band).toBe('mid');
    expect(told(takeBack(done, NOW + 2).effects)).toEqual(['firing taken back', 'band crossed']);
    expect(done.state.scores.get(40)?.band).toBe('low');
  });
});

describe('taking back', () => {
  it('sets nothing off, and does not count for how often', () => {
    const becoming = ruleOf(102, {
      when: { kind: 'becomes', condition: { kind: 'tag', tag: 30, op: 'lacks' } },
      then: [{ do: 'set field', field: 10, value: 'lost it' }],
    });
    const compiled = compiledWith(
      becoming,
      ruleOf(101, { when: { kind: 'signal', type: typeId('order.placed') }, then: [{ do: 'add tag', tag: 30 }], howOften: { limit: 1 } }),
    );
    const state = newcomer();
    const effects = arrive(compiled, state, signalOf('order.placed'));
    const firing = effects.find((effect) => effect.definitionId === 101) as Effect;
    state.facts.clear();
    const back = passBack(compiled, state, treeOf(effects, firing), BACK, NOW + 1);
    expect(back.effects.some((effect) => effect.verb === 'fired')).toBe(false);
    expect(state.facts.has(10)).toBe(false);
    expect(told(arrive(compiled, state, signalOf('order.placed', {}, NOW + 2)))).toContain('firing fired');
  });

  it('of what cannot be taken back says so: consent, and that somebody was added', () => {
    const compiled = compiledWith();
    const state = newcomer();
    const effects = arrive(compiled, state, signalOf('consent.given', { channel: 'email' }));
    const entries = effects.flatMap((effect, at) => treeOf([effect], effect, at + 1));
    const { stays } = passBack(compiled, state, entries, BACK, NOW + 1);
    expect(stays.map((each) => each.why).sort()).toEqual([
      'consent is only given and withdrawn by the person themselves',
      'who was added stays',
    ]);
    expect(state.consent.get('email')?.state).toBe('given');
  });
});
