import { type Condition, type Leaf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { noneIf, withSince, type Phrase } from './phrase.ts';
import { saysNever } from './standing.ts';

/** Who is in an audience, has left it, or was ever in it. */
export function audienceLine(phrase: Phrase, segment: Segment, head: Chunk, audience: number): Condition | undefined {
  if ((phrase.catalogue.body('audience', audience)?.of ?? 'contact') !== (phrase.of === 'company' ? 'company' : 'contact'))
    return undefined;
  segment.head(head);
  segment.takeCues('audience');
  const several = audiencesLine(phrase, segment, head, audience);
  if (several) return several;
  const isLeft = segment.takeCue('left') || segment.takeCue('lost');
  const isNot = segment.takeNot();
  const ever = segment.unused().find(({ window, cue }) => window === 'ever' || cue === 'ever');
  segment.use(ever);
  const wasIn = segment.chunks.slice(0, segment.chunks.indexOf(head)).some(({ text }) => /^(was|were)$/i.test(text));
  const isOnce = saysNever(segment) || ever !== undefined || wasIn;
  if (!isLeft && isOnce) return everIn(segment, audience, isNot);
  return noneIf(isNot, {
    kind: 'audience',
    audience,
    op: isLeft ? 'left' : 'in',
    ...withSince(isLeft ? segment.takeWindow() : segment.takeSince(isNot)),
  });
}

/** `in both Glaze keepers and Silent for 45 days`, `not in either of them` */
function audiencesLine(phrase: Phrase, segment: Segment, head: Chunk, audience: number): Condition | undefined {
  const said = (['allOf', 'oneOf'] as const).find((cue) => segment.cue(cue));
  if (!said) return undefined;
  const of = phrase.catalogue.body('audience', audience)?.of ?? 'contact';
  const ids = [
    audience,
    ...segment
      .takeAll('audience', (each) => (phrase.catalogue.body('audience', each.audience)?.of ?? 'contact') === of)
      .map((each) => each.audience),
  ];
  if (ids.length < 2) return undefined;
  segment.takeCue(said);
  segment.use(...segment.chunks.filter((chunk, index) => chunk.kind === 'joint' && index > segment.chunks.indexOf(head)));
  const lines = ids.map((each): Leaf => ({ kind: 'audience', audience: each, op: 'in' }));
  const group: Condition = { match: said === 'allOf' ? 'all' : 'any', of: lines };
  if (!segment.takeNot()) return group;
  return { match: 'none', of: said === 'allOf' ? [group] : lines };
}

/** Who was in an audience is in it, or has left it; when they were there is not asked. */
function everIn(segment: Segment, audience: number, isNot: boolean): Condition | undefined {
  if (segment.unused().some(({ kind }) => kind === 'window')) return undefined;
  return { match: isNot ? 'none' : 'any', of: (['in', 'left'] as const).map((op) => ({ kind: 'audience', audience, op })) };
}
