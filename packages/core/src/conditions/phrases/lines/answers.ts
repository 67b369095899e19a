import { type Condition, type DetailCondition } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf, type MeaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { detailIs, NEVER, withWithin, type Phrase } from './phrase.ts';

/** Which form was answered, and how. */
export function answersIn(phrase: Phrase, segment: Segment, own: readonly Chunk[]): DetailCondition[] {
  const forms = segment.takeAll('form', () => true, own).map(({ key }) => key);
  const isOfForm = ({ form }: { readonly form: string }): boolean => forms.length === 0 || forms.includes(form);
  const [question] = questionsIn(phrase, segment, own, forms);
  const answers = segment.takeAll('answer', (answer) => isOfForm(answer) && (!question || question.question === answer.question), own);
  const asked = answers[0] ?? question;
  if (forms.length === 0 && asked) forms.push(asked.form);
  const where: DetailCondition[] = forms.length > 0 ? [detailIs('form', forms)] : [];
  const [answer] = answers;
  if (answer) {
    const path = `answers.${answer.question}`;
    const body = phrase.catalogue.find('form', answer.form)?.body.questions.find((each) => each.key === answer.question);
    const values = answers.filter((each) => each.question === answer.question).map((each) => each.key);
    return [...where, body?.type === 'several choices' ? { some: path, of: [detailIs('value', values)] } : detailIs(path, values)];
  }
  // `answered Tableware enquiry with more than 100 pieces`
  const limit = question && isNumber(phrase, question) ? segment.takeLimit(own) : undefined;
  if (question && limit) return [...where, { path: `answers.${question.question}`, op: limit.op, value: limit.value }];
  // Forms are all known: another word names none.
  const texts = question ? segment.takeTexts(own) : [];
  return question && texts.length > 0 ? [...where, detailIs(`answers.${question.question}`, texts)] : where;
}

const isNumber = ({ catalogue }: Phrase, { form, question }: MeaningOf<'question'>): boolean =>
  catalogue.find('form', form)?.body.questions.find(({ key }) => key === question)?.type === 'number';

/** Questions that are named; a question of the form is called as well by the field into which its answers go. */
function questionsIn(phrase: Phrase, segment: Segment, own: readonly Chunk[], forms: readonly string[]): readonly MeaningOf<'question'>[] {
  return segment.unused(own).flatMap((chunk) => {
    const named = chunk.meanings.find(
      (each): each is MeaningOf<'question'> => each.kind === 'question' && (forms.length === 0 || forms.includes(each.form)),
    );
    const found = named ?? questionOfField(phrase, chunk, forms);
    if (found) segment.use(chunk);
    return found ? [found] : [];
  });
}

function questionOfField({ catalogue }: Phrase, chunk: Chunk, forms: readonly string[]): MeaningOf<'question'> | undefined {
  const named = meaningOf(chunk, 'field') ?? meaningOf(chunk, 'fieldOfDeals');
  const field = named && catalogue.get('field', named.field);
  for (const form of field ? forms : []) {
    const question = catalogue.find('form', form)?.body.questions.find((each) => each.key === field?.key);
    if (question) return { kind: 'question', form, question: question.key };
  }
  return undefined;
}

/** The name of a form, or an answer, with no word of answering. */
export function answeredLine(phrase: Phrase, segment: Segment): Condition | undefined {
  const type = phrase.catalogue.find('signalType', 'form.answered');
  if (!type) return undefined;
  const isNot = segment.takeNot();
  const within = segment.takeWindow();
  const where = answersIn(phrase, segment, segment.chunks);
  if (where.length === 0) return undefined;
  return { kind: 'signal', type: type.id, where, ...(isNot ? { count: NEVER } : {}), ...withWithin(within) };
}
