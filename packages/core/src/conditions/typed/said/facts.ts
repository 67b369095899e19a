import { storageOf, type FieldBody } from '../../../contacts/fields.ts';
import { type Definition } from '../../../settings/definitions.ts';
import { nameSaid } from '../../describe/names.ts';
import { isBirthday, WITH_ITS_YEAR } from '../../describe/said/sentences.ts';
import { isOne, type Grammatical } from '../../describe/said/signals.ts';
import { type Leaf } from '../../schema.ts';
import { type Saying } from './saying.ts';
import { readKnown, readSaidDate, readSaidDuration, readSaidAmount, readSaidQuoted, readSaidTest } from './values.ts';

export function fieldsOf(saying: Saying): readonly Definition<'field'>[] {
  return saying.catalogue.all('field').filter(({ body }) => body.of !== 'deal');
}

export function readField(saying: Saying, number: Grammatical): Leaf | undefined {
  const isCompany = number === 'company' || number === 'companies';
  return saying.cursor.longest<Leaf>(
    fieldsOf(saying).map((field) => () => {
      const name = nameSaid(saying.catalogue, 'field', field.id, isCompany);
      const isTaken = saying.cursor.take(name, 'field') || (name.includes('’') && saying.cursor.take(name.replace('’', "'"), 'field'));
      if (!isTaken) return undefined;
      const test = isBirthday(name) ? birthdayTest(saying, field.body) : factTest(saying, field.body);
      return test && ({ kind: 'field', of: field.body.of, field: field.id as number, ...test } as Leaf);
    }),
  );
}

function factTest(saying: Saying, body: FieldBody): { op: string; value?: unknown } | undefined {
  return readSaidTest(saying.cursor, storageOf[body.type], factValue(saying, body));
}

function birthdayTest(saying: Saying, body: FieldBody): { op: string; value?: unknown } | undefined {
  const { cursor } = saying;
  if (storageOf[body.type] !== 'day' && storageOf[body.type] !== 'instant') return factTest(saying, body);
  const span = (): { n: number } | undefined => {
    const found = readSaidDuration(cursor) ?? (cursor.take('day', 'unit') ? { n: 1, unit: 'days' } : undefined);
    return found?.unit === 'days' ? { n: found.n } : undefined;
  };
  return cursor.longest<{ op: string; value?: unknown }>([
    () => (cursor.take('is today', 'how') ? { op: 'anniversary today' } : undefined),
    () => (cursor.take('is tomorrow', 'how') ? { op: 'anniversary in', value: { n: 1 } } : undefined),
    ...(['anniversary in', 'anniversary within the next', 'anniversary within the last'] as const).map((op) => () => {
      const value = cursor.take(op.replace('anniversary', 'is').replace('within', 'in'), 'how') ? span() : undefined;
      return value && { op, value };
    }),
    () => (cursor.take(WITH_ITS_YEAR, 'how') ? factTest(saying, body) : undefined),
    () => factTest(saying, body),
  ]);
}

export function factValue(saying: Saying, body: FieldBody): () => string | number | undefined {
  const { cursor } = saying;
  switch (storageOf[body.type]) {
    case 'number':
      return () => readSaidAmount(cursor, body.type === 'money' ? saying.catalogue.workspace.currency : undefined);
    case 'day':
    case 'instant':
      return () => readSaidDate(cursor);
    case 'choice':
    case 'choices':
      return () =>
        readKnown(
          cursor,
          'choice',
          (body.options ?? []).map(({ name, key }) => [name, key] as const),
        );
    case 'text':
    case 'yesNo':
      return () => readSaidQuoted(cursor);
  }
}

/** `has own kiln`, `is not a teacher`: a name that says itself what is so */
export function readYesNo(saying: Saying, number: Grammatical): Leaf | undefined {
  const { cursor } = saying;
  const words = {
    has: isOne(number) ? ['has', 'does not have'] : ['have', 'do not have'],
    is: isOne(number) ? ['is', 'is not'] : ['are', 'are not'],
  };
  return cursor.longest<Leaf>(
    fieldsOf(saying)
      .filter(({ body }) => storageOf[body.type] === 'yesNo' && body.of === 'contact')
      .flatMap((field) => {
        const [, verb, what = ''] = /^(has|is)\s+(.*)$/.exec(field.name) ?? [];
        if (verb !== 'has' && verb !== 'is') return [];
        return words[verb].map((word, index) => () => {
          const op = index === 0 ? 'is yes' : 'is no';
          return cursor.take(word, 'how') && cursor.take(what, 'field')
            ? ({ kind: 'field', of: 'contact', field: field.id as number, op } satisfies Leaf)
            : undefined;
        });
      }),
  );
}
