import { checkForm, fieldKeeps, type AskedIf, type FormBody, type Next, type Question, type QuestionType } from '@eager-sieve/core';
import { type ToldFault } from '../app/errors';

/** How each type of question is called where one is added, in the order in which they are offered. */
export const TYPE_WORDS: readonly (readonly [QuestionType, string])[] = [
  ['text', 'text'],
  ['long text', 'long text'],
  ['one choice', 'one choice'],
  ['several choices', 'several choices'],
  ['scale', 'scale'],
  ['number', 'number'],
  ['date', 'date'],
  ['phone', 'phone number'],
  ['email', 'email address'],
  ['consent', 'consent'],
  ['hidden', 'hidden value'],
];
export const typeWords = (type: QuestionType): string => TYPE_WORDS.find(([each]) => each === type)?.[1] ?? type;

const hasChoices = (type: QuestionType): boolean => type === 'one choice' || type === 'several choices';

export function newQuestion(type: QuestionType, questions: readonly Question[]): Question {
  const taken = new Set(questions.map((question) => question.key));
  const base = type === 'email' ? 'email' : type === 'consent' ? 'consent' : 'question';
  let key = base;
  for (let n = 2; taken.has(key); n += 1) key = `${base}-${n}`;
  return {
    key,
    label: '',
    type,
    required: type === 'email',
    ...(hasChoices(type) ? { options: [] } : {}),
    ...(type === 'consent' ? { channel: 'email' as const } : {}),
    ...(type === 'hidden' ? { parameter: 'utm_source' } : {}),
  };
}

/** Where a new question goes: below the one that is being edited; otherwise above what a form ends with. */
export function placeForNew(questions: readonly Question[], current: number | undefined): number {
  if (current !== undefined && current < questions.length) return current + 1;
  let place = questions.length;
  while (place > 0 && ['email', 'consent', 'hidden'].includes(questions[place - 1]?.type ?? '')) place -= 1;
  return place;
}

/** The same question asked for another type of answer: what does not fit any more is left out. */
export function retyped(question: Question, type: QuestionType): Question {
  const {
    options,
    min: _min,
    max: _max,
    earliest: _earliest,
    latest: _latest,
    low,
    high,
    channel,
    parameter,
    groups: _groups,
    field: _field,
    ...rest
  } = question;
  const kept = type === question.type ? question : rest;
  return {
    ...kept,
    type,
    required: type === 'email' || question.required,
    ...(hasChoices(type) ? { options: withoutWays(options ?? [], type) } : {}),
    ...(type === 'consent' ? { channel: channel ?? ('email' as const) } : {}),
    ...(type === 'hidden' ? { parameter: parameter ?? 'utm_source' } : {}),
    ...(type === 'scale' ? { ...(low === undefined ? {} : { low }), ...(high === undefined ? {} : { high }) } : {}),
  };
}

const withoutWays = (options: NonNullable<Question['options']>, type: QuestionType): NonNullable<Question['options']> =>
  type === 'one choice' ? options : options.map(({ next: _next, ...option }) => option);

/** Puts a question in the place of another; where it, or a choice of it, goes by another key, everything that names it follows. */
export function replaced(questions: readonly Question[], index: number, next: Question): Question[] {
  const before = questions[index] as Question;
  let all = questions.with(index, next);
  if (before.key !== next.key) all = renamed(all, before.key, next.key);
  const [was, is] = [before.options ?? [], next.options ?? []];
  if (was.length === is.length)
    is.forEach((option, at) => {
      const old = was[at]?.key;
      if (old !== undefined && old !== option.key && !is.some(({ key }) => key === old))
        all = withChoices(all, next.key, (key) => (key === old ? option.key : key));
    });
  const gone = was.filter(({ key }) => !is.some((option) => option.key === key));
  if (is.length < was.length) all = withChoices(all, next.key, (key) => (gone.some((option) => option.key === key) ? undefined : key));
  return all;
}

/** The questions without one; nothing names it any more. */
export function removed(questions: readonly Question[], index: number): Question[] {
  const { key } = questions[index] as Question;
  const leads = (next: Next | undefined): next is Next => next !== undefined && !('question' in next && next.question === key);
  return questions.toSpliced(index, 1).map((question) =>
    tidy({
      ...question,
      next: leads(question.next) ? question.next : undefined,
      options: question.options?.map((option) => (option.next && !leads(option.next) ? withoutNext(option) : option)),
      askedIf: question.askedIf?.filter((asked) => asked.question !== key),
    }),
  );
}

export function moved(questions: readonly Question[], from: number, to: number): Question[] {
  const question = questions[from];
  if (!question || to < 0 || to >= questions.length) return [...questions];
  return questions.toSpliced(from, 1).toSpliced(to, 0, question);
}

const withoutNext = <Row extends { readonly next?: Next | undefined }>({ next: _next, ...row }: Row): Omit<Row, 'next'> => row;

/** A question without the properties that say nothing. */
export const tidy = (question: { readonly [Property in keyof Question]: Question[Property] | undefined }): Question =>
  Object.fromEntries(
    Object.entries(question).filter(
      ([, value]) => value !== undefined && value !== '' && !(Array.isArray(value) && value.length === 0 && value !== question.options),
    ),
  ) as unknown as Question;

function renamed(questions: readonly Question[], from: string, to: string): Question[] {
  const next = (way: Next | undefined): Next | undefined => (way && 'question' in way && way.question === from ? { question: to } : way);
  return questions.map((question) =>
    tidy({
      ...question,
      next: next(question.next),
      options: question.options?.map((option) => (option.next ? { ...option, next: next(option.next) } : option)),
      askedIf: question.askedIf?.map((asked) => (asked.question === from ? { ...asked, question: to } : asked)),
    }),
  );
}

/** @param keyOf the key of a choice as it is now; undefined if it is gone */
function withChoices(questions: readonly Question[], of: string, keyOf: (key: string) => string | undefined): Question[] {
  const follow = (asked: AskedIf): AskedIf[] => {
    if (asked.question !== of) return [asked];
    if ('anyOf' in asked) {
      const anyOf = asked.anyOf.flatMap((key) => keyOf(key) ?? []);
      return anyOf.length > 0 ? [{ ...asked, anyOf }] : [];
    }
    if ('noneOf' in asked) {
      const noneOf = asked.noneOf.flatMap((key) => keyOf(key) ?? []);
      return noneOf.length > 0 ? [{ ...asked, noneOf }] : [];
    }
    return [asked];
  };
  return questions.map((question) => (question.askedIf ? tidy({ ...question, askedIf: question.askedIf.flatMap(follow) }) : question));
}

/** The fields of contacts in which the answers to a question can be kept. */
export const canBeKept = (question: Question, type: string): boolean => (fieldKeeps[question.type] as readonly string[]).includes(type);

/** What is still to do before a form can be published, or kept as a draft, by where it is to be done. */
export function stillToDo(form: FormBody, name: string, published = true): readonly ToldFault[] {
  const todo: ToldFault[] = [];
  const say = (path: readonly (string | number)[], words: string): void => void todo.push({ path, words, code: 'form.todo' });
  if (name.trim() === '') say([], 'give the form a name');
  form.questions.forEach(({ label, type, options = [] }, index) => {
    if (label.trim() === '') say(['questions', index], 'give this question its words');
    if (hasChoices(type) && options.every((option) => option.name.trim() === ''))
      say(['questions', index], 'give this question something to choose');
  });
  for (const { path, expected } of checkForm({ ...form, published })) say(path, `needs ${expected}`);
  return todo;
}
