import { detailName, oneOfList, type DetailField } from '../../../intake/signal-types.ts';
import { NAMED, objectOf } from '../../describe/said/details.ts';
import { quotedSaid } from '../../describe/said/values.ts';
import { detailStorage } from '../../prepare/details.ts';
import { type DetailCondition, type DetailLeaf } from '../../schema.ts';
import { type Saying } from './saying.ts';
import { readKnown, readListed, readSaidDate, readSaidAmount, readSaidTest, readSaidText } from './values.ts';

interface Question {
  readonly key: string;
  readonly label: string;
  readonly type: string;
  readonly options?: readonly { readonly key: string; readonly name: string }[] | undefined;
}

/** What is said of the details: `whose amount is more than 200`, `an item whose line is glaze`, `with “the price” to “What stops you?”` */
export function readWhere(saying: Saying, fields: readonly DetailField[], verb: string, object: DetailLeaf | undefined): DetailCondition[] {
  const { cursor } = saying;
  const isBracketed = object !== undefined || objectOf(verb).noun === '';
  const start = cursor.at;
  let own: DetailCondition[] | undefined;
  if (isBracketed ? cursor.take('(', 'details') : cursor.take('whose', 'details')) {
    const one = (): DetailCondition | undefined => readDetail(saying, fields, object);
    own = readListed(cursor, one, 'and');
    if (!own || (isBracketed && !cursor.take(')', 'end'))) own = undefined;
  }
  if (!own) cursor.at = start;
  const others = cursor.first(() => readListed(cursor, () => readOther(saying, fields, verb, object), 'and')) ?? [];
  return [...(object ? [object] : []), ...(own ?? []), ...others];
}

function readDetail(saying: Saying, fields: readonly DetailField[], object: DetailLeaf | undefined): DetailLeaf | undefined {
  const { cursor } = saying;
  return cursor.longest<DetailLeaf>([
    ...fields
      .filter(({ type }) => type !== 'answers' && type !== 'list')
      .map((field) => () => {
        const { key } = field;
        const test = cursor.take(detailName(field, fields), 'detail')
          ? readSaidTest(cursor, detailStorage(fields, key), detailValue(saying, fields, key))
          : undefined;
        return test && { path: key, ...test };
      }),
    ...questionsOf(saying, fields, object).map((question) => () => {
      if (!cursor.take(quotedSaid(question.label), 'question')) return undefined;
      const path = `answers.${question.key}`;
      const test = readSaidTest(cursor, detailStorage(fields, path), choiceValue(saying, question));
      return test && { path, ...test };
    }),
    () => {
      const path = unknownAnswer(saying, fields);
      const test = path === undefined ? undefined : readSaidTest(cursor, 'text', () => readSaidText(cursor));
      return test && path !== undefined ? { path, ...test } : undefined;
    },
  ]);
}

