import { type ConsentChannel, type ConsentState } from '../../../settings/consent.ts';
import { tagStorage } from '../../../tags/values.ts';
import { type Window } from '../../../time/window.ts';
import { nameSaid } from '../../describe/names.ts';
import { stageSaid, VALUED } from '../../describe/said/sentences.ts';
import { isOne, type Grammatical } from '../../describe/said/signals.ts';
import { type Leaf, type LeafOf, type NumberOp } from '../../schema.ts';
import { type Saying } from './saying.ts';
import { readKnown, readListed, readSaidDate, readSaidDuration, readSaidNumber, readSaidTest, readSaidWindow } from './values.ts';

const EMAIL = /[\p{L}\p{N}_.+-]+@[\p{L}\p{N}_.-]*[\p{L}\p{N}_-]/u;

export function readTag(saying: Saying, number: Grammatical): Leaf | undefined {
  const { cursor } = saying;
  const has = isOne(number) ? 'has' : 'have';
  const op = readKnown<LeafOf<'tag'>['op']>(cursor, 'tags', [
    [`${has} the tag`, 'has'],
    [isOne(number) ? 'does not have the tag' : 'do not have the tag', 'lacks'],
    [`${has} had the tag`, 'had'],
    ['lost the tag', 'lost'],
  ]);
  const tag =
    op &&
    readKnown(
      cursor,
      'tag',
      saying.catalogue.all('tag').map(({ key, id }) => [key, id as number] as const),
    );
  if (!op || tag === undefined) return undefined;
  const start = cursor.at;
  const storage = tagStorage[saying.catalogue.body('tag', tag)?.value ?? 'number'];
  const one = (): string | number | undefined => (storage === 'day' ? readSaidDate(cursor) : readSaidNumber(cursor));
  const value = cursor.take(VALUED[storage], 'its value') ? readSaidTest(cursor, storage, one) : undefined;
  if (!value) cursor.at = start;
  if (op === 'had' && !cursor.take('at some time', 'when')) return undefined;
  const since = op === 'has' ? readSaidSince(saying, ', got') : op === 'lost' ? readSaidSince(saying, '') : undefined;
  return { kind: 'tag', tag, op, ...(value ? { value } : {}), ...(since ? { since } : {}) };
}

/** Since when something stands; nothing said of it is no fault. */
function readSaidSince(saying: Saying, words: string): Window | undefined {
  const { cursor } = saying;
  const start = cursor.at;
  const [first, ...rest] = words.split(' ');
  // A comma follows without a space.
  const isSaid =
    words === '' ||
    (first === ',' ? cursor.take(',', 'since when') && cursor.take(rest.join(' '), 'since when') : cursor.take(words, 'since when'));
  const since = isSaid ? readSaidWindow(cursor) : undefined;
  if (!since) cursor.at = start;
  return since;
}

export function bandsOf(saying: Saying, scorecard: number): readonly (readonly [string, string])[] {
  return (saying.catalogue.body('scorecard', scorecard)?.bands ?? []).map(({ name, key }) => [name, key] as const);
}

/** The stages by what they are called. */
export const stagesOf = ({ catalogue }: Saying): readonly (readonly [string, number])[] =>
  catalogue.ladder().map(({ id }) => [stageSaid(catalogue, id), id as number] as const);

export function readOwnerEmail(saying: Saying): string | undefined {
  saying.cursor.skipSpace();
  return saying.cursor.pattern(EMAIL, 'owner', 'name@place.example');
}

export function readScorecard(saying: Saying): number | undefined {
  return readKnown(
    saying.cursor,
    'score',
    saying.catalogue.all('scorecard').map(({ id }) => [nameSaid(saying.catalogue, 'scorecard', id), id as number] as const),
  );
}

export function readScore(saying: Saying): Leaf | undefined {
  const scorecard = readScorecard(saying);
  const test = scorecard === undefined ? undefined : readSaidTest(saying.cursor, 'number', () => readSaidNumber(saying.cursor));
  if (scorecard === undefined || test?.value === undefined) return undefined;
  return { kind: 'score', scorecard, op: test.op as NumberOp, value: test.value as number | [number, number] };
}

export function readBand(saying: Saying): Leaf | undefined {
  const scorecard = readScorecard(saying);
  if (scorecard === undefined) return undefined;
  const { cursor } = saying;
  const bands = (): string[] | undefined => readListed(cursor, () => readKnown(cursor, 'band', bandsOf(saying, scorecard)), 'or');
  return cursor.longest<Leaf>([
    () => {
      const values = cursor.take('is not', 'how') ? bands() : undefined;
      return (
        values &&
        oneOrMore(
          values,
          (value) => ({ kind: 'band', scorecard, op: 'is not', value }),
          (value) => ({ kind: 'band', scorecard, op: 'is not one of', value }),
        )
      );
    },
    () => {
      const standing = readStanding(saying, bands);
      return (
        standing &&
        oneOrMore(
          standing.values,
          (value) => ({ kind: 'band', scorecard, op: 'is', value, ...standing.since }),
          (value) => ({ kind: 'band', scorecard, op: 'is one of', value, ...standing.since }),
        )
      );
    },
  ]);
}

