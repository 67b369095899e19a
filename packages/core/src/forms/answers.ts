import { bad, good, type Checked, type Fault } from '../faults.ts';
import { storable } from '../text/fold.ts';
import { wayOf, type Answers, type AnswerValue, type Branching, type Way } from './branching.ts';
import { scaleOf } from './question-types.ts';

const EMAIL = /^[^\s@<>"',;]+@[^\s@<>"',;]+\.[^\s@<>"',;.]+$/;
/** Whether a text can be an email address, as far as its shape can say. */
export const isEmail = (text: string): boolean => text.length <= 254 && EMAIL.test(text.trim());

const PHONE = /^\+?[\d\s()./-]{5,30}$/;
const MOST_CHARACTERS = 2_000;

/** What of a question says whether an answer to it is right. */
export interface Asked extends Branching {
  readonly earliest?: string | undefined;
  readonly latest?: string | undefined;
}

export interface ReadWay<Q extends Asked> {
  /** only answers to questions on the way, and what hidden questions were given */
  readonly answers: Answers;
  readonly way: Way<Q>;
}

/**
 * Checks what someone sent to a form. Answers to questions that the form does not ask are a fault, and nothing is guessed;
 * answers to questions off the way, given before somebody changed their mind, are left out.
 */
export function readAnswers<Q extends Asked>(questions: readonly Q[], given: unknown): Checked<ReadWay<Q>> {
  if (typeof given !== 'object' || given === null || Array.isArray(given))
    return bad({ path: [], code: 'answers.object', expected: 'answers by question' });
  const faults: Fault[] = [];
  const known = new Set(questions.map((question) => question.key));
  for (const key of Object.keys(given))
    if (!known.has(key)) faults.push({ path: [key], code: 'answer.unknown', expected: `one of the questions ${[...known].join(', ')}` });
  const read: Record<string, AnswerValue> = {};
  const wrong = new Map<string, Fault>();
  for (const question of questions) {
    const answer = readAnswer(question, (given as Record<string, unknown>)[question.key]);
    if (!answer.ok) wrong.set(question.key, { path: [question.key], ...(answer.faults[0] as Pick<Fault, 'code' | 'expected'>) } as Fault);
    else if (answer.value !== undefined) read[question.key] = answer.value;
  }
  const way = wayOf(questions, read);
  const onWay = new Set(way.asked.map(({ key }) => key));
  for (const question of questions) {
    const fault = wrong.get(question.key);
    if (fault && (onWay.has(question.key) || question.type === 'hidden')) faults.push({ ...fault, path: [question.key] });
    else if (onWay.has(question.key) && question.required && read[question.key] === undefined)
      faults.push({ path: [question.key], code: 'answer.missing', expected: question.type === 'consent' ? 'your consent' : 'an answer' });
  }
  if (faults.length > 0) return bad(...faults);
  const answers = Object.fromEntries(
    questions.flatMap(({ key, type }) => (read[key] !== undefined && (onWay.has(key) || type === 'hidden') ? [[key, read[key]]] : [])),
  );
  return good({ answers, way });
}

const wrongly = (code: string, expected: string): Checked<never> => bad({ path: [], code, expected });

/** One answer as it is kept; undefined where nothing was answered. */
export function readAnswer(question: Asked, value: unknown): Checked<AnswerValue | undefined> {
  if (value === undefined || value === null || value === '' || value === false || (Array.isArray(value) && value.length === 0))
    return good(undefined);
  if (typeof value === 'string' && value.trim() === '') return good(undefined);
  const { options = [], min, max } = question;
  const keys = options.map((option) => option.key);
  switch (question.type) {
    case 'text':
    case 'long text':
      return typeof value === 'string'
        ? readText(value, min ?? 0, Math.min(max ?? MOST_CHARACTERS, MOST_CHARACTERS))
        : wrongly('answer.text', 'text');
    case 'hidden':
      return typeof value === 'string' ? good(storable(value).slice(0, MOST_CHARACTERS)) : wrongly('answer.text', 'text');
    case 'email':
      return typeof value === 'string' && isEmail(value)
        ? good(value.trim())
        : wrongly('answer.email', 'an email address like name@place.example');
    case 'phone':
      return typeof value === 'string' && PHONE.test(value.trim())
        ? good(value.trim())
        : wrongly('answer.phone', 'a telephone number like +46 70 123 45 67');
    case 'consent':
      return value === true ? good(true) : wrongly('answer.consent', 'yes or nothing');
    case 'one choice':
      return typeof value === 'string' && keys.includes(value) ? good(value) : wrongly('answer.choice', `one of ${keys.join(', ')}`);
    case 'several choices':
      if (!Array.isArray(value) || value.some((one) => !keys.includes(one as string)))
        return wrongly('answer.choice', `any of ${keys.join(', ')}`);
      return readChoices([...new Set(value as string[])], min ?? 0, max ?? keys.length);
    case 'scale':
      return readNumber(value, ...scaleOf(question), true);
    case 'number':
      return readNumber(value, min ?? -Infinity, max ?? Infinity, false);
    case 'date':
      return readDate(value, question);
  }
}

function readText(value: string, min: number, max: number): Checked<AnswerValue> {
  const text = storable(value);
  if (text.length > max) return wrongly('answer.length', `at most ${max.toLocaleString('en')} characters`);
  return text.length < min ? wrongly('answer.length', `at least ${min.toLocaleString('en')} characters`) : good(text);
}

function readChoices(chosen: readonly string[], min: number, max: number): Checked<AnswerValue> {
  if (chosen.length > max) return wrongly('answer.many', `at most ${max} of them`);
  return chosen.length < min ? wrongly('answer.many', `at least ${min} of them`) : good(chosen);
}

function readNumber(value: unknown, min: number, max: number, isWhole: boolean): Checked<AnswerValue> {
  const text = typeof value === 'string' ? value.trim().replace(',', '.') : value;
  const number = typeof text === 'string' && /^[+-]?\d{1,12}(\.\d{1,6})?$/.test(text) ? Number(text) : text;
  if (typeof number !== 'number' || !Number.isFinite(number) || Math.abs(number) > 1e12 || (isWhole && !Number.isInteger(number)))
    return wrongly('answer.number', isWhole ? 'a whole number' : 'a number');
  const limits = [...(Number.isFinite(min) ? [`at least ${min}`] : []), ...(Number.isFinite(max) ? [`at most ${max}`] : [])];
  return number < min || number > max ? wrongly('answer.limit', `a number of ${limits.join(' and ')}`) : good(number);
}

function readDate(value: unknown, { earliest, latest }: Asked): Checked<AnswerValue> {
  const isDay =
    typeof value === 'string' && /^\d{4}-\d\d-\d\d$/.test(value) && new Date(`${value}T00:00:00Z`).toJSON()?.slice(0, 10) === value;
  if (!isDay) return wrongly('answer.date', 'a day like 2026-11-28');
  if (earliest !== undefined && value < earliest) return wrongly('answer.limit', `a day from ${earliest} on`);
  return latest !== undefined && value > latest ? wrongly('answer.limit', `a day up to ${latest}`) : good(value);
}
