import { type AnswerRow } from '../forms/answer-map.ts';
import { type Question } from '../forms/forms.ts';
import { type Step } from '../rules/compile.ts';
import { type Definition } from '../settings/definitions.ts';
import { type TagReason } from '../tags/definition.ts';

/** What stands in for a row's key where a tag or an action belongs to the whole question, or to the whole form. */
export const ANY = '*';

/** Why somebody has a tag that an answer gave. */
export const reasonOf = (form: number, question: string, row: string): TagReason => ({ kind: 'form', ref: `${form}/${question}/${row}` });

/** Something that an answer map does beside giving tags. */
export interface AnswerStep extends Step {
  readonly reason: TagReason;
}

/** The actions of a form's answer map, by question and row. */
export type AnswerSteps = ReadonlyMap<string, readonly AnswerStep[]>;

export const placeOf = (question: string, row: string): string => `${question}/${row}`;

/** Lays out what a form does about answers. */
export function answerSteps(
  form: Definition<'form'>,
  compile: (actions: NonNullable<AnswerRow['does']>, path: readonly (string | number)[]) => readonly Step[],
): AnswerSteps {
  const steps = new Map<string, readonly AnswerStep[]>();
  const lay = (does: AnswerRow['does'], question: string, row: string, path: readonly (string | number)[]): void => {
    if (!does?.length) return;
    steps.set(
      placeOf(question, row),
      compile(does, [...path, 'does']).map((step) => ({ ...step, reason: reasonOf(form.id, question, row) })),
    );
  };
  form.body.questions.forEach((question: Question, index) => {
    const here = ['questions', index];
    lay(question.does, question.key, ANY, here);
    question.options?.forEach((row, at) => lay(row.does, question.key, row.key, [...here, 'options', at]));
    question.groups?.forEach((row, at) => lay(row.does, question.key, row.key, [...here, 'groups', at]));
  });
  return steps;
}
