import { type Condition } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { meaningOf } from '../meanings.ts';
import { type Segment } from '../segment.ts';
import { stem } from '../tokens.ts';
import { MEASURING } from '../words/language.ts';
import { datedAhead, datedBy } from './dates.ts';
import { detailIs, NEVER, noneIf, type Phrase } from './phrase.ts';
import { beside, whereOf, withWhere } from './details.ts';

const typesOf = ({ catalogue }: Phrase, ...keys: readonly string[]): number[] =>
  keys.flatMap((key) => catalogue.find('signalType', key)?.id ?? []);

const IS_OVER = /^(ended|has ended|ran( out)?|has run out|expired|has expired)$/i;

/** Behind the name of a plan, that it comes to its end: `bench ends next week` */
export const isItsEnd = ({ text }: Chunk): boolean =>
  IS_OVER.test(text) || /^(ends?|ending|will end|runs? out|expires?|expiring)$/i.test(text);

/** `on the bench plan`: it was started or renewed last, and has not lapsed since. */
export function planLine(phrase: Phrase, segment: Segment, head: Chunk): Condition | undefined {
  const type = typesOf(phrase, 'plan.started', 'plan.renewed');
  const [lapse] = typesOf(phrase, 'plan.lapsed');
  if (type.length === 0 || segment.chunks.some((chunk) => meaningOf(chunk, 'signal') ?? meaningOf(chunk, 'planEnd'))) return undefined;
  segment.head(head);
  segment.isOfTypes(['plan.started', 'plan.renewed']);
  // `plan is Kiln and company is a café`
  if (segment.cue('company', 'deal', 'contains', 'starts', 'ends')) segment.refuse();
  segment.takeWord(/^members? of$/i);
  segment.takeWord(IN_FORCE);
  // `new members`, `churned members`, `members whose bench ran out`: no plan is called so.
  if (segment.unused().some((chunk) => NO_NAME.test(chunk.text) || isItsEnd(chunk))) segment.refuse();
  const isNot = segment.takeNot();
  const names = namesBefore(segment, head);
  const where = names.length > 0 ? [detailIs('plan', names)] : whereOf(phrase, segment, type, segment.chunks);
  const isAny =
    /^plan$/i.test(head.text) &&
    segment.chunks.every(({ kind }) => kind === 'thing' || kind === 'free' || kind === 'not' || kind === 'filler');
  if (where.length === 0 && !isAny) return isNot && segment.takeCue('ever') ? { kind: 'signal', type, count: NEVER } : undefined;
  return noneIf(isNot, {
    kind: 'signal',
    type,
    pick: 'latest',
    ...withWhere(where),
    ...(lapse ? { then: { type: lapse, ...withWhere(where), happens: false } } : {}),
  });
}

const IN_FORCE = /^(active|current|existing|paying)$/i;
const NO_NAME = /^(new|newest|churned|former|past|old|oldest|lost|loyal|long-time|inactive|lapsed|ex|returning|recent|future|possible)$/i;

/** A place on the ladder, a band or a person is no plan, and a tag that is called by its key is none either. */
const mayBeName = ({ kind, meanings, text }: Chunk): boolean =>
  (kind === 'free' || kind === 'thing') &&
  !text.includes('.') &&
  !MEASURING.has(stem(text)) &&
  !meanings.some((each) => each.kind === 'stage' || each.kind === 'band' || each.kind === 'person' || each.kind === 'signal');

/** `Shelf or Kiln members`: what stands right before the word for a plan is its name, whatever else is called so. */
function namesBefore(segment: Segment, head: Chunk): readonly string[] {
  const names: Chunk[] = [];
  for (let at = segment.chunks.indexOf(head) - 1; at >= 0; at -= 2) {
    const [joint, name] = [segment.chunks[at + 1], segment.chunks[at]];
    const isJoined = joint === head || (joint?.kind === 'joint' && joint.joint === 'or') || joint?.text === ',';
    if (!name || !isJoined || !mayBeName(name)) break;
    names.unshift(name);
  }
  segment.join(names);
  return names.map(({ typed }) => typed);
}

/** `whose bench plan ends in the next 14 days`: by the end of the plan that was started or renewed last. */
export function planEndLine(phrase: Phrase, segment: Segment, head: Chunk): Condition | undefined {
  const type = typesOf(phrase, 'plan.started', 'plan.renewed');
  if (type.length === 0) return undefined;
  // `bench ends next week or city contains wick`
  if (segment.cue('company', 'deal', 'contains', 'starts', 'ends')) segment.refuse();
  segment.head(head);
  segment.isOfTypes(['plan.started', 'plan.renewed']);
  const isNot = segment.takeNot();
  const dated = IS_OVER.test(head.text) ? datedBy(phrase, segment, false) : datedAhead(phrase, segment);
  const isNamed = meaningOf(head, 'planEnd') === undefined;
  if (!dated) return isNamed && IS_OVER.test(head.text) ? lapsed(phrase, segment, isNot) : undefined;
  const end = { path: 'until', op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) };
  const plan = whereOf(phrase, segment, type, isNamed ? segment.chunks : beside(segment.chunks, segment));
  // What ends of which nothing is said is no plan.
  if (isNamed && (plan.length === 0 || dated.value === undefined)) return undefined;
  return noneIf(isNot, { kind: 'signal', type, pick: 'latest', where: [...plan, end as (typeof plan)[number]] });
}

/** `bench expired`: a plan of that name has come to its end. */
function lapsed(phrase: Phrase, segment: Segment, isNot: boolean): Condition | undefined {
  const type = typesOf(phrase, 'plan.lapsed');
  const where = whereOf(phrase, segment, type, segment.chunks);
  return type.length === 0 || where.length === 0 ? undefined : noneIf(isNot, { kind: 'signal', type, where });
}
