import { formBodySchema, isEmail, readAnswers, type Question } from './forms.ts';

const question = (key: string, type: Question['type'], more: Partial<Question> = {}): Question => ({
  key,
  label: key,
  type,
  required: false,
  ...more,
});
const options = [
  { key: 'price', name: 'Price' },
  { key: 'time', name: 'Time' },
];
const questions = [
  question('email', 'email', { required: true }),
  question('stops', 'one choice', { required: true, options }),
  question('ways', 'several choices', { options }),
  question('why', 'text'),
  question('ok', 'consent'),
];

describe('answers to a form', () => {
  it('are kept as they were meant', () => {
    expect(
      readAnswers(questions, { email: ' a@b.example ', stops: 'price', ways: ['time', 'time'], why: 'because\u0000', ok: true }),
    ).toEqual({
      ok: true,
      value: { email: 'a@b.example', stops: 'price', ways: ['time'], why: 'because', ok: true },
    });
    expect(readAnswers(questions, { email: 'a@b.example', stops: 'time', ways: [], why: '', ok: false })).toEqual({
      ok: true,
      value: { email: 'a@b.example', stops: 'time' },
    });
  });

  it.each([
    [{ stops: 'price' }, 'email answer.missing'],
    [{ email: 'nowhere', stops: 'price' }, 'email answer.email'],
    [{ email: 'a@b.example', stops: 'rain' }, 'stops answer.choice'],
    [{ email: 'a@b.example', stops: ['price'] }, 'stops answer.choice'],
    [{ email: 'a@b.example', stops: 'price', ways: 'time' }, 'ways answer.choice'],
    [{ email: 'a@b.example', stops: 'price', why: 3 }, 'why answer.text'],
    [{ email: 'a@b.example', stops: 'price', why: 'x'.repeat(2_001) }, 'why answer.length'],
    [{ email: 'a@b.example', stops: 'price', ok: 'sure' }, 'ok answer.consent'],
    [{ email: 'a@b.example', stops: 'price', other: 1 }, 'other answer.unknown'],
    [[], ' answers.object'],
    [null, ' answers.object'],
  ])('that are not right are named: %j', (given, expected) => {
    const read = readAnswers(questions, given);
    expect(read.ok ? [] : read.faults.map((fault) => `${fault.path.join('.')} ${fault.code}`)).toContain(expected);
  });

  it('come from forms that ask exactly once who answers, under different keys', () => {
    const form = (...asked: Question[]) => formBodySchema.safeParse({ questions: asked }).success;
    expect(form(question('email', 'email'))).toBe(true);
    expect(form(question('why', 'text'))).toBe(false);
    expect(form(question('a', 'email'), question('b', 'email'))).toBe(false);
    expect(form(question('a', 'email'), question('a', 'text'))).toBe(false);
    expect(form(question('a', 'email'), question('b', 'one choice'))).toBe(false);
  });

  it.each([
    ['a@b.example', true],
    ['first.last+tag@sub.place.example', true],
    ['å@ö.example', true],
    ['a@b', false],
    ['a b@c.example', false],
    ['a@b.example, c@d.example', false],
    ['<a@b.example>', false],
    [`${'a'.repeat(250)}@b.example`, false],
    ['@b.example', false],
    ['a@b.', false],
  ])('take %s for an address: %s', (text, expected) => {
    expect(isEmail(text)).toBe(expected);
  });
});
