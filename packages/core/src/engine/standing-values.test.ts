import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  convertFact,
  pass,
  showFact,
  withChoiceMerged,
  withFieldReplaced,
  type AnyDefinition,
  type Definition,
  type Fact,
  type FieldBody,
} from '../index.ts';
import { BARE, edit, ruleOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW, options, WORKSPACE } from '../testing/world.ts';
import { SubjectState } from './state.ts';

const [ONE, SEVERAL, COMPANY_ONE] = [16, 17, 22];
const audience = (id: number, condition: unknown): AnyDefinition =>
  definition(id, 'audience', `a-${id}`, `A ${id}`, { kind: 'live', of: 'contact', condition });
const is = (field: number, op: string, value: unknown, of = 'contact') => ({ kind: 'field', of, field, op, value });

/** Each audience, and what it asks once a and b are one and the same: what it holds for must be the same people before and after. */
const AUDIENCES = [
  { id: 170, asks: is(ONE, 'is', 'a'), same: is(ONE, 'is one of', ['a', 'b']) },
  { id: 171, asks: is(ONE, 'is', 'b'), same: is(ONE, 'is one of', ['a', 'b']) },
  { id: 172, asks: is(ONE, 'is not', 'a'), same: is(ONE, 'is not one of', ['a', 'b']) },
  { id: 173, asks: is(ONE, 'is one of', ['a', 'c']), same: is(ONE, 'is one of', ['a', 'b', 'c']) },
  { id: 174, asks: is(SEVERAL, 'has any of', ['a']), same: is(SEVERAL, 'has any of', ['a', 'b']) },
  { id: 175, asks: is(SEVERAL, 'has none of', ['b']), same: is(SEVERAL, 'has none of', ['a', 'b']) },
  { id: 176, asks: is(COMPANY_ONE, 'is', 'a', 'company'), same: is(COMPANY_ONE, 'is one of', ['a', 'b'], 'company') },
  {
    id: 177,
    asks: { kind: 'change', what: 'field', key: ONE, to: ['a'], within: { last: { n: 30, unit: 'days' } } },
    same: { kind: 'change', what: 'field', key: ONE, to: ['a', 'b'], within: { last: { n: 30, unit: 'days' } } },
  },
] as const;
const BECOMES = ruleOf(151, { when: { kind: 'becomes', condition: is(ONE, 'is', 'b') as never }, then: [{ do: 'set stage', stage: 36 }] });

function world(which: 'asks' | 'same'): readonly AnyDefinition[] {
  return [...BARE, BECOMES, ...AUDIENCES.map((each) => audience(each.id, each[which]))];
}

/** The same definitions with some of them changed, in a new epoch. */
function changed(all: readonly AnyDefinition[], by: readonly AnyDefinition[], epoch: number): Compiled {
  const known = new Map(by.map((each) => [each.id, { ...each, version: each.version + 1, epoch } as AnyDefinition]));
  return new Compiled(new Catalogue(WORKSPACE, [...all.map((each) => known.get(each.id) ?? each)]), epoch);
}

function merged(all: readonly AnyDefinition[], fields: readonly number[], from: string, into: string, epoch: number) {
  let now = all;
  for (const field of fields) {
    const catalogue = new Catalogue(WORKSPACE, now);
    const result = withChoiceMerged(catalogue, catalogue.get('field', field) as Definition<'field'>, from, into);
    const by = new Map<number, AnyDefinition>([...result.others, result.field as AnyDefinition].map((each) => [each.id, each]));
    now = now.map((each) => by.get(each.id) ?? each);
  }
  return {
    compiled: changed(
      all,
      now.filter((each, at) => each !== all[at]),
      epoch,
    ),
    all: now,
  };
}

const BEFORE = new Compiled(new Catalogue(WORKSPACE, world('same')), 1);
const ASKED = new Compiled(new Catalogue(WORKSPACE, world('asks')), 1);
const AFTER = merged(world('asks'), [ONE, SEVERAL, COMPANY_ONE], 'a', 'b', 2);

