import { canDecide, isChoice, type Branching, type Next } from './branching.ts';
import { isNumeric, isWritten, MOST_STEPS, scaleOf } from './question-types.ts';
import { waysOf } from './ways.ts';

interface CheckedQuestion extends Branching {
  readonly groups?:
    | readonly {
        readonly key: string;
        readonly words?: readonly string[] | undefined;
        readonly from?: number | undefined;
        readonly to?: number | undefined;
      }[]
    | undefined;
  readonly earliest?: string | undefined;
  readonly latest?: string | undefined;
  readonly parameter?: string | undefined;
}

interface CheckedForm {
  readonly published: boolean;
  readonly who?: 'email' | 'link' | undefined;
  readonly outcomes?: readonly { readonly key: string }[] | undefined;
  readonly questions: readonly CheckedQuestion[];
}

/** Something wrong with a form: where, and what would be right. */
export interface FormFault {
  readonly path: readonly (string | number)[];
  readonly expected: string;
}

/** What is wrong with a form beyond the shapes of its parts. Ways are only held against a form that is published. */
export function checkForm(form: CheckedForm): readonly FormFault[] {
  const faults = [...ofWhole(form), ...form.questions.flatMap((question, index) => ofQuestion(form, question, index))];
  return faults.length > 0 || !form.published ? faults : ofWays(form);
}

function ofWhole({ who = 'email', questions, outcomes = [] }: CheckedForm): readonly FormFault[] {
  const emails = questions.filter(({ type }) => type === 'email').length;
  const faults: FormFault[] = [];
  if (who === 'email' && emails !== 1)
    faults.push({ path: ['questions'], expected: 'exactly one question for the email address: it says who answers' });
  if (who === 'link' && emails > 0)
    faults.push({ path: ['questions'], expected: 'no question for the email address: the link says who answers' });
  if (hasTwice(questions)) faults.push({ path: ['questions'], expected: 'questions with different keys' });
  if (hasTwice(outcomes)) faults.push({ path: ['outcomes'], expected: 'outcomes with different keys' });
  return faults;
}

const hasTwice = (all: readonly { readonly key: string }[]): boolean => new Set(all.map(({ key }) => key)).size < all.length;

function ofQuestion(form: CheckedForm, question: CheckedQuestion, index: number): readonly FormFault[] {
  const here = ['questions', index];
  const faults: FormFault[] = [];
  const fault = (path: readonly (string | number)[], expected: string): void => void faults.push({ path: [...here, ...path], expected });
  const { type, min, max, options = [], groups = [], earliest, latest } = question;
  if (hasTwice(options)) fault(['options'], 'choices with different keys');
  if (hasTwice(groups)) fault(['groups'], 'groups with different keys');
  if (min !== undefined && max !== undefined && min > max) fault(['max'], 'an upper limit that is not below the lower one');
  if (earliest !== undefined && latest !== undefined && earliest > latest) fault(['latest'], 'a last day that is not before the first');
  if (type === 'scale') {
    const [low, high] = scaleOf(question);
    if (!Number.isInteger(low) || !Number.isInteger(high) || high <= low || high - low >= MOST_STEPS)
      fault(['max'], `a scale in whole steps, from 2 to ${MOST_STEPS} of them`);
  }
  if (type === 'hidden' && question.parameter === undefined) fault(['parameter'], 'the parameter of the address that fills it in');
  groups.forEach((group, at) => {
    if (isWritten(type) ? (group.words?.length ?? 0) === 0 : !isNumeric(type) || (group.from === undefined && group.to === undefined))
      fault(['groups', at], isWritten(type) ? 'at least one word' : 'limits, of a question that is answered with a number');
  });
  const leads = (next: Next | undefined, path: readonly (string | number)[]): void => {
    if (!next) return;
    if ('question' in next) {
      const to = form.questions.find(({ key }) => key === next.question);
      if (!to || to.type === 'hidden') fault(path, 'a question that this form asks');
    } else if (next.end !== true && !form.outcomes?.some(({ key }) => key === next.end)) fault(path, 'an outcome of this form');
  };
  leads(question.next, ['next']);
  options.forEach(({ next }, at) => {
    if (next && type !== 'one choice') fault(['options', at, 'next'], 'one choice: of several it would not be clear which leads on');
    leads(next, ['options', at, 'next']);
  });
  question.askedIf?.forEach((asked, at) => {
    const path = ['askedIf', at];
    const earlier = form.questions.slice(0, index).find(({ key }) => key === asked.question);
    if (!earlier || !canDecide(earlier)) return fault(path, 'a question above it that is answered by choosing or with a number');
    const keys = 'anyOf' in asked ? asked.anyOf : 'noneOf' in asked ? asked.noneOf : undefined;
    if ((keys === undefined) === isChoice(earlier)) fault(path, isChoice(earlier) ? 'choices' : 'limits of a number');
    else if (keys?.some((key) => !earlier.options?.some((option) => option.key === key))) fault(path, 'choices of that question');
  });
  return faults;
}

function ofWays({ who = 'email', questions }: CheckedForm): readonly FormFault[] {
  const ways = waysOf(questions);
  const label = (key: string): string => questions.find((each) => each.key === key)?.label ?? key;
  const said = (keys: readonly string[]): string => keys.map((key) => `“${label(key)}”`).join(', ');
  const faults: FormFault[] = [];
  if (ways.endless) faults.push({ path: ['questions'], expected: `ways that end: ${said(ways.endless)} can go round for ever` });
  if (who === 'email' && ways.withoutEmail) {
    const { asked } = ways.withoutEmail;
    const after = asked.length > 0 ? `a way ends after ${said(asked)} without it` : 'a way ends without it';
    faults.push({ path: ['questions'], expected: `the email address on every way: ${after}` });
  }
  return faults;
}
