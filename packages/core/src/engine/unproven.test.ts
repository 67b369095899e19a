import fc from 'fast-check';
import { type Change, type RuleAction, type SubjectState } from '../index.ts';
import { compiledWith, edit, HAND, newcomer, send } from '../testing/engine.ts';
import { COMPANY_NUMBER, definition, NOW, NUMBER_FIELD } from '../testing/world.ts';
import { pass } from './pass.ts';

const [LIST, OTHER_LIST, STYLE, PLAIN, RICH] = [190, 191, 192, 193, 194] as const;
const WORLD = [
  definition(LIST, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' }),
  definition(OTHER_LIST, 'audience', 'other', 'Also by hand', { kind: 'fixed', of: 'contact' }),
  definition(STYLE, 'family', 'style', 'Style', { prefix: 'style', purpose: '', many: false }),
  definition(PLAIN, 'tag', 'style.plain', 'plain', { family: STYLE }),
  definition(RICH, 'tag', 'style.rich', 'rich', { family: STYLE }),
];
const TEXT_FIELD = 10;

/** Everything that an answer could replace or take away. */
const ACTIONS = [
  { do: 'add tag', tag: PLAIN },
  { do: 'add tag', tag: RICH },
  { do: 'add tag', tag: 32, value: 8 },
  { do: 'remove tag', tag: 30 },
  { do: 'set field', field: NUMBER_FIELD, value: 7 },
  { do: 'set field', field: TEXT_FIELD, value: 'answered' },
  { do: 'clear field', field: TEXT_FIELD },
  { do: 'put on list', audience: LIST },
  { do: 'take off list', audience: OTHER_LIST },
  { do: 'set stage', stage: 35, backward: true },
  { do: 'set stage', stage: 36 },
  { do: 'assign owner', owner: 'new@test.example', replace: true },
] as unknown as readonly RuleAction[];

const reason = { kind: 'person', ref: HAND.ref } as const;
/** What somebody can have been given by hand before. */
const KNOWN = [
  { kind: 'tag', tag: PLAIN, add: true, reason },
  { kind: 'tag', tag: RICH, add: true, reason },
  { kind: 'tag', tag: 30, add: true, reason },
  { kind: 'tag', tag: 32, add: true, reason, value: 3_000_000 },
  { kind: 'field', field: NUMBER_FIELD, value: { fact: 1_000_000 } },
  { kind: 'field', field: TEXT_FIELD, value: { fact: 'by hand' } },
  { kind: 'list', audience: OTHER_LIST, on: true },
  { kind: 'stage', stage: 37, backward: false },
  { kind: 'owner', owner: 'old@test.example', replace: true },
] as unknown as readonly Change[];

const formOf = (does: readonly RuleAction[], add: readonly number[], answersReplace: boolean) =>
  definition(200, 'form', 'quiz', 'Quiz', {
    intro: '',
    thanks: '',
    published: true,
    answersReplace,
    questions: [
      { key: 'one', label: 'One', type: 'one choice', required: false, options: [{ key: 'a', name: 'A', add, does }] },
      { key: 'email', label: 'Email', type: 'email', required: true },
    ],
  });

const answer = { form: 'quiz', version: 1, answers: { one: 'a' } };

function after(known: readonly Change[], form: ReturnType<typeof formOf>, more: object): readonly [SubjectState, SubjectState] {
  const compiled = compiledWith(...WORLD, form);
  const [before, state] = [newcomer(), newcomer()];
  for (const each of [before, state]) edit(compiled, each, known);
  send(compiled, state, 'form.answered', { ...answer, ...more }, NOW + 1_000);
  return [before, state];
}

/** All that an answer could change, in one value. */
const standing = ({ facts, tags, stage, owner, memberships }: SubjectState): unknown => ({
  facts: [...facts],
  tags: [...tags].map(([tag, { value }]) => [tag, value]),
  lists: [...memberships.keys()],
  stage: stage?.id,
  owner,
});

const anything = {
  known: fc.uniqueArray(fc.constantFrom(...KNOWN), { maxLength: KNOWN.length }),
  does: fc.array(fc.constantFrom(...ACTIONS), { minLength: 1, maxLength: 6 }),
  add: fc.uniqueArray(fc.constantFrom(PLAIN, RICH, 31), { maxLength: 2 }),
};

describe('an answer from whoever typed the address', () => {
  it('replaces nothing that is known, and takes nothing away', () => {
    fc.assert(
      fc.property(anything.known, anything.does, anything.add, (known, does, add) => {
        const [before, state] = after(known, formOf(does, add, false), { unproven: true });
        for (const [field, fact] of before.facts) expect(state.facts.get(field)).toEqual(fact);
        for (const [tag, { value }] of before.tags)
          expect(state.tags.get(tag)?.value ?? (state.tags.has(tag) ? null : 'gone')).toEqual(value ?? null);
        for (const audience of before.memberships.keys()) expect(state.memberships.has(audience)).toBe(true);
        expect(state.stage?.id ?? 0).toBeGreaterThanOrEqual(before.stage?.id ?? 0);
        if (before.owner !== undefined) expect(state.owner).toBe(before.owner);
      }),
      { numRuns: 150 },
    );
  });

  it('does as much as any other where nothing is known yet, or where the form lets answers replace it', () => {
    fc.assert(
      fc.property(anything.known, anything.does, anything.add, (known, does, add) => {
        const own = after(known, formOf(does, add, false), {})[1];
        const replacing = after(known, formOf(does, add, true), { unproven: true })[1];
        expect(standing(replacing)).toEqual(standing(own));
      }),
      { numRuns: 100 },
    );
    const fills = ACTIONS.filter((each) => each.do !== 'clear field' && !('tag' in each && each.tag === RICH));
    expect(standing(after([], formOf(fills, [], false), { unproven: true })[1])).toEqual(
      standing(after([], formOf(fills, [], false), {})[1]),
    );
  });

  it('leaves the tags that another answer to the same question gave, and gives none beside them', () => {
    const letters = ['a', 'b', 'c'] as const;
    const tagged = { a: PLAIN, b: 31, c: 30 };
    const choices = fc.subarray([...letters]);
    const answersTo = (one: readonly string[], two: readonly string[]): object => ({
      form: 'quiz',
      version: 1,
      answers: { ...(one.length > 0 ? { one } : {}), ...(two.length > 0 ? { two } : {}) },
    });
    const several = (key: string, offset: number) => ({
      ...{ key, label: key, type: 'several choices', required: false },
      options: letters.map((letter, n) => ({ key: letter, name: letter, add: [tagged[letters[(n + offset) % 3] ?? 'a']] })),
    });
    fc.assert(
      fc.property(choices, choices, choices, choices, fc.boolean(), (one, two, later, laterTwo, onlyLast) => {
        const form = definition(200, 'form', 'quiz', 'Quiz', {
          ...{ intro: '', thanks: '', published: true, onlyLast },
          questions: [several('one', 0), several('two', 1), { key: 'email', label: 'Email', type: 'email', required: true }],
        });
        const compiled = compiledWith(...WORLD, form);
        const reasons = (state: SubjectState): readonly string[] =>
          [...state.tags].flatMap(([tag, held]) => held.reasons.map(({ ref }) => `${tag} ${ref}`)).sort();
        const [state, repeated] = [newcomer(), newcomer()];
        for (const each of [state, repeated]) send(compiled, each, 'form.answered', answersTo(one, two), NOW + 1_000);
        const before = reasons(state);
        send(compiled, state, 'form.answered', { ...answersTo(later, laterTwo), unproven: true }, NOW + 2_000);
        const after = reasons(state);
        expect(after).toEqual(expect.arrayContaining([...before]));
        for (const [key, then, now] of [
          ['one', one, later],
          ['two', two, laterTwo],
        ] as const) {
          const isOtherwise = then.some((letter) => !now.includes(letter));
          const given = (all: readonly string[]): readonly string[] => all.filter((each) => each.includes(`200/${key}/`));
          if (isOtherwise && now.length > 0) expect(given(after)).toEqual(given(before));
        }
        send(compiled, repeated, 'form.answered', { ...answersTo(one, two), unproven: true }, NOW + 2_000);
        expect(reasons(repeated)).toEqual(before);
      }),
      { numRuns: 200 },
    );
  });

  it('gives what nobody answered before, and what was answered alike', () => {
    const compiled = compiledWith(...WORLD, formOf([], [31], false));
    const state = newcomer();
    send(compiled, state, 'form.answered', { ...answer, unproven: true }, NOW + 1_000);
    expect([...state.tags.keys()]).toEqual([31]);
  });

  it('asks their company to take over only what is not known of it', () => {
    const does = [{ do: 'set company field', field: COMPANY_NUMBER, value: 40 }] as unknown as readonly RuleAction[];
    const compiled = compiledWith(...WORLD, formOf(does, [], false));
    const asked = (more: object): readonly unknown[] => {
      const state = newcomer();
      edit(compiled, state, []);
      state.company = 5;
      return send(compiled, state, 'form.answered', { ...answer, ...more }).flatMap(({ request }) =>
        request?.to === 'company' ? request.changes : [],
      );
    };
    const change = { kind: 'field', field: COMPANY_NUMBER, value: { fact: 40_000_000 } };
    expect(asked({})).toEqual([change]);
    expect(asked({ unproven: true })).toEqual([{ ...change, fills: true }]);
  });

  it('is told to a company by a change that leaves what is known', () => {
    const compiled = compiledWith();
    const filled = (before: readonly Change[]): unknown => {
      const state = newcomer();
      edit(compiled, state, before);
      const fills = { kind: 'field', field: NUMBER_FIELD, value: { fact: 9 }, fills: true } as unknown as Change;
      pass(compiled, state, { kind: 'edit', changes: [fills], cause: HAND }, NOW + 1_000);
      return state.facts.get(NUMBER_FIELD as never);
    };
    expect(filled([])).toBe(9);
    expect(filled([KNOWN[4] as Change])).toBe(1_000_000);
  });
});
