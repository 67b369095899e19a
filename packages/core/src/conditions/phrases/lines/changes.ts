import { storageOf, type FieldBody } from '../../../contacts/fields.ts';
import { type Window } from '../../../time/window.ts';
import { type Condition, type LeafOf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { countOf, isOfSomebody, noneIf, withWithin, type Phrase } from './phrase.ts';

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
    const [first, last] = [values[0], values.at(-1)].map((each) => (each ? segment.chunks.indexOf(each.chunk) : -1)) as [number, number];
    // `became suited and customer`: nobody is at both at once, so that the second is how it is now.
    const joints = segment.chunks.slice(first, last).filter(({ kind }) => kind === 'joint');
    if (joints.length > 0 && joints.every(({ joint }) => joint !== 'or')) segment.refuse();
    segment.join(values.map(({ chunk }) => chunk));
    return values.length > 0 ? values.map(({ value }) => value) : undefined;
  };
  const [from, to] = [taken(sides.from), taken(sides.to)];
  return { ...(from ? { from } : {}), ...(to ? { to } : {}) };
}

/** Whether something is said, and then a joint, before the word of a change. */
function isAfterAJoint({ chunks }: Segment, cue: Chunk): boolean {
  const before = chunks.slice(0, chunks.indexOf(cue)).filter(({ kind }) => kind !== 'filler');
  return before.some(({ kind }) => kind === 'joint') && before[0]?.kind !== 'joint';
}

function changeOf(segment: Segment, leaf: LeafOf<'change'>): Condition {
  // `became suited this month, anyone under 25`: people are, and not how often.
  if (segment.unused().some((chunk) => chunk.kind === 'limit' && isOfSomebody(segment.chunks, chunk))) segment.refuse();
  // `under 25, became suited`: how old they are.
  const cue = segment.chunks.find((chunk) => chunk.cue === 'changed');
  if (cue && isAfterAJoint(segment, cue) && segment.unused().some(({ kind }) => kind === 'limit')) segment.refuse();
  const isNot = segment.takeNot();
  const within = segment.takeWindow();
  const limit = segment.takeLimit();
  return noneIf(isNot, { ...leaf, ...(limit ? { count: countOf(limit) } : {}), ...withWithin(within) });
}

const UP = /\b(up|jumped|rose|rise|risen|rising|climbed|climbing|grew|growing|increased|improving|improved)\b/i;
const DOWN = /\b(down|fell|fall|fallen|falling|dropped|dropping|sank|sinking|decreased|worsened)\b/i;
/** What is going on has been going on lately. */
const GOING_ON = /(\w{2,}ing\b|\bon the rise\b)/i;
const LATELY: Window = { last: 30, unit: 'days' };
/** In which direction a word says that something changed. */
const directionOf = ({ text }: Chunk): 'up' | 'down' | undefined => (UP.test(text) ? 'up' : DOWN.test(text) ? 'down' : undefined);

/** A change of which it is said in which direction, and when. */
function stepped(
  segment: Segment,
  cue: Chunk,
  changeIn: (within: ReturnType<typeof withWithin>) => Condition | undefined,
): Condition | undefined {
  const isNot = segment.takeNot();
  const moved = changeIn(withWithin(segment.takeWindow() ?? (GOING_ON.test(cue.text) ? LATELY : undefined)));
  return moved && isNot ? { match: 'none', of: [moved] } : moved;
}

/** A change upwards or downwards through some steps is one from any of them to any behind it. */
function anyStep<V>(
  steps: readonly V[],
  direction: 'up' | 'down',
  { from: named, to }: { from?: V[]; to?: V[] },
  leafOf: (sides: { from?: V[]; to?: V[] }) => Condition,
): Condition | undefined {
  const order = direction === 'up' ? steps : [...steps].reverse();
  // Whatever comes to the last one came that way, and so did whatever left the first one.
  if (to ? !named && to.every((each) => each === order.at(-1)) : named?.every((each) => each === order[0]))
    return leafOf({ ...(named ? { from: named } : {}), ...(to ? { to } : {}) });
  const leaves = order.flatMap((from, at) => {
    const behind = order.slice(at + 1).filter((each) => !to || to.includes(each));
    return behind.length > 0 && (!named || named.includes(from)) ? [{ from: [from], to: behind }] : [];
  });
  const [first, ...others] = leaves;
  if (!first) return undefined;
  return others.length === 0 ? leafOf(first) : { match: 'any', of: leaves.map(leafOf) };
}

/** `turned 60` */
const isAge = ({ chunks }: Segment, cue: Chunk): boolean => /^turned$/i.test(cue.text) && chunks[chunks.indexOf(cue) + 1]?.kind === 'limit';

