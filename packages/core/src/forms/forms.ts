import { z } from 'zod';
import { actionOver } from '../rules/actions.ts';
import { consentChannelSchema, type ConsentState } from '../settings/consent.ts';
import { colourSchema, nameSchema, shelved } from '../settings/keys.ts';
import { optionSchema } from '../settings/option.ts';
import { askedIfSchema, nextSchema, questionKey } from './branching.ts';
import { checkForm } from './form-faults.ts';
import { QUESTION_TYPES } from './question-types.ts';

/** What an answer does: a row of the form's answer map. Tags that it gave go when the same question is answered otherwise. */
const effectsOver = <Ref extends z.ZodType>(ref: Ref) => ({
  add: z.array(ref).max(20).optional(),
  remove: z.array(ref).max(20).optional(),
  /** what else is done, once all answers have been applied */
  does: z.array(actionOver(ref)).max(20).optional(),
});

const choiceOver = <Ref extends z.ZodType>(ref: Ref) => optionSchema.extend({ ...effectsOver(ref), next: nextSchema.optional() });

/** Answers that mean the same: texts in which one of the words stands, or numbers between two limits, both included. */
const groupOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.strictObject({
    key: questionKey,
    name: nameSchema,
    words: z.array(z.string().trim().min(1).max(80)).max(200).optional(),
    from: z.number().optional(),
    to: z.number().optional(),
    ...effectsOver(ref),
  });

const questionOver = <Ref extends z.ZodType>(ref: Ref) =>
  z
    .strictObject({
      key: questionKey,
      label: nameSchema.max(300),
      type: z.enum(QUESTION_TYPES),
      help: z.string().max(500).optional(),
      required: z.boolean().default(false),
      options: z.array(choiceOver(ref)).max(100).optional(),
      /** the field that the answer is also kept in */
      field: ref.optional(),
      /** consent questions: for which channel */
      channel: consentChannelSchema.optional(),
      /** of a text its characters, of several choices how many, of a number or a scale its value */
      min: z.number().optional(),
      max: z.number().optional(),
      /** of a date, as `2026-11-28` */
      earliest: z.iso.date().optional(),
      latest: z.iso.date().optional(),
      /** what the ends of a scale mean */
      low: z.string().max(80).optional(),
      high: z.string().max(80).optional(),
      /** which parameter of the address fills in a hidden question */
      parameter: z
        .string()
        .regex(/^[A-Za-z0-9_.-]+$/)
        .max(60)
        .optional(),
      /** with this question a part of the form begins, on a page of its own */
      section: z.strictObject({ name: nameSchema, text: z.string().max(1_000).optional() }).optional(),
      /** asked only if all of it holds */
      askedIf: z.array(askedIfSchema).max(5).optional(),
      /** where the way leads from here, unless the choice says otherwise; left out, to the question below */
      next: nextSchema.optional(),
      groups: z.array(groupOver(ref)).max(100).optional(),
      /** what is done whatever is answered */
      does: z.array(actionOver(ref)).max(20).optional(),
    })
    .refine((question) => !question.type.includes('choice') || (question.options?.length ?? 0) > 0, {
      path: ['options'],
      message: 'at least one choice',
    });

/** What somebody reads at the end of their way, and the page that they go on to. */
export function endOf(
  { outcomes, thanks, url }: Pick<FormBody, 'outcomes' | 'thanks' | 'url'>,
  end: true | string | null | undefined,
): Partial<Pick<Outcome, 'key' | 'name'>> & Pick<Outcome, 'thanks' | 'url'> {
  return outcomes?.find(({ key }) => key === end) ?? { thanks, url };
}

export const consentConfirmations = ['where withdrawn', 'always', 'never'] as const;
export type ConsentConfirmation = (typeof consentConfirmations)[number];

/** A page to go on to. */
const pageAfter = z
  .url({ protocol: /^https?$/ })
  .max(2_000)
  .optional();

const outcomeSchema = z.strictObject({
  key: questionKey,
  name: nameSchema,
  /** where it is empty and there is a page, they come to that page at once */
  thanks: z.string().max(5_000),
  url: pageAfter,
});
export type Outcome = z.infer<typeof outcomeSchema>;

const formOver = <Ref extends z.ZodType>(ref: Ref) =>
  z
    .strictObject({
      ...shelved,
      intro: z.string().max(2_000).default(''),
      thanks: z.string().max(2_000).default('Thank you.'),
      url: pageAfter,
      /** what is said in place of the thanks where a way ends with it */
      outcomes: z.array(outcomeSchema).max(40).optional(),
      published: z.boolean().default(false),
      /** how it is known who answers: by the address they type (if left out), or only by a link that was sent to them */
      who: z.enum(['email', 'link']).optional(),
      /** When consent counts only once a link, sent to the address, has been followed; where it was withdrawn if left out. */
      confirmConsent: z.enum(consentConfirmations).optional(),
      /** whether answers from anybody replace what is known already; otherwise they fill only what is empty */
      answersReplace: z.boolean().optional(),
      /** whether of all answers that do something only the last on the way counts */
      onlyLast: z.boolean().optional(),
      /** tags of everybody who has answered to the end */
      doneTags: z.array(ref).max(20).optional(),
      /** of its buttons and lines, where it is not that of the workspace */
      colour: colourSchema.optional(),
      questions: z.array(questionOver(ref)).min(1).max(60),
    })
    .superRefine((form, context) => {
      for (const { path, expected } of checkForm(form)) context.addIssue({ code: 'custom', path: [...path], message: expected });
    });

export const writtenFormSchema = formOver(z.string());
export const formBodySchema = formOver(z.int());
export type WrittenForm = z.infer<typeof writtenFormSchema>;
export type FormBody = z.infer<typeof formBodySchema>;
export type Question = FormBody['questions'][number];
export type WrittenQuestion = WrittenForm['questions'][number];
export type AnswerChoice = NonNullable<Question['options']>[number];
export type AnswerGroup = NonNullable<Question['groups']>[number];

/**
 * Whether consent that was given on a form by whoever it was has to be confirmed by a link to the address.
 *
 * @param before how consent stands
 */
export function mustConfirm(form: Pick<FormBody, 'confirmConsent'>, before: ConsentState | undefined): boolean {
  const { confirmConsent: when = 'where withdrawn' } = form;
  return when === 'always' || (when === 'where withdrawn' && (before === 'withdrawn' || before === 'undeliverable'));
}

declare module '../settings/definitions.ts' {
  interface Bodies {
    form: FormBody;
  }
}