const choice = fc.option(fc.constantFrom('a', 'b', 'c'), { nil: undefined });
const many = fc.uniqueArray(fc.constantFrom('a', 'b', 'c')).map((keys): Fact | undefined => (keys.length === 0 ? undefined : keys.sort()));
const somebody = fc.record({ was: choice, one: choice, several: many, company: choice, daysAgo: fc.integer({ min: 1, max: 60 }) });

function lived(compiled: Compiled, { was, one, several, company, daysAgo }: ReturnType<typeof somebody.generate>['value']): SubjectState {
  const state = new SubjectState({ id: 1, isNew: true, lastNow: NOW - 100 * DAY, dueAt: undefined, epoch: 1 });
  const set = (field: number, fact: Fact | undefined) =>
    ({ kind: 'field', field, value: fact === undefined ? undefined : { fact } }) as const;
  edit(compiled, state, [set(ONE, was)], NOW - 90 * DAY);
  edit(compiled, state, [set(ONE, one), set(SEVERAL, several)], NOW - daysAgo * DAY);
  edit(
    compiled,
    state,
    [{ kind: 'company', company: 7, facts: new Map(company === undefined ? [] : [[COMPANY_ONE, company]]) }],
    NOW - DAY / 2,
  );
  return state;
}
const audiencesOf = (state: SubjectState): readonly number[] => [...state.memberships.keys()].filter((id) => id >= 170).sort();

describe('choices that are merged', () => {
  it('have the people of both from then on, wherever they are asked for, and set nothing off', () => {
    fc.assert(
      fc.property(somebody, (who) => {
        // What the history keeps of a change from one of them to the other is told apart still.
        fc.pre(!(who.was !== who.one && [who.was, who.one].every((each) => each === 'a' || each === 'b')));
        const together = lived(BEFORE, who);
        pass(BEFORE, together, { kind: 'due' }, NOW);
        const state = lived(ASKED, who);
        const stage = state.stage;
        const effects = pass(AFTER.compiled, state, { kind: 'build' } as never, NOW);
        expect(audiencesOf(state)).toEqual(audiencesOf(together));
        expect(told(effects).filter((each) => each.startsWith('firing') || each.startsWith('stage'))).toEqual([]);
        expect(state.stage).toEqual(stage);
        expect([state.facts.get(ONE), state.facts.get(SEVERAL)].flat()).not.toContain('a');
        expect(pass(AFTER.compiled, state, { kind: 'build' } as never, NOW + 1)).toEqual([]);
      }),
      { numRuns: 400 },
    );
  });

  it('understand what still comes with the old choice', () => {
    const state = new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
    edit(AFTER.compiled, state, [{ kind: 'field', field: ONE, value: { fact: 'a' } }]);
    expect(state.facts.get(ONE)).toBe('b');
  });

  it('lead to the last of several that were merged one after the other', () => {
    const twice = merged(AFTER.all, [ONE], 'b', 'c', 3).compiled.catalogue.body('field', ONE);
    expect(twice?.options?.map(({ key, replacedBy }) => [key, replacedBy])).toEqual([
      ['a', 'c'],
      ['b', 'c'],
      ['c', undefined],
    ]);
  });
});

const bodyOf = (type: FieldBody['type']): FieldBody => ({ of: 'contact', type, ...(type.includes('choice') ? { options } : {}) });
const facts: Readonly<Record<string, fc.Arbitrary<Fact>>> = {
  number: fc.integer({ min: -1e9, max: 1e9 }).map((n) => n * 1_000_000),
  date: fc.integer({ min: 0, max: 30_000 }),
  'date-time': fc.integer({ min: 0, max: 2e12 }),
  'yes/no': fc.constantFrom(0, 1),
  'one choice': fc.constantFrom('a', 'c'),
};

