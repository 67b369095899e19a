import { type Catalogue } from '../../../settings/catalogue.ts';
import { type SubjectKind } from '../../../settings/subject-kind.ts';
import { opposite } from '../../opposite.ts';
import { type Condition, type Count, type DetailLeaf, type Leaf, type NumberOp } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Limit } from '../limits.ts';
import { type Segment } from '../segment.ts';
import { type Today } from '../periods.ts';
import { SOMEBODY } from '../words/language.ts';

/** What is known of a phrase besides its words. */
export interface Phrase {
  readonly catalogue: Catalogue;
  /** what it will be asked of */
  readonly of: SubjectKind;
  readonly today: Today | undefined;
}

/** A reading of some pieces as one line. */
export interface LineReading {
  readonly condition: Condition;
  readonly score: number;
  readonly unread: readonly Chunk[];
}

/** A line that does not hold: its opposite where it has one. */
export const none = (leaf: Leaf): Condition => opposite(leaf) ?? { match: 'none', of: [leaf] };
export const noneIf = (isNot: boolean, leaf: Leaf): Condition => (isNot ? none(leaf) : leaf);

export const NEVER: Count = { op: '=', value: 0 };

const TURNED: Readonly<Record<NumberOp, NumberOp | undefined>> = {
  '>=': '<',
  '>': '<=',
  '<=': '>',
  '<': '>=',
  '=': '!=',
  '!=': '=',
  between: undefined,
};
/** What is not more than three is at most three. */
export const turnedIf = (isNot: boolean, op: NumberOp): NumberOp => (isNot ? (TURNED[op] ?? op) : op);

/** How often: a bare number is at least so often. */
export function countOf(limit: Limit, isNot = false): Count {
  const op = turnedIf(isNot, limit.isSaid || limit.value === 0 ? limit.op : '>=');
  // Less often than once is never.
  return op === '<' && limit.value === 1 ? NEVER : { op, value: limit.value };
}

/** Whether a number is said of people: `anyone under 25`, `younger than 30` */
export const isOfSomebody = (own: readonly Chunk[], chunk: Chunk): boolean =>
  /\b(older|younger)\b/i.test(chunk.text) || SOMEBODY.test(own[own.indexOf(chunk) - 1]?.text ?? '');

/** Whether it is said what a company is: `company is a café` */
export const isCompanySaid = (chunks: readonly Chunk[]): boolean =>
  chunks.some(({ cue }, at) => cue === 'company' && /^(is|are|=|:)$/i.test(chunks[at + 1]?.text ?? ''));

/** What stands before a piece, as it was typed. */
export const wordsBefore = (chunks: readonly Chunk[], chunk: Chunk): string =>
  chunks
    .slice(0, chunks.indexOf(chunk))
    .map(({ text }) => text)
    .join(' ');

/** A question about a detail: one value, or one of several. */
export const detailIs = (path: string, values: readonly string[]): DetailLeaf =>
  values.length === 1 ? { path, op: 'is', value: values[0] ?? '' } : { path, op: 'is one of', value: [...values] };

/** A property that is left out where it says nothing. */
export const withSince = (since: ReturnType<Segment['takeWindow']>): { since?: NonNullable<typeof since> } =>
  since === undefined ? {} : { since };
export const withWithin = (within: ReturnType<Segment['takeWindow']>): { within?: NonNullable<typeof within> } =>
  within === undefined ? {} : { within };

/** `don't email`, `do not text`: a way that somebody is not to be written to. */
export const isForbidden = (chunks: readonly Chunk[], chunk: Chunk): boolean => {
  const [other, not] = [chunks[chunks.indexOf(chunk) - 2], chunks[chunks.indexOf(chunk) - 1]];
  return not?.kind === 'not' && (/^don['’]t$/i.test(not.text) || (/^not$/i.test(not.text) && /^do$/i.test(other?.text ?? '')));
};

export const isPlan = ({ text }: Chunk): boolean => /^(plans?|memberships?|subscriptions?|members?)$/i.test(text);

/** Cues behind which a piece of a text stands: `name starts with`. A word that says little elsewhere is what is meant before and behind them. */
export const WRITTEN: ReadonlySet<Chunk['cue']> = new Set<Chunk['cue']>(['starts', 'ends', 'contains']);

/** What a joint parts. */
export function partsOf(chunks: readonly Chunk[]): readonly (readonly Chunk[])[] {
  const at = chunks.findIndex(({ kind }) => kind === 'joint');
  return at < 0 ? [chunks] : [chunks.slice(0, at), ...partsOf(chunks.slice(at + 1))];
}