/** `is eager and became so in the last week`, `has been eager for more than 30 days` */
function readStanding<T>(
  saying: Saying,
  values: () => T[] | undefined,
): { readonly values: T[]; readonly since: { since?: Window } } | undefined {
  const { cursor } = saying;
  return cursor.longest<{ values: T[]; since: { since?: Window } }>([
    () => {
      const found = cursor.take('is', 'how') ? values() : undefined;
      if (!found) return undefined;
      const since = readSaidSince(saying, 'and became so');
      return { values: found, since: since ? { since } : {} };
    },
    () => {
      const found = cursor.take('has been', 'how') ? values() : undefined;
      const span = found && cursor.take('for more than', 'since when') ? readSaidDuration(cursor) : undefined;
      return found && span && { values: found, since: { since: { olderThan: span.n, unit: span.unit } } };
    },
  ]);
}

export function readAudience(saying: Saying, number: Grammatical): Leaf | undefined {
  const is = isOne(number) ? 'is' : 'are';
  const op = readKnown<LeafOf<'audience'>['op']>(saying.cursor, 'audiences', [
    [`${is} in`, 'in'],
    [`${is} not in`, 'out'],
    ['left', 'left'],
  ]);
  const audience =
    op &&
    readKnown(
      saying.cursor,
      'audience',
      saying.catalogue.all('audience').map(({ id }) => [nameSaid(saying.catalogue, 'audience', id), id as number] as const),
    );
  if (!op || audience === undefined) return undefined;
  const since = op === 'in' ? readSaidSince(saying, 'and came') : op === 'left' ? readSaidSince(saying, '') : undefined;
  return { kind: 'audience', audience, op, ...(since ? { since } : {}) };
}

export function readStage(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  if (!cursor.take('stage', 'ladder')) return undefined;
  const stages = stagesOf(saying);
  const one = (): number | undefined => readKnown(cursor, 'stage', stages);
  return cursor.longest<Leaf>([
    () => {
      const value = cursor.take('is', 'how') ? one() : undefined;
      return value !== undefined && cursor.take('or further on', 'how') ? { kind: 'stage', op: 'is at least', value } : undefined;
    },
    () => {
      const value = cursor.take('is before', 'how') ? one() : undefined;
      return value === undefined ? undefined : { kind: 'stage', op: 'is before', value };
    },
    () => {
      const standing = readStanding(saying, () => readListed(cursor, one, 'or'));
      return (
        standing &&
        oneOrMore(
          standing.values,
          (value) => ({ kind: 'stage', op: 'is', value, ...standing.since }),
          (value) => ({ kind: 'stage', op: 'is one of', value, ...standing.since }),
        )
      );
    },
  ]);
}

export function readHasOwner(saying: Saying, number: Grammatical): Leaf | undefined {
  const has = isOne(number) ? 'has' : 'have';
  const op = readKnown<'is empty' | 'is filled'>(saying.cursor, 'owner', [
    [`${has} no owner`, 'is empty'],
    [`${has} an owner`, 'is filled'],
  ]);
  return op && { kind: 'owner', op };
}

export function readOwner(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  const values = cursor.take('owner is', 'owner') ? readListed(cursor, () => readOwnerEmail(saying), 'or') : undefined;
  return (
    values &&
    oneOrMore(
      values,
      (value) => ({ kind: 'owner', op: 'is', value }),
      (value) => ({ kind: 'owner', op: 'is one of', value }),
    )
  );
}

export function readConsent(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  if (!cursor.take('consent to', 'consent')) return undefined;
  const same = <T extends string>(words: readonly T[]): readonly (readonly [string, T])[] => words.map((word) => [word, word]);
  const channel = readKnown<ConsentChannel>(cursor, 'channel', same(['email', 'text', 'chat']));
  const op = channel && readKnown<'is' | 'is not'>(cursor, 'how', same(['is', 'is not']));
  const value = op && readKnown<ConsentState>(cursor, 'consent', same(['given', 'withdrawn', 'unknown', 'undeliverable']));
  return channel && op && value && { kind: 'consent', channel, op, value };
}

/** One value is asked for by its own operator. */
const oneOrMore = <T>(values: T[], one: (value: T) => Leaf, more: (values: T[]) => Leaf): Leaf =>
  values.length === 1 ? one(values[0] as T) : more(values);
