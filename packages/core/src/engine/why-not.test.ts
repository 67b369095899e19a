import fc from 'fast-check';
import { Compiled, Catalogue, Moment, pass, waysTo, type AnyDefinition, type Condition, type WayTo, type WhyLine } from '../index.ts';
import { compiledWith, edit, newcomer, ruleOf, send } from '../testing/engine.ts';
import { conditions, DAY, definition, DEFINITIONS, NOW, statesOf, typeId, WORKSPACE, worlds, ZONE } from '../testing/world.ts';

const GIVEN = definition(190, 'tag', 'fam.given', 'given', { family: 29 });
const LIST = definition(191, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' });
const give = [{ do: 'add tag' as const, tag: 190 }];
const moment = (at = NOW): Moment => new Moment(at, ZONE);
const flat = (lines: readonly WhyLine[]): readonly WhyLine[] => lines.flatMap((line) => [line, ...flat(line.of ?? [])]);
const saysOf = (ways: readonly WayTo[]): readonly (readonly [string, string])[] => ways.map(({ name, because }) => [name, because]);

describe('why something is not so', () => {
  it('nothing holds a rule back just where running it now would give it, whatever it asks', () => {
    let given = 0;
    const often = fc.constantFrom({}, { limit: 1 }, { pauseDays: 30 });
    fc.assert(
      fc.property(worlds, conditions, often, fc.boolean(), (world, condition, howOften, ranBefore) => {
        const rule = ruleOf(192, { when: { kind: 'sweep' }, if: condition, then: give, howOften });
        const compiled = new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, GIVEN, rule]));
        fc.pre(compiled.rules.has(192));
        const [state] = statesOf(world).contacts as [ReturnType<typeof newcomer>];
        if (ranBefore) state.put('firings', 192, { times: 1, lastAt: NOW - DAY });
        pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'test' } }, NOW);
        const [way] = waysTo(compiled, state, moment(), { of: 'tag', id: 190 });
        pass(compiled, state, { kind: 'sweep', of: 192, cause: { kind: 'sweep', ref: '1' } }, NOW);
        const runs = state.tags.has(190);
        given += runs ? 1 : 0;
        expect(way?.lines.every(({ holds }) => holds)).toBe(runs);
        // What is said of a group is what its lines come to.
        for (const { words, holds, of } of flat(way?.lines ?? []))
          if (of) expect(holds).toBe(words === 'any of these holds' ? of.some((each) => each.holds) : of.every((each) => each.holds));
      }),
      { numRuns: Number(process.env['PROPERTY_RUNS'] ?? 300) },
    );
    expect(given).toBeGreaterThan(20);
  });

  it('tells groups as they are: any of two lines that are not so is one thing that is not so', () => {
    const either = {
      match: 'any' as const,
      of: [
        { kind: 'tag' as const, tag: 30, op: 'has' as const },
        { kind: 'tag' as const, tag: 31, op: 'has' as const },
      ],
    };
    const compiled = compiledWith(GIVEN, ruleOf(192, { when: { kind: 'becomes', condition: { match: 'all', of: [either] } }, then: give }));
    const state = newcomer();
    edit(compiled, state, []);
    const [way] = waysTo(compiled, state, moment(), { of: 'tag', id: 190 });
    const any = flat(way?.lines ?? []).find(({ words }) => words === 'any of these holds');
    expect(any).toMatchObject({ holds: false, of: [{ words: 'they have the tag fam.one' }, { words: 'they have the tag fam.two' }] });
    expect(way?.because).toBe('Not so: they have the tag fam.one or they have the tag fam.two.');
  });

  it('says of each rule what holds it back: that it is off, that it never happened, that it ran already, that it waits', () => {
    const onOrder = { kind: 'signal' as const, type: typeId('order.placed') };
    const rules: readonly AnyDefinition[] = [
      ruleOf(193, { when: onOrder, then: give, on: false }),
      ruleOf(194, { when: onOrder, then: give }),
      ruleOf(195, { when: { kind: 'sweep' }, then: [{ do: 'run bundle', bundle: 197 }] }),
      ruleOf(196, { when: onOrder, then: [{ do: 'add tag', tag: 30 }] }),
    ];
    const bundle = definition(197, 'bundle', 'greet', 'Greet', { then: [{ action: give[0] }] });
    const compiled = compiledWith(GIVEN, bundle, ...rules);
    const state = newcomer();
    edit(compiled, state, []);
    const asked = () => saysOf(waysTo(compiled, state, moment(), { of: 'tag', id: 190 }));
    expect(asked()).toEqual([
      ['Rule 193', 'It is off.'],
      ['Rule 194', 'That never happened.'],
      ['Rule 195', 'All of this is so now. It does it when it is run.'],
      ['Greet', 'It does it when it is run by hand.'],
    ]);
    const limited = compiledWith(GIVEN, ruleOf(194, { when: onOrder, then: give, howOften: { limit: 1 } }));
    send(limited, state, 'order.placed', { order: '1' });
    edit(limited, state, [{ kind: 'tag', tag: 190, add: false, reasons: 'all' }]);
    const [way] = waysTo(limited, state, moment(), { of: 'tag', id: 190 });
    expect(way?.because).toBe('Not so: it runs once per contact, and ran once.');
  });

  it('tells the lines that a bundle asks for, and any of them where several of its steps give it', () => {
    const lines = (...conditions: readonly (Condition | undefined)[]) => {
      const bundle = definition(197, 'bundle', 'greet', 'Greet', {
        then: conditions.map((condition) => ({ action: give[0], ...(condition ? { if: condition } : {}) })),
      });
      const rule = ruleOf(195, { when: { kind: 'sweep' }, then: [{ do: 'run bundle', bundle: 197 }] });
      const compiled = compiledWith(GIVEN, bundle, rule);
      const state = newcomer();
      edit(compiled, state, []);
      return waysTo(compiled, state, moment(), { of: 'tag', id: 190 }).map(({ lines: all, because }) => [all.at(-1), because]);
    };
    const has = (tag: number): Condition => ({ kind: 'tag', tag, op: 'has' });
    const lacks: Condition = { kind: 'tag', tag: 31, op: 'lacks' };
    const [byRule, byHand] = lines({ match: 'all', of: [lacks, has(30)] });
    expect(byRule).toEqual([{ words: 'they have the tag fam.one', holds: false }, 'Not so: they have the tag fam.one.']);
    expect(byHand).toEqual(byRule);
    expect(lines(has(30), has(31))[0]).toMatchObject([
      { words: 'any of these holds', holds: false },
      'Not so: they have the tag fam.one or they have the tag fam.two.',
    ]);
    expect(lines(has(30), undefined)[1]).toEqual([undefined, 'It does it when it is run by hand.']);
  });

  it('tells what a bundle asks whom an answer runs it for', () => {
    const bundle = definition(197, 'bundle', 'greet', 'Greet', { then: [{ if: { kind: 'tag', tag: 30, op: 'has' }, action: give[0] }] });
    const does = [{ do: 'run bundle', bundle: 197 }];
    const form = definition(199, 'form', 'ask-them', 'Ask them', {
      ...{ intro: '', thanks: '', published: true },
      questions: [{ key: 'why', label: 'Why?', type: 'one choice', required: false, options: [{ key: 'a', name: 'Because', does }] }],
    });
    const compiled = compiledWith(GIVEN, bundle, form);
    const state = newcomer();
    send(compiled, state, 'form.answered', { form: 'ask-them', answers: { why: 'a' } });
    expect(state.tags.has(190)).toBe(false);
    expect(waysTo(compiled, state, moment(), { of: 'tag', id: 190 })[0]).toMatchObject({
      lines: [{ holds: true }, { holds: true }, { words: 'they have the tag fam.one', holds: false }],
      because: 'Not so: they have the tag fam.one.',
    });
  });

  it('asks maps, forms and links too, and lists and stages by what gives those', () => {
    const map = definition(198, 'map', 'products', 'Products', {
      ...{ on: true, path: 'items.product', reason: 'order', adds: [typeId('order.placed')], takes: [] },
      rows: [{ value: 'Glaze *', add: [190], remove: [] }],
    });
    const form = definition(199, 'form', 'ask-them', 'Ask them', {
      ...{ intro: '', thanks: '', published: true },
      questions: [{ key: 'why', label: 'Why?', type: 'one choice', required: false, options: [{ key: 'a', name: 'Because', add: [190] }] }],
    });
    const puts = ruleOf(200, {
      when: { kind: 'sweep' },
      then: [
        { do: 'put on list', audience: 191 },
        { do: 'set stage', stage: 36 },
      ],
    });
    const compiled = compiledWith(GIVEN, LIST, map, form, puts);
    const state = newcomer();
    edit(compiled, state, []);
    expect(saysOf(waysTo(compiled, state, moment(), { of: 'tag', id: 190 }))).toEqual([
      ['Products', 'That never happened.'],
      ['Ask them', 'They have not answered it.'],
    ]);
    send(compiled, state, 'order.placed', { order: '1', items: [{ product: 'Glaze green' }] });
    edit(compiled, state, [{ kind: 'tag', tag: 190, add: false, reasons: 'all' }]);
    expect(saysOf(waysTo(compiled, state, moment(), { of: 'tag', id: 190 }))[0]).toEqual([
      'Products',
      'It gave it, and it has gone since, or came before the row was there.',
    ]);
    send(compiled, state, 'form.answered', { form: 'ask-them', answers: { why: 'b' } });
    const ofForm = () => waysTo(compiled, state, moment(), { of: 'tag', id: 190 })[1];
    expect(ofForm()).toMatchObject({ because: 'They answered it otherwise.', lines: [{ holds: true }, { holds: false }] });
    send(compiled, state, 'form.answered', { form: 'ask-them', answers: { why: 'a' } });
    edit(compiled, state, [{ kind: 'tag', tag: 190, add: false, reasons: 'all' }]);
    expect(ofForm()).toMatchObject({ because: 'They answered so, and it has gone since.', lines: [{ holds: true }, { holds: true }] });
    for (const wanted of [{ of: 'list', id: 191 } as const, { of: 'stage', id: 36 } as const])
      expect(saysOf(waysTo(compiled, state, moment(), wanted))).toEqual([
        ['Rule 200', 'All of this is so now. It does it when it is run.'],
      ]);
    edit(compiled, state, [{ kind: 'stage', stage: 37, backward: false }]);
    expect(saysOf(waysTo(compiled, state, moment(), { of: 'stage', id: 36 }))).toEqual([
      ['Rule 200', 'Not so: suited is ahead of where they stand.'],
    ]);
  });
});
