import { detailName, oneOfList, type DetailField } from '../../../intake/signal-types.ts';
import { type Catalogue } from '../../../settings/catalogue.ts';
import { detailStorage } from '../../prepare/details.ts';
import { type DetailCondition, type DetailLeaf } from '../../schema.ts';
import { dateWords, listed, numberText, plainSaid, quotedSaid, testSaid } from './values.ts';

/** What is asked of the details of a signal, and what they can be called by. */
export interface Details {
  readonly where: readonly DetailCondition[];
  readonly fields: readonly DetailField[];
  readonly catalogue: Catalogue;
}

/** `ordered`, and what follows it: `an item whose line is glaze` */
export interface Said {
  readonly verb: string;
  /** the verb behind "has" */
  readonly participle: string;
  /** the verb as it is said of what happens now */
  readonly present: string;
  readonly rest: string;
}

/** The other forms of a verb. */
export type Forms = (verb: string) => Pick<Said, 'participle' | 'present'>;

/** Details that are keys of things with names. */
export const NAMED: Readonly<Record<string, 'form' | 'message'>> = { form: 'form', campaign: 'message' };

const isPath = (each: DetailCondition): each is DetailLeaf => 'path' in each;
const isOneValue = ({ op, value }: DetailLeaf): boolean =>
  op === 'is' || (op === 'is one of' && Array.isArray(value) && value.length === 1);
const isValue = ({ op, value }: DetailLeaf): boolean => (op === 'is' || op === 'is one of') && value !== undefined;

/** Which form the answers belong to, where one is named. */
const formOf = ({ where }: Details): string | undefined => {
  const leaf = where.find((each): each is DetailLeaf => isPath(each) && each.path === 'form' && isOneValue(each));
  const [value] = [leaf?.value].flat();
  return typeof value === 'string' ? value : undefined;
};

function questionOf(path: string, details: Details) {
  if (!path.startsWith('answers.')) return undefined;
  const [key, form] = [path.slice('answers.'.length), formOf(details)];
  const forms = details.catalogue.all('form').filter((each) => form === undefined || each.key === form);
  return forms.flatMap((each) => each.body.questions).find((question) => question.key === key);
}
type Question = NonNullable<ReturnType<typeof questionOf>>;

/** What a value is called: a form, a message and a choice by their names. */
function valueSaid(leaf: DetailLeaf, fields: readonly DetailField[], details: Details): (value: unknown) => string {
  const { catalogue } = details;
  const storage = detailStorage(fields, leaf.path);
  const kind = Object.hasOwn(NAMED, leaf.path) ? NAMED[leaf.path] : undefined;
  const isMoney = fields.find(({ key }) => key === leaf.path)?.type === 'money';
  return (value) => {
    const text = String(value);
    const name = kind && catalogue.find(kind, text)?.name;
    if (name !== undefined) return name;
    if (storage === 'number') return `${numberText(value)}${isMoney ? ` ${catalogue.workspace.currency}` : ''}`;
    if (storage === 'day' || storage === 'instant') return dateWords(text);
    return plainSaid(text);
  };
}
const choiceSaid =
  (question: Question) =>
  (value: unknown): string =>
    quotedSaid(question.options?.find((option) => option.key === value)?.name ?? String(value));

/** What the detail at a path is called; one that is gone goes by its path. */
const named = (path: string, fields: readonly DetailField[]): string => {
  const field = fields.find(({ key }) => key === path);
  return field ? detailName(field, fields) : path;
};

function leafSaid(leaf: DetailLeaf, fields: readonly DetailField[], details: Details): string {
  const question = questionOf(leaf.path, details);
  const shown = question ? choiceSaid(question) : valueSaid(leaf, fields, details);
  return `${question ? quotedSaid(question.label) : named(leaf.path, fields)} ${testSaid(leaf, detailStorage(fields, leaf.path), shown)}`;
}

/** `with “the price” to “What stops you?”` */
const answerSaid = (question: Question, leaf: DetailLeaf, word = 'with'): string =>
  `${word} ${listed([leaf.value ?? []].flat().map(choiceSaid(question)), 'or')} to ${quotedSaid(question.label)}`;

/** What a verb is done to: `answered` and `form`, of `answered a form`. */
export function objectOf(verb: string): { readonly start: string; readonly noun: string } {
  const [, start = '', noun = ''] = /^(.*?) an? (\w+)$/.exec(verb) ?? [];
  return { start, noun };
}

/**
 * What was ordered, answered or opened, as it follows the verb.
 *
 * @param verb such as `ordered` or `answered a form`
 * @param isOne whether it is of one type of signal: then its object can be called by name
 */
export function objectSaid(verb: string, isOne: boolean, forms: Forms, details: Details): Said {
  const { where, fields } = details;
  const { start, noun } = objectOf(verb);
  const isObject = (each: DetailCondition): each is DetailLeaf =>
    isPath(each) && isOneValue(each) && (noun === named(each.path, fields) || Object.hasOwn(NAMED, each.path));
  // Who answered a form answered Find your clay; who started a plan started the plan Bench.
  const object = isOne && noun !== '' ? where.find(isObject) : undefined;
  const whose: string[] = [];
  const others: string[] = [];
  for (const each of where) {
    if (each === object) continue;
    if (!isPath(each)) {
      others.push(listSaid(each, details, verb === 'ordered'));
      continue;
    }
    const question = questionOf(each.path, details);
    if (question && isValue(each)) others.push(answerSaid(question, each));
    else whose.push(leafSaid(each, fields, details));
  }
  const name =
    object &&
    `${start} ${Object.hasOwn(NAMED, object.path) ? '' : `the ${named(object.path, fields)} `}${valueSaid(object, fields, details)(object.value)}`;
  // What has no object has nothing to which "whose" could belong.
  const facts = whose.length === 0 ? [] : noun === '' || name ? [`(${listed(whose, 'and')})`] : [`whose ${listed(whose, 'and')}`];
  return { verb: name ?? verb, ...forms(name ?? verb), rest: [...facts, listed(others, 'and')].filter(Boolean).join(' ') };
}

/** What some or none of a list has: `an item whose line is glaze and quantity is at least 2` */
function listSaid(each: Exclude<DetailCondition, DetailLeaf>, details: Details, isItself: boolean): string {
  const isSome = 'some' in each;
  const path = isSome ? each.some : each.none;
  const question = questionOf(path, details);
  const [only, ...more] = each.of;
  if (question && only && more.length === 0 && isValue(only)) return answerSaid(question, only, isSome ? 'with' : 'without');
  const list = details.fields.find((field) => field.key === path.split('.')[0]);
  const inner = list?.of ?? [];
  const tests = each.of.map((leaf) => leafSaid(leaf, inner, details));
  const one = question
    ? `an answer to ${quotedSaid(question.label)}`
    : list?.key === path
      ? oneOfList(list, details.fields)
      : `one of ${path}`;
  const whole = `${one}${tests.length > 0 ? ` whose ${listed(tests, 'and')}` : ''}`;
  if (isSome && isItself) return whole;
  return `${isSome ? 'with' : 'without'} ${whole}`;
}