/** `became a customer`, `moved from suited to in talks`; with the word itself, any change of it. */
export function stageChange({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  const cue = segment.cue('changed');
  if (!cue) return undefined;
  // `reached customer this quarter and heard of us`, `customer, and became suited`: another line begins there.
  if (isAge(segment, cue)) segment.refuse();
  const isStage = (chunk: Chunk): boolean => meaningOf(chunk, 'stage') !== undefined;
  const window = segment.chunks.findIndex(({ kind }) => kind === 'window');
  for (const place of [window, segment.chunks.indexOf(cue)])
    if (place >= 0 && segment.chunks.slice(place).some(isStage) && segment.chunks.slice(0, place).some(isStage)) segment.refuse();
  segment.use(cue);
  const isNamed = segment.takeCue('stage');
  const sides = sidesOf(segment, (chunk) => meaningOf(chunk, 'stage')?.stage);
  // `regulars who dropped to quiet`: what stands before the word of a change was not what it led to.
  if (!isNamed && segment.chunks.findLastIndex((chunk) => meaningOf(chunk, 'stage')) < segment.chunks.indexOf(cue)) segment.refuse();
  const direction = directionOf(cue);
  if (direction && isNamed && !sides.from && !sides.to) {
    const ladder = catalogue.ladder().map(({ id }) => id);
    return stepped(segment, cue, (within) =>
      anyStep(ladder, direction, sides, (step) => ({ kind: 'change', what: 'stage', ...step, ...within })),
    );
  }
  return isNamed || sides.from || sides.to ? changeOf(segment, { kind: 'change', what: 'stage', ...sides }) : undefined;
}

export function ownerChange(segment: Segment): Condition | undefined {
  if (!segment.takeCue('changed')) return undefined;
  segment.takeCue('owner');
  return changeOf(segment, { kind: 'change', what: 'owner', ...sidesOf(segment, (chunk) => meaningOf(chunk, 'person')?.email) });
}

export function bandChange({ catalogue }: Phrase, segment: Segment, scorecard: number, head?: Chunk): Condition | undefined {
  const cue = segment.cue('changed');
  if (!cue) return undefined;
  segment.use(cue);
  segment.head(head);
  const bandOf = (chunk: Chunk): string | undefined => {
    const band = chunk.meanings.find((each) => each.kind === 'band' && each.scorecard === scorecard);
    return band?.kind === 'band' ? band.key : undefined;
  };
  if (isAge(segment, cue)) segment.refuse();
  // `eager and crossed into keen`: where somebody is, is not where they went.
  const place = segment.chunks.indexOf(cue);
  const isNamedBefore = segment.chunks.slice(0, place).some((chunk) => bandOf(chunk) !== undefined);
  if (isNamedBefore && segment.chunks.slice(place).some((chunk) => bandOf(chunk) !== undefined)) segment.refuse();
  const sides = sidesOf(segment, bandOf);
  // `crossed 50`: only bands are crossed, and a number of points is no number of times.
  if (segment.unused().some(({ limit }) => limit && limit.of !== 'times')) segment.refuse();
  const leaf = { kind: 'change', what: 'band', key: scorecard } as const;
  const direction = directionOf(cue);
  const bands = (catalogue.body('scorecard', scorecard)?.bands ?? []).map(({ key }) => key);
  const beyond = (['atLeast', 'above', 'below'] as const).find((each) => segment.takeCue(each));
  const [limit] = sides.to ?? [];
  // `rose above curious, eager`
  if (beyond && (sides.to?.length ?? 0) > 1) segment.refuse();
  if (beyond && limit !== undefined && sides.to?.length === 1 && !sides.from) {
    const at = bands.indexOf(limit);
    const to = { atLeast: bands.slice(at), above: bands.slice(at + 1), below: bands.slice(0, at) }[beyond];
    if (to.length === 0 || to.length === bands.length) return undefined;
    return changeOf(segment, { ...leaf, from: bands.filter((key) => !to.includes(key)), to });
  }
  // With both sides the direction is said already.
  if (!direction || (sides.from && sides.to)) return changeOf(segment, { ...leaf, ...sides });
  return stepped(segment, cue, (within) => anyStep(bands, direction, sides, (step) => ({ ...leaf, ...step, ...within })));
}

export function fieldChange(segment: Segment, field: number, body: FieldBody): Condition | undefined {
  const cue = segment.cue('changed');
  // Somebody new in Sweden is not one whose country changed.
  if (!cue || /^new$/i.test(cue.text)) return undefined;
  // Whether a value grew is not recorded as such.
  if (directionOf(cue) && storageOf[body.type] === 'number') return undefined;
  if (isAge(segment, cue)) segment.refuse();
  // `city is Saltwick, fell from eager`: what stands before the comma is so, and something else fell.
  if (isAfterAJoint(segment, cue)) segment.refuse();
  segment.use(cue);
  const sides = sidesOf<string | number>(segment, (chunk) => {
    const option = chunk.meanings.find((each) => each.kind === 'option' && each.field === field);
    if (option?.kind === 'option') return option.key;
    if (chunk.kind === 'limit' && typeof chunk.limit?.value === 'number') return chunk.limit.value;
    return chunk.kind === 'free' && !body.options ? chunk.text : undefined;
  });
  return changeOf(segment, { kind: 'change', what: 'field', key: field, ...sides });
}
