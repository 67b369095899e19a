import { z } from 'zod';
import { isNumeric, type QuestionType } from './question-types.ts';

export const questionKey = z
  .string()
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'lower case letters, digits, and single hyphens between them')
  .max(60);

/** The way leads on to a question, or ends: with the form's own thanks, or with those of an outcome. */
export const nextSchema = z.union([
  z.strictObject({ question: questionKey }),
  z.strictObject({ end: z.union([z.literal(true), questionKey]) }),
]);
export type Next = z.infer<typeof nextSchema>;

/** What an earlier answer has to be for a question to be asked. Numbers are taken with their limits. */
export const askedIfSchema = z.union([
  z.strictObject({ question: questionKey, anyOf: z.array(z.string().max(80)).min(1).max(100) }),
  z.strictObject({ question: questionKey, noneOf: z.array(z.string().max(80)).min(1).max(100) }),
  z
    .strictObject({ question: questionKey, from: z.number().optional(), to: z.number().optional() })
    .refine(({ from, to }) => from !== undefined || to !== undefined, { message: 'from, to, or both' }),
]);
export type AskedIf = z.infer<typeof askedIfSchema>;

export type AnswerValue = string | number | boolean | readonly string[];
export type Answers = Readonly<Record<string, AnswerValue>>;

/** What of a question decides the way through its form. */
export interface Branching {
  readonly key: string;
  readonly label: string;
  readonly type: QuestionType;
  readonly required: boolean;
  readonly options?: readonly { readonly key: string; readonly name: string; readonly next?: Next | undefined }[] | undefined;
  readonly min?: number | undefined;
  readonly max?: number | undefined;
  readonly askedIf?: readonly AskedIf[] | undefined;
  readonly next?: Next | undefined;
  readonly section?: unknown;
}

/** The way that answers take. */
export interface Way<Q extends Branching> {
  /** the questions on it that somebody sees, in order, each once */
  readonly asked: readonly Q[];
  /** how it ends; undefined if it comes back to a question that it has passed */
  readonly end: true | string | undefined;
}

/** Whether an answer is what a question further on asks for. */
export function meets(asked: AskedIf, answer: AnswerValue | undefined): boolean {
  const among = (keys: readonly string[]): boolean =>
    (Array.isArray(answer) ? answer : [answer]).some((one) => keys.includes(one as string));
  if ('anyOf' in asked) return among(asked.anyOf);
  if ('noneOf' in asked) return !among(asked.noneOf);
  return typeof answer === 'number' && answer >= (asked.from ?? -Infinity) && answer <= (asked.to ?? Infinity);
}

/** Where the way leads from a question that is answered so; undefined: to the one below. */
export const nextAfter = (question: Branching, answer: AnswerValue | undefined): Next | undefined =>
  (question.type === 'one choice' ? question.options?.find(({ key }) => key === answer)?.next : undefined) ?? question.next;

/** Walks a form with answers: what is asked, and how it ends. Answers to questions off the way change nothing. */
export function wayOf<Q extends Branching>(questions: readonly Q[], answers: Answers): Way<Q> {
  const asked: Q[] = [];
  const passed = new Set<string>();
  let at = 0;
  for (;;) {
    const question = questions[at];
    if (!question) return { asked, end: true };
    if (question.type === 'hidden' || !isAsked(question, (key) => (passed.has(key) ? answers[key] : undefined))) {
      at += 1;
      continue;
    }
    if (passed.has(question.key)) return { asked, end: undefined };
    passed.add(question.key);
    asked.push(question);
    const next = nextAfter(question, answers[question.key]);
    if (next && 'end' in next) return { asked, end: next.end };
    at = next ? questions.findIndex(({ key }) => key === next.question) : at + 1;
    if (at < 0) return { asked, end: true };
  }
}

/** @param answerTo the answer to a question on the way so far */
const isAsked = ({ askedIf = [] }: Branching, answerTo: (key: string) => AnswerValue | undefined): boolean =>
  askedIf.every((each) => meets(each, answerTo(each.question)));

/** Whether the way can turn at a question, so that what follows cannot be shown together with it. */
const turns = (question: Branching, questions: readonly Branching[]): boolean =>
  question.next !== undefined ||
  (question.options ?? []).some(({ next }) => next !== undefined) ||
  questions.some(({ askedIf }) => askedIf?.some((each) => each.question === question.key));

/**
 * The questions that are shown together after so many pages: those up to where the way can turn, or the next part begins.
 *
 * @param from how many questions of the way have been answered
 */
export function pageOf<Q extends Branching>(questions: readonly Q[], answers: Answers, from: number): readonly Q[] {
  const { asked } = wayOf(questions, answers);
  const page: Q[] = [];
  for (const question of asked.slice(from)) {
    if (page.length > 0 && question.section !== undefined) break;
    page.push(question);
    if (turns(question, questions)) break;
  }
  return page;
}

export const isChoice = ({ type }: Pick<Branching, 'type'>): boolean => type === 'one choice' || type === 'several choices';
/** Whether questions further on can go by the answer. */
export const canDecide = (question: Pick<Branching, 'type'>): boolean => isChoice(question) || isNumeric(question.type);