describe('a value of another type', () => {
  it.each(Object.keys(facts))('comes back as it was from the text of a %s', (type) => {
    fc.assert(
      fc.property(facts[type] as fc.Arbitrary<Fact>, (fact) => {
        const [field, text] = [bodyOf(type as FieldBody['type']), bodyOf('text')];
        const there = convertFact(field, text, { fact }, WORKSPACE);
        const back = there.ok && there.value ? convertFact(text, field, there.value, WORKSPACE) : undefined;
        expect(back).toMatchObject({ ok: true, value: { fact } });
      }),
    );
  });

  it('is that of a sum too where nobody kept how it was written, as of deals', () => {
    const number = convertFact(bodyOf('money'), bodyOf('number'), { fact: 125_050 }, WORKSPACE);
    expect(number).toMatchObject({ ok: true, value: { fact: 1_250_500_000 } });
  });

  it('keeps the day of a time by the zone of the workspace', () => {
    const evening = Date.UTC(2026, 5, 30, 22, 30);
    const day = convertFact(bodyOf('date-time'), bodyOf('date'), { fact: evening }, WORKSPACE);
    expect(day.ok && day.value && showFact(bodyOf('date'), day.value.fact)).toBe('2026-07-01');
  });
});

describe('a field that another one stands for', () => {
  const OLD = 10;
  const asks = audience(170, is(OLD, 'is', '12'));
  const start = [...BARE, asks];
  const number = definition(171, 'field', 'n-171', 'the text field', { of: 'contact', type: 'number' }) as Definition<'field'>;
  const catalogue = new Catalogue(WORKSPACE, [...start, number as AnyDefinition]);
  const old = catalogue.get('field', OLD) as Definition<'field'>;
  const swapped = withFieldReplaced(catalogue, old, number);
  const now = changed(
    [...start, number as AnyDefinition],
    [...swapped, { ...old, retired: true, body: { ...old.body, replacedBy: number.id } } as AnyDefinition],
    2,
  );
  const whoSays = (said: string): SubjectState => {
    const state = new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined, epoch: 1 });
    edit(new Compiled(new Catalogue(WORKSPACE, start), 1), state, [{ kind: 'field', field: OLD, value: { fact: said, shown: said } }]);
    return state;
  };

  it('changes what names it, and nothing else', () => {
    expect(swapped.map(({ id }) => id)).toEqual([asks.id]);
  });

  it('hands its values on, and what asked for it asks for the other', () => {
    const state = whoSays('12');
    expect(state.memberships.has(170)).toBe(true);
    const effects = pass(now, state, { kind: 'build' } as never, NOW + 1);
    expect(told(effects)).toEqual(['field set', 'field cleared']);
    expect([state.facts.get(OLD), state.facts.get(number.id), state.memberships.has(170)]).toEqual([undefined, 12_000_000, true]);
    expect(effects.map(({ cause }) => cause)).toEqual(Array(2).fill({ kind: 'definition', ref: `${OLD}/2` }));
  });

  it('keeps what the other does not take', () => {
    const state = whoSays('about twelve');
    expect(pass(now, state, { kind: 'build' } as never, NOW + 1)).toEqual([]);
    expect(state.facts.get(OLD)).toBe('about twelve');
  });

  it('leads what still comes for it to the other', () => {
    const state = whoSays('12');
    edit(now, state, [{ kind: 'field', field: OLD, value: { fact: '15', shown: '15' } }], NOW + 1);
    expect([state.facts.get(OLD), state.facts.get(number.id)]).toEqual([undefined, 15_000_000]);
  });

  it('leads on where the other was replaced as well', () => {
    const yes = definition(172, 'field', 'y-172', 'the text field', { of: 'contact', type: 'text' });
    const all = [old, { ...number, retired: true, body: { ...number.body, replacedBy: yes.id } }].map(
      (each) => ({ ...each }) as AnyDefinition,
    );
    const first = { ...all[0], retired: true, body: { ...old.body, replacedBy: number.id } } as AnyDefinition;
    const twice = new Compiled(new Catalogue(WORKSPACE, [...BARE.filter(({ id }) => id !== OLD), first, all[1] as AnyDefinition, yes]), 2);
    const state = new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
    edit(twice, state, [{ kind: 'field', field: OLD, value: { fact: '12', shown: '12' } }]);
    expect([OLD, number.id, yes.id].map((id) => state.facts.get(id))).toEqual([undefined, undefined, '12']);
  });
});
