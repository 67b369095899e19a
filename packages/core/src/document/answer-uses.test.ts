import { Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition } from '../settings/definitions.ts';
import { type FormBody } from '../forms/forms.ts';
import { WORKSPACE } from '../testing/definitions.ts';
import { lostAnswers } from './answer-uses.ts';

const FORM = {
  questions: [
    {
      key: 'stops',
      label: 'What stops you?',
      type: 'one choice',
      options: [
        { key: 'price', name: 'The price' },
        { key: 'time', name: 'Time' },
      ],
    },
    {
      key: 'makes',
      label: 'What do you make?',
      type: 'several choices',
      options: [
        { key: 'bowls', name: 'Bowls' },
        { key: 'mugs', name: 'Mugs' },
      ],
    },
    { key: 'email', label: 'Your email', type: 'email' },
  ],
} as unknown as FormBody;
const without = (question: string, choice?: string): FormBody => ({
  ...FORM,
  questions: FORM.questions.flatMap((each) =>
    each.key !== question
      ? [each]
      : choice === undefined
        ? []
        : [{ ...each, options: (each.options ?? []).filter(({ key }) => key !== choice) }],
  ),
});
const asks = (form: string | undefined, detail: object) => ({
  kind: 'signal',
  type: 1,
  where: [...(form === undefined ? [] : [{ path: 'form', op: 'is', value: form }]), detail],
});
const definition = (id: number, kind: string, key: string, body: object): AnyDefinition =>
  ({ id, kind, key, name: key, version: 1, retired: false, body }) as unknown as AnyDefinition;
const CATALOGUE = new Catalogue(WORKSPACE, [
  definition(1, 'rule', 'dear', { on: false, when: asks('find', { path: 'answers.stops', op: 'is', value: 'price' }), then: [] }),
  definition(2, 'audience', 'makers', {
    kind: 'live',
    of: 'contact',
    condition: { match: 'all', of: [asks('find', { some: 'answers.makes', of: [{ path: 'value', op: 'is', value: 'bowls' }] })] },
  }),
  definition(3, 'scorecard', 'keen', { lines: [asks(undefined, { path: 'answers.stops', op: 'is filled' })] }),
  definition(4, 'rule', 'other', { on: true, when: asks('another', { path: 'answers.stops', op: 'is', value: 'price' }), then: [] }),
]);
const lost = (after: FormBody) =>
  lostAnswers(CATALOGUE, 'find', FORM, after).map(({ question, choice, uses }) => [
    question,
    choice,
    uses.map(({ key, on }) => `${key}${on ? '' : ' (off)'}`),
  ]);

describe('what another version of a form takes away', () => {
  it('is nothing where every question and choice is still there', () => {
    expect(lost(FORM)).toEqual([]);
    expect(lost({ ...FORM, questions: [...FORM.questions].reverse() })).toEqual([]);
  });

  it('names what asks for a question that is gone, of this form or of any', () => {
    expect(lost(without('stops'))).toEqual([['What stops you?', undefined, ['dear (off)', 'keen']]]);
    expect(lost(without('email'))).toEqual([['Your email', undefined, []]]);
  });

  it('names what asks for a choice that is gone, and for one of several', () => {
    expect(lost(without('stops', 'price'))).toEqual([['What stops you?', 'The price', ['dear (off)']]]);
    expect(lost(without('stops', 'time'))).toEqual([['What stops you?', 'Time', []]]);
    expect(lost(without('makes', 'bowls'))).toEqual([['What do you make?', 'Bowls', ['makers']]]);
  });

  it('takes a question of another type for one that is gone', () => {
    const typed = {
      ...FORM,
      questions: FORM.questions.map((each) => (each.key === 'stops' ? { key: 'stops', label: each.label, type: 'text' } : each)),
    };
    expect(lost(typed as unknown as FormBody)).toEqual([['What stops you?', undefined, ['dear (off)', 'keen']]]);
  });
});
