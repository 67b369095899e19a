import { type FieldBody } from '../../../contacts/fields.ts';
import { type Condition, type LeafOf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf, type Segment } from '../segment.ts';
import { countOf, noneIf, withWithin } from './phrase.ts';

/** Values before and behind: `from quiet to keen or eager`. Without a word between they are where it went to. */
function sidesOf<V>(segment: Segment, valueOf: (chunk: Chunk) => V | undefined): { from?: V[]; to?: V[] } {
  const sides: Record<'from' | 'to', { chunk: Chunk; value: V }[]> = { from: [], to: [] };
  let side: 'from' | 'to' = 'to';
  for (const chunk of segment.chunks) {
    const value = segment.isUsed(chunk) ? undefined : valueOf(chunk);
    if (value !== undefined) sides[side].push({ chunk, value });
    else if (chunk.cue === 'from' || chunk.cue === 'to') {
      side = chunk.cue;
      segment.use(chunk);
    }
  }
  const taken = (values: readonly { chunk: Chunk; value: V }[]): V[] | undefined => {
    segment.join(values.map(({ chunk }) => chunk));
    return values.length > 0 ? values.map(({ value }) => value) : undefined;
  };
  const [from, to] = [taken(sides.from), taken(sides.to)];
  return { ...(from ? { from } : {}), ...(to ? { to } : {}) };
}

function changeOf(segment: Segment, leaf: LeafOf<'change'>): Condition {
  const isNot = segment.takeNot();
  const within = segment.takeWindow();
  const limit = segment.takeLimit();
  return noneIf(isNot, { ...leaf, ...(limit ? { count: countOf(limit) } : {}), ...withWithin(within) });
}

/** `became a customer`, `moved from suited to in talks`; with the word itself, any change of it. */
export function stageChange(segment: Segment): Condition | undefined {
  if (!segment.takeCue('changed')) return undefined;
  const isNamed = segment.takeCue('stage');
  const sides = sidesOf(segment, (chunk) => meaningOf(chunk, 'stage')?.stage);
  return isNamed || sides.from || sides.to ? changeOf(segment, { kind: 'change', what: 'stage', ...sides }) : undefined;
}

export function ownerChange(segment: Segment): Condition | undefined {
  if (!segment.takeCue('changed')) return undefined;
  segment.takeCue('owner');
  return changeOf(segment, { kind: 'change', what: 'owner', ...sidesOf(segment, (chunk) => meaningOf(chunk, 'person')?.email) });
}

export function bandChange(segment: Segment, scorecard: number, head?: Chunk): Condition | undefined {
  if (!segment.takeCue('changed')) return undefined;
  segment.head(head);
  const bandOf = (chunk: Chunk): string | undefined => {
    const band = chunk.meanings.find((each) => each.kind === 'band' && each.scorecard === scorecard);
    return band?.kind === 'band' ? band.key : undefined;
  };
  return changeOf(segment, { kind: 'change', what: 'band', key: scorecard, ...sidesOf(segment, bandOf) });
}

export function fieldChange(segment: Segment, field: number, body: FieldBody): Condition | undefined {
  const cue = segment.cue('changed');
  // Somebody new in Sweden is not one whose country changed.
  if (!cue || /^new$/i.test(cue.text)) return undefined;
  segment.use(cue);
  const sides = sidesOf<string | number>(segment, (chunk) => {
    const option = chunk.meanings.find((each) => each.kind === 'option' && each.field === field);
    if (option?.kind === 'option') return option.key;
    if (chunk.kind === 'limit' && typeof chunk.limit?.value === 'number') return chunk.limit.value;
    return chunk.kind === 'free' && !body.options ? chunk.text : undefined;
  });
  return changeOf(segment, { kind: 'change', what: 'field', key: field, ...sides });
}
