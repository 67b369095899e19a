import { type FormBody } from '../forms/forms.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition } from '../settings/definitions.ts';
import { type TagUse } from './tag-uses.ts';

/** An answer that a version of a form does not take any more, and what asks for it. */
export interface LostAnswer {
  /** the label of the question */
  readonly question: string;
  /** the name of the choice, where the question itself stays */
  readonly choice?: string;
  readonly uses: readonly TagUse[];
}

/** Part of a definition that asks for details of signals. */
interface Asking {
  readonly forms: readonly string[];
  /** by question, the values that are asked for; none where any answer will do */
  readonly questions: ReadonlyMap<string, readonly string[]>;
}

/**
 * What another version of a form takes away from definitions that read its answers: of questions and choices that are gone nobody answers any
 * more, so what asks for them keeps whom it has and gets nobody new.
 *
 * @param key of the form
 */
export function lostAnswers(catalogue: Catalogue, key: string, before: FormBody, after: FormBody): readonly LostAnswer[] {
  const asking = KINDS.flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[]).map((definition) => ({
    use: useOf(definition),
    asked: askedIn(definition.body).filter(({ forms }) => forms.length === 0 || forms.includes(key)),
  }));
  const usesOf = (question: string, choice?: string): readonly TagUse[] =>
    asking
      .filter(({ asked }) =>
        asked.some(({ questions }) => {
          const values = questions.get(question);
          return values !== undefined && (choice === undefined || values.includes(choice));
        }),
      )
      .map(({ use }) => use);
  return before.questions.flatMap((question): readonly LostAnswer[] => {
    const now = after.questions.find((each) => each.key === question.key);
    if (!now || now.type !== question.type) return [{ question: question.label, uses: usesOf(question.key) }];
    const left = new Set((now.options ?? []).map((option) => option.key));
    return (question.options ?? [])
      .filter((option) => !left.has(option.key))
      .map((option) => ({ question: question.label, choice: option.name, uses: usesOf(question.key, option.key) }));
  });
}

/** The kinds of definitions that can ask for an answer. */
const KINDS = ['rule', 'scorecard', 'audience', 'bundle', 'routing', 'stage'] as const;

const useOf = ({ kind, key, name, body }: AnyDefinition): TagUse => ({ kind, key, name, on: !('on' in body) || body.on });

const ANSWERS = 'answers.';

/** Everything in a body that asks for answers, wherever it stands. */
function askedIn(part: unknown): readonly Asking[] {
  if (Array.isArray(part)) return part.flatMap(askedIn);
  if (!isObject(part)) return [];
  const { where } = part;
  return [...(Array.isArray(where) ? asksOf(where) : []), ...Object.values(part).flatMap(askedIn)];
}

function asksOf(where: readonly unknown[]): readonly Asking[] {
  const details = where.filter(isObject);
  const forms = details
    .filter(({ path, op }) => path === 'form' && (op === 'is' || op === 'is one of'))
    .flatMap(({ value }) => textsOf(value));
  const questions = new Map<string, readonly string[]>();
  const note = (question: string, values: readonly string[]): void =>
    void questions.set(question, [...(questions.get(question) ?? []), ...values]);
  for (const { path, some, none, of, value } of details) {
    if (typeof path === 'string' && path.startsWith(ANSWERS)) note(questionOf(path), textsOf(value));
    const list = some ?? none;
    if (typeof list === 'string' && list.startsWith(ANSWERS))
      note(questionOf(list), Array.isArray(of) ? of.filter(isObject).flatMap((each) => textsOf(each['value'])) : []);
  }
  return questions.size === 0 ? [] : [{ forms, questions }];
}

const questionOf = (path: string): string => path.slice(ANSWERS.length).split('.')[0] ?? '';
const textsOf = (value: unknown): readonly string[] => [value].flat().filter((each) => typeof each === 'string');
const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** The keys of the forms that a body asks for, wherever it does. */
export function formsAskedFor(part: unknown): readonly string[] {
  if (Array.isArray(part)) return part.flatMap(formsAskedFor);
  if (!isObject(part)) return [];
  const { path, op, value } = part;
  const own = path === 'form' && (op === 'is' || op === 'is one of') ? textsOf(value) : [];
  return [...own, ...Object.values(part).flatMap(formsAskedFor)];
}
