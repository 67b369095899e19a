import { type Condition, type Leaf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { noneIf, type Phrase } from './phrase.ts';

/** Whether a number is how old somebody is: `older than 40`, `40 years old` */
export const isAge = ({ kind, text, cue }: Chunk): boolean => cue === 'age' || (kind === 'limit' && /^(older|younger)\b/i.test(text));

/** How old somebody is, by their birthday. */
export function ageLine({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  const field = catalogue.find('field', 'birthday');
  segment.takeCue('age');
  const limit = segment.takeLimit();
  if (field?.body.type !== 'date' || field.body.of !== 'contact' || !limit) return undefined;
  const made = (op: string, years: number): Leaf =>
    ({ kind: 'field', of: 'contact', field: field.id, op, value: { n: years, unit: 'years' } }) as Leaf;
  const isNot = segment.takeNot();
  if (typeof limit.value !== 'number')
    return { match: isNot ? 'none' : 'all', of: [made('more than ago', limit.value[0]), made('within the last', limit.value[1] + 1)] };
  if (!Number.isInteger(limit.value)) return undefined;
  switch (limit.op) {
    case '>':
    case '>=':
      return noneIf(isNot, made('more than ago', limit.value));
    case '<':
    case '<=':
      return noneIf(isNot, made('within the last', limit.value));
    case '=':
      return { match: isNot ? 'none' : 'all', of: [made('more than ago', limit.value), made('within the last', limit.value + 1)] };
    case '!=':
    case 'between':
      return undefined;
  }
}
