import { type FieldBody } from '../contacts/fields.ts';

export const QUESTION_TYPES = [
  'text',
  'long text',
  'one choice',
  'several choices',
  'scale',
  'number',
  'date',
  'phone',
  'email',
  'consent',
  'hidden',
] as const;
export type QuestionType = (typeof QUESTION_TYPES)[number];

const TEXTS = ['text', 'long text'] as const;

/** In which types of field the answer to a question can be kept. */
export const fieldKeeps: Readonly<Record<QuestionType, readonly FieldBody['type'][]>> = {
  text: TEXTS,
  'long text': TEXTS,
  'one choice': ['one choice'],
  'several choices': ['several choices'],
  scale: ['number'],
  number: ['number', 'money'],
  date: ['date'],
  phone: ['phone', ...TEXTS],
  email: [],
  consent: [],
  hidden: TEXTS,
};

/** Types whose answer is a number. */
export const isNumeric = (type: QuestionType): boolean => type === 'number' || type === 'scale';
/** Types whose answer people write themselves. */
export const isWritten = (type: QuestionType): boolean => type === 'text' || type === 'long text' || type === 'hidden';

/** The lowest and the highest step of a scale. */
export const scaleOf = ({
  min = 1,
  max = 5,
}: {
  readonly min?: number | undefined;
  readonly max?: number | undefined;
}): readonly [number, number] => [min, max];
/** So many steps a scale can have. */
export const MOST_STEPS = 11;
