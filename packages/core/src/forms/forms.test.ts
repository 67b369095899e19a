import { isEmail, readAnswers } from './answers.ts';
import { formBodySchema, type Question } from './forms.ts';

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

const kept = (asked: readonly Question[], given: unknown): unknown => {
  const read = readAnswers(asked, given);
  return read.ok ? read.value.answers : read.faults.map((fault) => `${fault.path.join('.')} ${fault.code}`);
};

describe('answers to a form', () => {
  it('are kept as they were meant', () => {
    expect(kept(questions, { email: ' a@b.example ', stops: 'price', ways: ['time', 'time'], why: 'because\u0000', ok: true })).toEqual({
      email: 'a@b.example',
      stops: 'price',
      ways: ['time'],
      why: 'because',
      ok: true,
    });
    expect(kept(questions, { email: 'a@b.example', stops: 'time', ways: [], why: '', ok: false })).toEqual({
      email: 'a@b.example',
      stops: 'time',
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

  it.each<[Partial<Question> & Pick<Question, 'type'>, unknown, unknown]>([
    [{ type: 'scale' }, '4', 4],
    [{ type: 'scale' }, 6, 'answer.limit'],
    [{ type: 'scale', min: 0, max: 10 }, 0, 0],
    [{ type: 'scale' }, '2.5', 'answer.number'],
    [{ type: 'number', min: 1, max: 40 }, '12,5', 12.5],
    [{ type: 'number', min: 1, max: 40 }, '41', 'answer.limit'],
    [{ type: 'number' }, 'many', 'answer.number'],
    [{ type: 'number' }, '1e9', 'answer.number'],
    [{ type: 'date' }, '2028-02-29', '2028-02-29'],
    [{ type: 'date' }, '2027-02-29', 'answer.date'],
    [{ type: 'date', earliest: '2026-12-01' }, '2026-11-30', 'answer.limit'],
    [{ type: 'date', latest: '2026-12-01' }, '2026-12-02', 'answer.limit'],
    [{ type: 'phone' }, ' +46 (0)70-123 45 67 ', '+46 (0)70-123 45 67'],
    [{ type: 'phone' }, 'call me', 'answer.phone'],
    [{ type: 'text', min: 3 }, 'no', 'answer.length'],
    [{ type: 'text', max: 3 }, 'nine', 'answer.length'],
    [{ type: 'text' }, '  ', undefined],
    [{ type: 'several choices', options, min: 2 }, ['price'], 'answer.many'],
    [{ type: 'several choices', options, max: 1 }, ['price', 'time'], 'answer.many'],
    [{ type: 'hidden', parameter: 'from' }, 'poster', 'poster'],
  ])('to %j: %j', ({ type, ...more }, given, expected) => {
    const answer = kept([question('it', type, more)], { it: given });
    const isFault = typeof expected === 'string' && expected.startsWith('answer.');
    expect(answer).toEqual(isFault ? [`it ${expected}`] : expected === undefined ? {} : { it: expected });
  });

  it('count only as far as they lie on the way that was taken', () => {
    const fires = question('fires', 'one choice', {
      required: true,
      options: [
        { key: 'yes', name: 'Yes' },
        { key: 'no', name: 'No', next: { question: 'email' } },
      ],
    });
    const asked = [fires, question('kiln', 'text', { required: true }), question('email', 'email', { required: true })];
    expect(kept(asked, { fires: 'no', kiln: 'a big one', email: 'a@b.example' })).toEqual({ fires: 'no', email: 'a@b.example' });
    expect(kept(asked, { fires: 'yes', email: 'a@b.example' })).toEqual(['kiln answer.missing']);
  });
});
