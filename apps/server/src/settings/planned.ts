import { isDeepStrictEqual } from 'node:util';
import { type AnyDefinition, type DefinitionKind, type DocumentItem, type Fault } from '@eager-sieve/core';

/** One item of a document that is being saved: what it was, and what it is to be. */
export interface Planned {
  readonly kind: DefinitionKind;
  readonly item: DocumentItem;
  readonly before: AnyDefinition | undefined;
  readonly after: AnyDefinition;
}

/** An item of the document that is not taken, and why. */
export interface RefusedItem {
  readonly item: string;
  readonly faults: Fault[];
}

/** What many conditions can rest on without naming it: which types come from them, where a stage stands, what a deal's stage means. */
export const REACHES_ALL: readonly DefinitionKind[] = ['signalType', 'stage', 'pipeline', 'field', 'tag'];
/** The body of something that is on its way out. */
export const DELETED = Object.freeze({ deleted: true });
export const deletes = (definition: AnyDefinition): boolean => (definition.body as unknown) === DELETED;

/** How things are called, which means nothing to anybody's standing. */
const WORDS = new Set([
  'synonyms',
  'label',
  'participle',
  'one',
  'many',
  'purpose',
  'folder',
  'labels',
  'description',
  'team',
  'present',
  'heading',
  'place',
  'required',
  'unique',
  'keepDays',
]);
/** Whether two bodies mean the same to contacts, however what is in them is called. */
export const meansSame = (a: unknown, b: unknown): boolean => same(withoutWords(a), withoutWords(b));
const withoutWords = (body: unknown): unknown =>
  JSON.parse(JSON.stringify(body, (key, value: unknown) => (WORDS.has(key) ? undefined : value)));

/** Whether two bodies are the same as JSON. What comes from the database has its keys in another order. */
export const same = (a: unknown, b: unknown): boolean => isDeepStrictEqual(JSON.parse(JSON.stringify(a)), JSON.parse(JSON.stringify(b)));
