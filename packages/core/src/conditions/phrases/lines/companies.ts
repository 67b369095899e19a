import { type Condition, type Leaf } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { prepositionsBefore } from '../names.ts';
import { type Segment } from '../segment.ts';
import { noneIf, type Phrase } from './phrase.ts';

/** The company that somebody works for, by its name, or that they work for none: `works at Harbour Inn`, `without a company` */
export function companyLine({ catalogue }: Phrase, segment: Segment, head: Chunk): Condition | undefined {
  const field = catalogue.find('field', 'company-name');
  if (!field) return undefined;
  segment.head(head);
  // `linked to a company`
  segment.takeCues('company');
  // `companies without deals`: it is the deals that are not there.
  if (segment.chunks.some(({ cue }) => cue === 'deal')) segment.refuse();
  const made = (op: string, value?: string): Leaf =>
    ({ kind: 'field', of: 'company', field: field.id, op, ...(value === undefined ? {} : { value }) }) as Leaf;
  const isEmpty = segment.takeCue('empty');
  const isNot = segment.takeNot();
  if (isEmpty) return made(isNot ? 'is filled' : 'is empty');
  const free = segment.unused();
  // `angry guests work at a school`: who stands before that is no company. `Harbour Inn company`
  const behind = segment.chunks.slice(segment.chunks.indexOf(head));
  const mayBeBefore = /^(company|firm|business)$/i.test(head.text) && segment.chunks.some(({ text }) => /^\p{Lu}/u.test(text));
  const [name, ...others] = segment.takeTexts(mayBeBefore ? segment.chunks : behind);
  // `good fit companies`: which ones are meant, and none by its name.
  if (name !== undefined && /^(companies|firms|businesses)$/i.test(head.text)) segment.refuse();
  // `company in the hospitality sector`: its sector is no part of its name.
  if (free.some((chunk) => segment.isUsed(chunk) && chunk.meanings.some(({ kind }) => kind === 'field'))) segment.refuse();
  const [named] = free.filter((chunk) => segment.isUsed(chunk));
  // `without a company for now`
  if (named && prepositionsBefore(segment.chunks, named).length > 0) segment.refuse();
  if (name !== undefined) return others.length > 0 ? undefined : noneIf(isNot, made('is', name));
  // `from a` begins the name of a company, and says nothing by itself.
  return /^from an?$/i.test(head.text) ? undefined : made(isNot ? 'is empty' : 'is filled');
}
