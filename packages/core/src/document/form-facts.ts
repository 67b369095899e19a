import { quotedSaid } from '../conditions/describe/said/values.ts';
import { rowsOf, type AnswerRow } from '../forms/answer-map.ts';
import { type AskedIf, type Next } from '../forms/branching.ts';
import { type FormBody, type Question } from '../forms/forms.ts';
import { actionWords } from '../rules/action-kinds.ts';
import { type Catalogue } from '../settings/catalogue.ts';

const when = (text: string, isSo: unknown): string[] => (isSo ? [text] : []);
const text = (what: string, value: string | undefined): string[] => (value ? [`${what}: ${quotedSaid(value)}`] : []);
const listed = (all: readonly string[]): string => all.join(' or ');

/** Where the way leads, as it is said: `to “How do you fire?”`, `to the end`. */
export function nextWords(form: Pick<FormBody, 'questions' | 'outcomes'>, next: Next): string {
  if ('question' in next) return `to ${quotedSaid(labelOf(form, next.question))}`;
  const outcome = form.outcomes?.find(({ key }) => key === next.end);
  return outcome ? `to the end ${quotedSaid(outcome.name)}` : 'to the end';
}

/** When a question is asked, as it is said: `“How do you fire?” is answered “in a kiln”`. */
export function askedIfWords(form: Pick<FormBody, 'questions'>, asked: AskedIf): string {
  const question = form.questions.find(({ key }) => key === asked.question);
  const label = quotedSaid(question?.label ?? asked.question);
  const names = (keys: readonly string[]): string =>
    listed(keys.map((key) => quotedSaid(question?.options?.find((each) => each.key === key)?.name ?? key)));
  if ('anyOf' in asked) return `${label} is answered ${names(asked.anyOf)}`;
  if ('noneOf' in asked) return `${label} is not answered ${names(asked.noneOf)}`;
  const { from, to } = asked;
  if (from !== undefined && to !== undefined) return `${label} is answered with ${from} to ${to}`;
  return from === undefined ? `${label} is answered with at most ${to}` : `${label} is answered with at least ${from}`;
}

const labelOf = (form: Pick<FormBody, 'questions'>, key: string): string => form.questions.find((each) => each.key === key)?.label ?? key;

/** What a form says, one thing a text. */
export function formFacts(form: FormBody, catalogue: Catalogue): readonly string[] {
  const tag = (id: number): string => catalogue.get('tag', id as never)?.key ?? 'that is gone';
  return [
    form.published ? 'is published' : 'is a draft',
    ...when('opens only by a link that was sent', form.who === 'link'),
    ...text('introduction', form.intro),
    ...text('thanks', form.thanks),
    ...when(`goes on to ${form.url}`, form.url),
    ...(form.outcomes ?? []).flatMap(({ name, thanks, url }) => [
      `ends with ${quotedSaid(name)}: ${quotedSaid(thanks)}`,
      ...when(`${quotedSaid(name)} goes on to ${url}`, url),
    ]),
    ...when(`consent is confirmed ${form.confirmConsent}`, form.confirmConsent),
    ...when('answers replace what is known', form.answersReplace),
    ...when('only the last answer that does something counts', form.onlyLast),
    ...when(`in the colour ${form.colour}`, form.colour),
    ...(form.doneTags ?? []).map((id) => `adds the tag ${tag(id)} to whoever has answered to the end`),
    ...form.questions.flatMap((question) => questionFacts(form, question, catalogue, tag)),
  ];
}

function questionFacts(form: FormBody, question: Question, catalogue: Catalogue, tag: (id: number) => string): readonly string[] {
  const label = quotedSaid(question.label);
  const { min, max, earliest, latest, section, askedIf = [], next, does = [] } = question;
  const field = question.field === undefined ? undefined : catalogue.get('field', question.field as never);
  return [
    `asks ${label}: ${question.type}${question.required ? ', required' : ''}`,
    ...text(`help at ${label}`, question.help),
    ...when(`${label} has at least ${min}`, min !== undefined),
    ...when(`${label} has at most ${max}`, max !== undefined),
    ...when(`${label} is from ${earliest} on`, earliest),
    ...when(`${label} is up to ${latest}`, latest),
    ...when(`${label} is filled in by ${question.parameter}`, question.parameter),
    ...when(`the part ${quotedSaid(section?.name ?? '')} begins with ${label}`, section),
    ...text(`words of the part that begins with ${label}`, section?.text),
    ...when(`${label} is kept in ${field?.name}`, field),
    ...askedIf.map((asked) => `${label} is asked if ${askedIfWords(form, asked)}`),
    ...(next ? [`${label} leads ${nextWords(form, next)}`] : []),
    ...does.map((action) => `any answer to ${label}: ${actionWords(action, catalogue)}`),
    ...(question.options ?? []).flatMap((option) => [
      `${label} can be answered ${quotedSaid(option.name)}`,
      ...(option.next ? [`${label} answered ${quotedSaid(option.name)} leads ${nextWords(form, option.next)}`] : []),
    ]),
    ...(question.groups ?? []).map(({ name, words = [], from, to }) =>
      words.length > 0
        ? `${quotedSaid(name)} at ${label} is ${listed(words)}`
        : `${quotedSaid(name)} at ${label} is ${from === undefined ? `at most ${to}` : to === undefined ? `at least ${from}` : `${from} to ${to}`}`,
    ),
    ...rowsOf(question).flatMap((row) => rowFacts(row, catalogue, tag)),
  ];
}

const rowFacts = (
  { name, add = [], remove = [], does = [] }: AnswerRow,
  catalogue: Catalogue,
  tag: (id: number) => string,
): readonly string[] => [
  ...add.map((id) => `${quotedSaid(name)} adds the tag ${tag(id)}`),
  ...remove.map((id) => `${quotedSaid(name)} removes the tag ${tag(id)}`),
  ...does.map((action) => `${quotedSaid(name)}: ${actionWords(action, catalogue)}`),
];
