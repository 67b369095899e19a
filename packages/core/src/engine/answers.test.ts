import fc from 'fast-check';
import { type FormBody, type SubjectState } from '../index.ts';
import { compiledWith, edit, newcomer, ruleOf, send, told } from '../testing/engine.ts';
import { BANDS, definition, NUMBER_FIELD, typeId } from '../testing/world.ts';

const LIST = definition(90, 'audience', 'list', 'By hand', { kind: 'fixed', of: 'contact' });
const CARD = definition(40, 'scorecard', 'card', 'Liking', { of: 'contact', min: 0, max: 30, bands: BANDS, lines: [] });
const BUNDLE = definition(92, 'bundle', 'greet', 'Greet', {
  then: [{ if: { kind: 'tag', tag: 31, op: 'has' }, action: { do: 'set stage', stage: 36 } }],
});

type Part = Partial<FormBody['questions'][number]> & { readonly key: string };
const formOf = (questions: readonly Part[], more: Partial<FormBody> = {}) =>
  definition(200, 'form', 'quiz', 'Quiz', {
    intro: '',
    thanks: '',
    published: true,
    ...more,
    questions: [
      ...questions.map((each) => ({ label: each.key, type: 'one choice', required: false, ...each })),
      { key: 'email', label: 'Email', type: 'email', required: true },
    ],
  });

/** A contact who answers a form, once for each set of answers. */
function whoAnswered(
  form: ReturnType<typeof formOf>,
  ...answers: readonly object[]
): { readonly state: SubjectState; readonly told: readonly string[] } {
  const compiled = compiledWith(
    LIST,
    CARD,
    BUNDLE,
    form,
    ruleOf(101, {
      when: { kind: 'signal', type: typeId('form.answered') },
      if: { kind: 'stage', op: 'is', value: 36 } as never,
      then: [{ do: 'set field', field: NUMBER_FIELD, value: 7 }],
    }),
  );
  const state = newcomer();
  edit(compiled, state, []);
  const all = answers.flatMap((each) => send(compiled, state, 'form.answered', { form: 'quiz', version: 1, answers: each }));
  return { state, told: told(all) };
}

const tagsOf = (state: SubjectState): readonly number[] => [...state.tags.keys()].sort((a, b) => a - b);

describe('the answer map of a form', () => {
  it('sorts what people wrote by whole words, in whatever writing, and gives up the tags of the answer before', () => {
    const form = formOf([
      {
        key: 'why',
        type: 'long text',
        groups: [
          { key: 'price', name: 'Too dear', words: ['expensive', 'too much money', 'dyrt'], add: [30] },
          { key: 'time', name: 'No time', words: ['time', 'tid'], add: [31] },
        ],
      },
    ]);
    expect(tagsOf(whoAnswered(form, { why: 'It is EXPENSIVE, and I have no time.' }).state)).toEqual([30, 31]);
    expect(tagsOf(whoAnswered(form, { why: 'Sometimes.' }).state)).toEqual([]);
    expect(tagsOf(whoAnswered(form, { why: 'För dyrt!' }, { why: 'ingen tid' }).state)).toEqual([31]);
    expect(whoAnswered(form, { why: 'dyrt' }).state.tags.get(30)?.reasons).toEqual([{ kind: 'form', ref: '200/why/price' }]);
  });

  it('sorts numbers by their limits, both included', () => {
    const groups = [
      { key: 'cool', name: 'Cool', to: 3, add: [30] },
      { key: 'warm', name: 'Warm', from: 3.5, to: 10, add: [31] },
    ];
    const form = formOf([{ key: 'likes', type: 'number', groups }]);
    const tags = (likes: unknown): readonly number[] => tagsOf(whoAnswered(form, { likes }).state);
    expect([tags(3), tags(3.2), tags('3.5'), tags(10), tags(10.000001), tags('much')]).toEqual([[30], [], [31], [31], [], []]);
  });

  it('does everything that a rule can do, once all answers have been applied, and rules see what came of it', () => {
    const form = formOf([
      {
        key: 'first',
        options: [
          {
            key: 'go',
            name: 'Go',
            does: [
              { do: 'run bundle', bundle: 92 },
              { do: 'put on list', audience: 90 },
              { do: 'give points', scorecard: 40, points: 12, keeps: 'forever' },
            ],
          },
        ],
      },
      { key: 'second', options: [{ key: 'on', name: 'On', add: [31] }] },
    ]);
    const { state } = whoAnswered(form, { first: 'go', second: 'on' });
    expect(state.stage).toMatchObject({ id: 36 });
    expect(state.memberships.has(90)).toBe(true);
    expect(state.scores.get(40)?.points).toBe(12_000);
    expect(state.facts.get(NUMBER_FIELD)).toBe(7_000_000);
    expect(whoAnswered(form, { first: 'go' }).state.stage).toBeUndefined();
  });

  it('gives points each time that somebody answers, and takes back a tag by what the answer is now', () => {
    const form = formOf([
      {
        key: 'first',
        options: [
          {
            key: 'a',
            name: 'A',
            does: [
              { do: 'give points', scorecard: 40, points: 5, keeps: 'forever' },
              { do: 'add tag', tag: 30 },
            ],
          },
          { key: 'b', name: 'B', add: [31] },
        ],
      },
    ]);
    expect(whoAnswered(form, { first: 'a' }, { first: 'a' }).state.scores.get(40)?.points).toBe(10_000);
    expect(tagsOf(whoAnswered(form, { first: 'a' }, { first: 'b' }).state)).toEqual([31]);
    expect(tagsOf(whoAnswered(form, { first: 'b' }, { first: 'a' }).state)).toEqual([30]);
  });

  it('counts only the last answer on the way, if so set, and then holds whoever answers to one', () => {
    const form = formOf(
      [
        {
          key: 'make',
          options: [
            { key: 'pots', name: 'Pots', add: [30] },
            { key: 'tiles', name: 'Tiles', next: { question: 'email' }, add: [31] },
          ],
        },
        { key: 'stops', options: [{ key: 'price', name: 'Price', add: [32] }] },
      ],
      { onlyLast: true },
    );
    expect(tagsOf(whoAnswered(form, { make: 'pots', stops: 'price' }).state)).toEqual([32]);
    expect(tagsOf(whoAnswered(form, { make: 'pots' }).state)).toEqual([30]);
    expect(tagsOf(whoAnswered(form, { make: 'pots', stops: 'price' }, { make: 'tiles' }).state)).toEqual([31]);
    // An answer off the way was given before somebody changed their mind.
    expect(tagsOf(whoAnswered(form, { make: 'tiles', stops: 'price' }).state)).toEqual([31]);
  });

  it('marks everybody who has answered to the end', () => {
    expect(tagsOf(whoAnswered(formOf([], { doneTags: [30] }), { email: 'a@b.example' }).state)).toEqual([30]);
  });

  it('leaves the same tags for the last answers, whatever was answered before', () => {
    const rows = ['a', 'b', 'c'].map((key, at) => ({ key, name: key, add: [30 + at] }));
    const answers = fc.record({ one: fc.constantFrom('a', 'b', 'c'), two: fc.subarray(['a', 'b', 'c'], { minLength: 1 }) });
    const form = formOf([
      { key: 'one', options: rows },
      { key: 'two', type: 'several choices', options: rows },
    ]);
    fc.assert(
      fc.property(fc.array(answers, { maxLength: 4 }), answers, (before, last) => {
        expect(tagsOf(whoAnswered(form, ...before, last).state)).toEqual(tagsOf(whoAnswered(form, last).state));
      }),
      { numRuns: 60 },
    );
  });
});
