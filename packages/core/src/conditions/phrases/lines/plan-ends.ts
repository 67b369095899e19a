import { type Condition } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { datedBy } from './facts.ts';
import { noneIf, type Phrase } from './phrase.ts';
import { beside, whereOf } from './signals.ts';

/** `whose bench plan ends in the next 14 days`: by the end of the plan that was started or renewed last. */
export function planEndLine(phrase: Phrase, segment: Segment, head: Chunk): Condition | undefined {
  const type = ['plan.started', 'plan.renewed'].flatMap((key) => phrase.catalogue.find('signalType', key)?.id ?? []);
  if (type.length === 0) return undefined;
  segment.head(head);
  const isNot = segment.takeNot();
  const dated = datedBy(phrase, segment, false);
  if (!dated) return undefined;
  const end = { path: 'until', op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) };
  const plan = whereOf(phrase, segment, type, beside(segment.chunks, segment));
  return noneIf(isNot, { kind: 'signal', type, pick: 'latest', where: [...plan, end as (typeof plan)[number]] });
}
