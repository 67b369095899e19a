import { storageOf } from '../../../contacts/fields.ts';
import { nameSaid } from '../../describe/names.ts';
import { type Leaf, type LeafOf, type Measure } from '../../schema.ts';
import { COMPARISONS } from '../../words.ts';
import { readCount } from '../windows.ts';
import { factValue, fieldsOf } from './facts.ts';
import { type Saying } from './saying.ts';
import { SaidSignals } from './signals.ts';
import { bandsOf, readOwnerEmail, readScorecard, stagesOf } from './standing.ts';
import { readKnown, readListed, readSaidNumber, readSaidWindow } from './values.ts';

/** Stands for no value, while a change is read. */
const GONE = '\u0000';

export function readChange(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  const subject = readKnown<{ what: LeafOf<'change'>['what']; key?: number }>(cursor, 'a change', [
    ['stage', { what: 'stage' }],
    ['owner', { what: 'owner' }],
    ...saying.catalogue
      .all('field')
      .map(({ id }) => [nameSaid(saying.catalogue, 'field', id), { what: 'field' as const, key: id as number }] as const),
    ...saying.catalogue
      .all('scorecard')
      .map(({ id }) => [nameSaid(saying.catalogue, 'scorecard', id), { what: 'band' as const, key: id as number }] as const),
  ]);
  const not =
    subject &&
    readKnown(cursor, 'a change', [
      ['changed', 'no'] as const,
      ['has never changed', 'never'] as const,
      ['has not changed', 'not'] as const,
    ]);
  if (!not) return undefined;
  const side = (word: 'from' | 'to'): { [W in 'from' | 'to']?: (string | number | null)[] } => {
    const start = cursor.at;
    // `changed from 1 Mar 2026 up to and including 22 Mar 2026` says when, and not from which number.
    const isWhen = readSaidWindow(cursor) !== undefined;
    cursor.at = start;
    if (isWhen) return {};
    const values = cursor.take(word, 'a change') ? readListed(cursor, () => changedValue(saying, subject), 'or') : undefined;
    if (values) return { [word]: values.map((value) => (value === GONE ? null : value)) };
    cursor.at = start;
    return {};
  };
  const sides = { ...side('from'), ...side('to') };
  const count = not === 'no' ? readCount(cursor) : { op: '=' as const, value: 0 };
  const within = readSaidWindow(cursor);
  if (not !== 'no' && (not === 'not') !== (within !== undefined)) return undefined;
  return { kind: 'change', ...subject, ...sides, ...(count ? { count } : {}), ...(within ? { within } : {}) } as Leaf;
}

function changedValue(
  saying: Saying,
  { what, key = -1 }: { readonly what: LeafOf<'change'>['what']; readonly key?: number },
): string | number | undefined {
  const { cursor } = saying;
  const known: (readonly [string, string | number])[] = [['nothing', GONE]];
  if (what === 'stage') known.push(...stagesOf(saying));
  if (what === 'band') known.push(...bandsOf(saying, key));
  const field = what === 'field' ? saying.catalogue.body('field', key) : undefined;
  return cursor.longest<string | number>([
    () => readKnown(cursor, 'value', known),
    () => (what === 'owner' ? readOwnerEmail(saying) : field && factValue(saying, field)()),
  ]);
}

export function readCompare(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  const left = readMeasure(saying);
  const op =
    left &&
    readKnown(
      cursor,
      'how',
      COMPARISONS.map(([each, words]) => [`is ${words}`, each] as const),
    );
  if (!left || !op) return undefined;
  const start = cursor.at;
  let times = readSaidNumber(cursor);
  if (times === undefined || !cursor.take('times', 'times')) {
    cursor.at = start;
    times = undefined;
  }
  const right = readMeasure(saying);
  return right && { kind: 'compare', left, op, right, ...(times === undefined ? {} : { times }) };
}

function readMeasure(saying: Saying): Measure | undefined {
  const { cursor } = saying;
  const numbers = fieldsOf(saying).filter(({ body }) => storageOf[body.type] === 'number');
  return cursor.longest<Measure>([
    () => new SaidSignals(saying).measure(),
    () =>
      readKnown<Measure>(
        cursor,
        'number',
        numbers.map(
          (field) =>
            [
              nameSaid(saying.catalogue, 'field', field.id),
              field.body.of === 'company' ? { field: field.id as number, of: 'company' as const } : { field: field.id as number },
            ] as const,
        ),
      ),
    () => {
      const scorecard = readScorecard(saying);
      return scorecard === undefined ? undefined : { scorecard };
    },
  ]);
}
