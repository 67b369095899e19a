import { millionths } from '../numbers/decimal.ts';
import { fold, paddedWords } from '../text/fold.ts';
import { type AnswerChoice, type AnswerGroup, type FormBody, type Question } from './forms.ts';
import { wayOf, type Answers } from './branching.ts';
import { isNumeric, isWritten } from './question-types.ts';

/** A row of a form's answer map: a choice, or a group of answers that mean the same. */
export type AnswerRow = AnswerChoice | AnswerGroup;

export const rowsOf = ({ options = [], groups = [] }: Pick<Question, 'options' | 'groups'>): readonly AnswerRow[] => [
  ...options,
  ...groups,
];

const isFull = (list: readonly unknown[] | undefined): boolean => (list?.length ?? 0) > 0;
/** Whether anything is done about an answer that a row takes. */
export const doesSomething = ({ add, remove, does }: Pick<AnswerRow, 'add' | 'remove' | 'does'>): boolean =>
  isFull(add) || isFull(remove) || isFull(does);

/** The rows that an answer falls into, as it came with a signal: a text can fall into several groups. */
export function rowsFor(question: Pick<Question, 'type' | 'options' | 'groups'>, answer: unknown): readonly AnswerRow[] {
  const given = [answer].flat();
  const chosen = (question.options ?? []).filter(({ key }) => given.includes(key));
  const groups = question.groups ?? [];
  if (groups.length === 0) return chosen;
  if (isWritten(question.type)) {
    const words = paddedWords(fold(given.filter((one) => typeof one === 'string').join('\n')));
    return [...chosen, ...groups.filter((group) => group.words?.some((each) => standsIn(each, words)))];
  }
  const number = isNumeric(question.type) ? millionths(answer) : undefined;
  return number?.ok ? [...chosen, ...groups.filter(({ from, to }) => isWithin(number.value, from, to))] : chosen;
}

/** Whether a word, or several one after another, stand whole in a text. */
function standsIn(word: string, text: string): boolean {
  const words = paddedWords(fold(word));
  return words.trim() !== '' && text.includes(words);
}

/** @param value in millionths */
function isWithin(value: number, from: number | undefined, to: number | undefined): boolean {
  const limit = (given: number): number => Math.round(given * 1_000_000);
  return (from === undefined || value >= limit(from)) && (to === undefined || value <= limit(to));
}

/** Whether a question sorts its written answers into groups, and this one falls into none. */
export const isUnmapped = (question: Pick<Question, 'type' | 'options' | 'groups'>, answer: unknown): boolean =>
  isWritten(question.type) &&
  (question.groups?.length ?? 0) > 0 &&
  typeof answer === 'string' &&
  fold(answer) !== '' &&
  rowsFor(question, answer).length === 0;

export const isAnswered = (answer: unknown): boolean =>
  answer !== undefined && answer !== null && answer !== '' && !(Array.isArray(answer) && answer.length === 0);

/** Whether a question has a row that does something. */
const decides = (question: Question): boolean => isFull(question.does) || rowsOf(question).some(doesSomething);

/** What of a set of answers counts: all of them, or of those that do something only the last on the way. */
export function countingQuestions(
  form: Pick<FormBody, 'questions' | 'onlyLast'>,
  answers: Readonly<Record<string, unknown>>,
): ReadonlySet<string> {
  const answered = form.questions.filter(({ key }) => isAnswered(answers[key]));
  if (!form.onlyLast) return new Set(answered.map(({ key }) => key));
  const onWay = wayOf(form.questions, answers as Answers).asked.filter(({ key }) => isAnswered(answers[key]));
  const last = onWay.filter(decides).at(-1);
  return new Set(last ? [last.key] : []);
}
