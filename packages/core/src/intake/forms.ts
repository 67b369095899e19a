import { z } from 'zod';
import { consentChannelSchema, type ConsentState } from '../settings/consent.ts';
import { optionSchema } from '../settings/option.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { nameSchema, shelved } from '../settings/keys.ts';
import { storable } from '../text/fold.ts';

const questionKey = z
  .string()
  .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/)
  .max(60);

/** A choice, and what choosing it does: the answer map of the form. A tag that it gave goes when the same question is answered otherwise. */
const choiceOver = <Ref extends z.ZodType>(ref: Ref) =>
  optionSchema.extend({ add: z.array(ref).max(20).optional(), remove: z.array(ref).max(20).optional() });

const questionOver = <Ref extends z.ZodType>(ref: Ref) =>
  z
    .strictObject({
      key: questionKey,
      label: nameSchema.max(300),
      type: z.enum(['text', 'one choice', 'several choices', 'email', 'consent']),
      required: z.boolean().default(false),
      options: z.array(choiceOver(ref)).max(100).optional(),
      /** the field that the answer is also kept in */
      field: ref.optional(),
      /** consent questions: for which channel */
      channel: consentChannelSchema.optional(),
    })
    .refine((question) => !question.type.includes('choice') || (question.options?.length ?? 0) > 0, {
      path: ['options'],
      message: 'at least one choice',
    });

export const consentConfirmations = ['where withdrawn', 'always', 'never'] as const;
export type ConsentConfirmation = (typeof consentConfirmations)[number];

const formOver = <Ref extends z.ZodType>(ref: Ref) =>
  z
    .strictObject({
      ...shelved,
      intro: z.string().max(2_000).default(''),
      thanks: z.string().max(2_000).default('Thank you.'),
      published: z.boolean().default(false),
      /** When consent counts only once a link, sent to the address, has been followed; where it was withdrawn if left out. */
      confirmConsent: z.enum(consentConfirmations).optional(),
      /** whether answers from anybody replace what is known already; otherwise they fill only what is empty */
      answersReplace: z.boolean().optional(),
      questions: z.array(questionOver(ref)).min(1).max(60),
    })
    .refine((form) => form.questions.filter((question) => question.type === 'email').length === 1, {
      path: ['questions'],
      message: 'exactly one question for the email address: it says who answers',
    })
    .refine((form) => new Set(form.questions.map((question) => question.key)).size === form.questions.length, {
      path: ['questions'],
      message: 'questions with different keys',
    });

export const writtenFormSchema = formOver(z.string());
export const formBodySchema = formOver(z.int());
export type WrittenForm = z.infer<typeof writtenFormSchema>;
export type FormBody = z.infer<typeof formBodySchema>;
export type Question = FormBody['questions'][number];
export type WrittenQuestion = WrittenForm['questions'][number];

export type Answers = Readonly<Record<string, string | readonly string[] | boolean>>;

const EMAIL = /^[^\s@<>"',;]+@[^\s@<>"',;]+\.[^\s@<>"',;.]+$/;
/** Whether a text can be an email address, as far as its shape can say. */
export const isEmail = (text: string): boolean => text.length <= 254 && EMAIL.test(text.trim());

/**
 * Whether consent that was given on a form by whoever it was has to be confirmed by a link to the address.
 *
 * @param before how consent stands
 */
export function mustConfirm(form: Pick<FormBody, 'confirmConsent'>, before: ConsentState | undefined): boolean {
  const { confirmConsent: when = 'where withdrawn' } = form;
  return when === 'always' || (when === 'where withdrawn' && (before === 'withdrawn' || before === 'undeliverable'));
}

/** Checks what someone sent to a form. Answers to questions that the form does not ask are a fault, and nothing is guessed. */
export function readAnswers(
  questions: readonly Pick<Question, 'key' | 'type' | 'required' | 'options'>[],
  given: unknown,
): Checked<Answers> {
  if (typeof given !== 'object' || given === null || Array.isArray(given))
    return bad({ path: [], code: 'answers.object', expected: 'answers by question' });
  const faults: Fault[] = [];
  const answers: Record<string, string | readonly string[] | boolean> = {};
  const known = new Set(questions.map((question) => question.key));
  for (const key of Object.keys(given)) {
    if (!known.has(key)) faults.push({ path: [key], code: 'answer.unknown', expected: `one of the questions ${[...known].join(', ')}` });
  }
  for (const question of questions) {
    const value = (given as Record<string, unknown>)[question.key];
    const fault = (code: string, expected: string): void => void faults.push({ path: [question.key], code, expected });
    const empty = value === undefined || value === null || value === '' || value === false || (Array.isArray(value) && value.length === 0);
    if (empty) {
      if (question.required) fault('answer.missing', question.type === 'consent' ? 'your consent' : 'an answer');
      continue;
    }
    const keys = new Set(question.options?.map((option) => option.key));
    switch (question.type) {
      case 'text':
        if (typeof value !== 'string') fault('answer.text', 'text');
        else if (value.length > 2_000) fault('answer.length', 'at most 2,000 characters');
        else answers[question.key] = storable(value);
        break;
      case 'email':
        if (typeof value !== 'string' || !isEmail(value)) fault('answer.email', 'an email address like name@place.example');
        else answers[question.key] = value.trim();
        break;
      case 'consent':
        if (value !== true) fault('answer.consent', 'yes or nothing');
        else answers[question.key] = true;
        break;
      case 'one choice':
        if (typeof value !== 'string' || !keys.has(value)) fault('answer.choice', `one of ${[...keys].join(', ')}`);
        else answers[question.key] = value;
        break;
      case 'several choices':
        if (!Array.isArray(value) || value.some((one) => !keys.has(one as string)))
          fault('answer.choice', `any of ${[...keys].join(', ')}`);
        else answers[question.key] = [...new Set(value as string[])];
        break;
    }
  }
  return faults.length > 0 ? bad(...faults) : good(answers);
}

declare module '../settings/definitions.ts' {
  interface Bodies {
    form: FormBody;
  }
}