function readOther(
  saying: Saying,
  fields: readonly DetailField[],
  verb: string,
  object: DetailLeaf | undefined,
): DetailCondition | undefined {
  const { cursor } = saying;
  const lists = fields.filter(({ type }) => type === 'list');
  const questions = questionsOf(saying, fields, object);
  const elements = (of: readonly DetailField[], question?: Question): DetailLeaf[] => {
    const start = cursor.at;
    const one = (): DetailLeaf | undefined => {
      if (!question) return readDetail(saying, of, undefined);
      const test = cursor.take('value', 'answer') ? readSaidTest(cursor, 'text', choiceValue(saying, question)) : undefined;
      return test && { path: 'value', ...test };
    };
    const found = cursor.take('whose', 'details') ? readListed(cursor, one, 'and') : undefined;
    if (!found) cursor.at = start;
    return found ?? [];
  };
  const quantified = (some: boolean, path: string, of: DetailLeaf[]): DetailCondition => (some ? { some: path, of } : { none: path, of });
  return cursor.longest<DetailCondition>([
    ...(['with', 'without'] as const).map((word) => () => {
      const path = cursor.take(`${word} one of`, 'in a list') ? unknownAnswer(saying, fields) : undefined;
      return path === undefined ? undefined : quantified(word === 'with', path, elements([{ key: 'value', type: 'text' }]));
    }),
    ...lists.flatMap((list) => {
      const { key, of = [] } = list;
      const one = oneOfList(list, fields);
      return [
        ...(verb === 'ordered' ? [() => (cursor.take(one, 'in a list') ? quantified(true, key, elements(of)) : undefined)] : []),
        ...(['with', 'without'] as const).map(
          (word) => () => (cursor.take(`${word} ${one}`, 'in a list') ? quantified(word === 'with', key, elements(of)) : undefined),
        ),
      ];
    }),
    ...questions.flatMap((question) =>
      (['with', 'without'] as const).flatMap((word) => [
        () => {
          const isList = question.type === 'several choices';
          const values = cursor.take(word, 'answer') ? readListed(cursor, choiceValue(saying, question), 'or') : undefined;
          if (!values || !cursor.take(`to ${quotedSaid(question.label)}`, 'question') || (word === 'without' && !isList)) return undefined;
          const path = isList ? 'value' : `answers.${question.key}`;
          const leaf: DetailLeaf =
            values.length === 1 ? { path, op: 'is', value: values[0] ?? '' } : { path, op: 'is one of', value: values };
          return isList ? quantified(word === 'with', `answers.${question.key}`, [leaf]) : leaf;
        },
        () => {
          if (question.type !== 'several choices' || !cursor.take(`${word} an answer to ${quotedSaid(question.label)}`, 'question'))
            return undefined;
          return quantified(word === 'with', `answers.${question.key}`, elements([], question));
        },
      ]),
    ),
  ]);
}

/** An answer to a question that no form asks any more goes by its path. */
function unknownAnswer(saying: Saying, fields: readonly DetailField[]): string | undefined {
  if (!fields.some(({ type }) => type === 'answers')) return undefined;
  saying.cursor.skipSpace();
  return saying.cursor.rest.startsWith('answers.') ? saying.cursor.pattern(/answers\.[\p{L}\p{N}_-]+/u, 'answer', 'answers.') : undefined;
}

function questionsOf(saying: Saying, fields: readonly DetailField[], object: DetailLeaf | undefined): readonly Question[] {
  if (!fields.some(({ type }) => type === 'answers')) return [];
  const form = object?.path === 'form' ? object.value : undefined;
  return saying.catalogue
    .all('form')
    .filter(({ key }) => form === undefined || key === form)
    .flatMap(({ body }) => body.questions);
}

function choiceValue(saying: Saying, question: Question): () => string | undefined {
  const known = (question.options ?? []).map(({ key, name }) => [quotedSaid(name), key] as const);
  return () => readKnown(saying.cursor, 'choice', known) ?? readSaidText(saying.cursor);
}

/** How a value of a detail is said: a form and a message by their names. */
export function detailValue(saying: Saying, fields: readonly DetailField[], path: string): () => string | number | undefined {
  const { cursor } = saying;
  const kind = Object.hasOwn(NAMED, path) ? NAMED[path] : undefined;
  const named = kind ? saying.catalogue.all(kind).map(({ name, key }) => [name, key] as const) : [];
  switch (detailStorage(fields, path)) {
    case 'number': {
      const isMoney = fields.find(({ key }) => key === path)?.type === 'money';
      return () => readSaidAmount(cursor, isMoney ? saying.catalogue.workspace.currency : undefined);
    }
    case 'day':
    case 'instant':
      return () => readSaidDate(cursor);
    case 'text':
    case 'choice':
    case 'choices':
    case 'yesNo':
    case 'active':
      return () => readKnown(cursor, 'value', named) ?? readSaidText(cursor);
  }
}
