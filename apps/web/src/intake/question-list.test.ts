import { checkForm, type Question } from '@eager-sieve/core';
import fc from 'fast-check';
import { grouped, newGroup, actionsOf, withActions, unmappedIn } from './answer-rows';
import { moved, newQuestion, placeForNew, removed, replaced, retyped, stillToDo, TYPE_WORDS } from './question-list';

const choice = (key: string, more: Partial<Question> = {}): Question => ({
  key,
  label: key,
  type: 'one choice',
  required: false,
  options: [
    { key: 'yes', name: 'Yes' },
    { key: 'no', name: 'No' },
  ],
  ...more,
});
const email: Question = { key: 'email', label: 'Email', type: 'email', required: true };
const FORM: readonly Question[] = [
  choice('fires', {
    options: [
      { key: 'yes', name: 'Yes', next: { question: 'where' } },
      { key: 'no', name: 'No' },
    ],
  }),
  choice('sells'),
  choice('where', { askedIf: [{ question: 'fires', anyOf: ['yes'] }], next: { question: 'email' } }),
  email,
];
const faults = (questions: readonly Question[]): unknown => checkForm({ published: false, questions });

describe('the questions of a form', () => {
  it('are followed by whatever names them when they, or their choices, go by another key', () => {
    const renamed = replaced(FORM, 0, { ...(FORM[0] as Question), key: 'kiln' });
    expect(renamed[2]?.askedIf).toEqual([{ question: 'kiln', anyOf: ['yes'] }]);
    const led = replaced(FORM, 2, { ...(FORM[2] as Question), key: 'place' });
    expect(led[0]?.options?.[0]?.next).toEqual({ question: 'place' });
    const [yes, no] = FORM[0]?.options ?? [];
    const other = replaced(FORM, 0, choice('fires', { options: [{ ...yes, key: 'gladly', name: 'Gladly' }, no] as Question['options'] }));
    expect(other[2]?.askedIf).toEqual([{ question: 'fires', anyOf: ['gladly'] }]);
    const without = replaced(FORM, 0, choice('fires', { options: [no] as Question['options'] }));
    expect(without[2]?.askedIf ?? []).toEqual([]);
    expect([renamed, led, other, without].map(faults)).toEqual([[], [], [], []]);
  });

  it('leave nothing that names one when it is removed', () => {
    for (const index of [0, 1, 2]) expect(faults(removed(FORM, index))).toEqual([]);
    expect(removed(FORM, 2)[0]?.options?.[0]).toEqual({ key: 'yes', name: 'Yes' });
  });

  it('are as many after one is moved, and come to stand below the one that is edited', () => {
    expect(moved(FORM, 0, 2).map(({ key }) => key)).toEqual(['sells', 'where', 'fires', 'email']);
    expect(moved(FORM, 0, 9)).toEqual(FORM);
    expect(placeForNew(FORM, 1)).toBe(2);
    expect(placeForNew(FORM, undefined)).toBe(3);
  });

  it('can be asked for another type of answer, and are right then', () => {
    const types = TYPE_WORDS.map(([type]) => type);
    fc.assert(
      fc.property(fc.constantFrom(...types), fc.constantFrom(...types), (from, to) => {
        fc.pre(from !== to);
        const begun = { ...newQuestion(from, FORM), label: 'It', min: 2, max: 1, groups: [{ key: 'g', name: 'G', words: ['w'] }] };
        expect(faults([retyped(begun, to), ...(to === 'email' ? [] : [email])])).toEqual([]);
      }),
    );
  });

  it('say what is still to do, by where it is to be done', () => {
    const todo = stillToDo({ intro: '', thanks: '', published: false, questions: [choice('a', { label: ' ', options: [] })] }, '');
    expect(todo.map(({ path, words }) => [path.join('.'), words])).toEqual([
      ['', 'give the form a name'],
      ['questions.0', 'give this question its words'],
      ['questions.0', 'give this question something to choose'],
      ['questions', 'needs exactly one question for the email address: it says who answers'],
    ]);
  });
});

describe('a row of an answer map', () => {
  it('is the same after it has been shown as actions', () => {
    const row = {
      key: 'a',
      name: 'A',
      add: [1, 2],
      remove: [3],
      does: [
        { do: 'add tag' as const, tag: 4, value: 5 },
        { do: 'put on list' as const, audience: 6 },
      ],
    };
    expect(withActions(row, actionsOf(row))).toEqual(row);
    expect(withActions(row, [])).toEqual({ key: 'a', name: 'A' });
  });

  it('takes an answer that was in none, so that it is in it from then on', () => {
    const question: Question = { key: 'why', label: 'Why?', type: 'text', required: false };
    const answers = ['Too dear!', 'No room'].map((answer) => ({ answer, people: 1, rows: [] }));
    const begun = { ...question, groups: [newGroup(question, 'room')] };
    expect(unmappedIn(begun, answers).map(({ answer }) => answer)).toEqual(['Too dear!']);
    expect(unmappedIn(grouped(begun, 'Too dear!', 'group-1'), answers)).toEqual([]);
    expect(unmappedIn(question, answers)).toHaveLength(2);
  });
});
