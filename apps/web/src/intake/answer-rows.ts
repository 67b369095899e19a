import {
  doesSomething,
  isUnmapped,
  rowsFor,
  type AnswerGroup,
  type AnswerRow,
  type FormBody,
  type Question,
  type RuleAction,
} from '@eager-sieve/core';
import { type FormResults } from '@eager-sieve/contracts';

/** All that a row of an answer map does, as actions. */
export const actionsOf = ({ add = [], remove = [], does = [] }: Pick<AnswerRow, 'add' | 'remove' | 'does'>): RuleAction[] => [
  ...add.map((tag): RuleAction => ({ do: 'add tag', tag })),
  ...remove.map((tag): RuleAction => ({ do: 'remove tag', tag })),
  ...does,
];

/** A row that does these. Tags without a value go by their own lists, so that they are given up when the answer changes. */
export function withActions<Row extends Pick<AnswerRow, 'add' | 'remove' | 'does'>>(row: Row, actions: readonly RuleAction[]): Row {
  const add = actions.flatMap((action) => (action.do === 'add tag' && action.value === undefined ? [action.tag] : []));
  const remove = actions.flatMap((action) => (action.do === 'remove tag' && action.only === undefined ? [action.tag] : []));
  const does = actions.filter(
    (action) => !(action.do === 'add tag' && action.value === undefined) && !(action.do === 'remove tag' && action.only === undefined),
  );
  const { add: _add, remove: _remove, does: _does, ...rest } = row;
  return {
    ...rest,
    ...(add.length > 0 ? { add: [...new Set(add)] } : {}),
    ...(remove.length > 0 ? { remove: [...new Set(remove)] } : {}),
    ...(does.length > 0 ? { does } : {}),
  } as Row;
}

type Given = FormResults['questions'][number]['answers'];

/** The distinct answers that a group catches as it stands in the editor, the most frequent first. */
export const caughtBy = (question: Question, group: AnswerGroup, answers: Given): Given =>
  answers.filter(({ answer }) => rowsFor({ ...question, groups: [group], options: [] }, answer).length > 0);

/** The distinct answers that fall into no group. */
export const unmappedIn = (question: Question, answers: Given): Given =>
  (question.groups?.length ?? 0) === 0 ? answers : answers.filter(({ answer }) => isUnmapped(question, answer));

/** So many characters a word of a group has at most. */
const LONGEST = 80;

/** Puts an answer into a group, as words that stand in it. */
export function grouped(question: Question, answer: string, key: string): Question {
  const words = answer.trim().slice(0, LONGEST);
  return {
    ...question,
    groups: (question.groups ?? []).map((group) =>
      group.key === key ? { ...group, words: [...new Set([...(group.words ?? []), words])] } : group,
    ),
  };
}

export function newGroup(question: Question, words?: string): AnswerGroup {
  const taken = new Set((question.groups ?? []).map(({ key }) => key));
  let n = taken.size + 1;
  while (taken.has(`group-${n}`)) n += 1;
  const isText = words !== undefined;
  return {
    key: `group-${n}`,
    name: isText && words ? words.slice(0, 60) : `Group ${n}`,
    ...(isText ? { words: words ? [words.slice(0, LONGEST)] : [] } : { from: 1, to: 2 }),
  };
}

/** The questions that can have rows in an answer map. */
export const mappable = (form: FormBody): readonly { readonly question: Question; readonly index: number }[] =>
  form.questions
    .map((question, index) => ({ question, index }))
    .filter(({ question }) => !['email', 'consent', 'phone', 'date'].includes(question.type));

export const isMapped = (question: Question): boolean => [...(question.options ?? []), ...(question.groups ?? [])].some(doesSomething);
