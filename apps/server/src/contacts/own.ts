import { type Item } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { notFound, ProblemError } from '../http/problem';
import { findContact } from './find-contact';

/** What somebody sees who does not see everything. */
export interface Sight {
  /** the sign-in addresses of those whose contacts they see */
  readonly owners: readonly string[];
  /** to which they belong; audiences that are kept to others are not there for them */
  readonly team: string | null;
}
/** Undefined where they see everything. */
export type Own = Sight | undefined;
export const EVERYONES: Own = undefined;

/** Whether whoever has this owner is theirs. */
export const isOwn = (owner: string | null | undefined, own: Own): boolean =>
  own === undefined || (owner != null && own.owners.includes(owner));

/** @throws ProblemError 404, as if there were no such contact, if it is somebody else’s */
export async function mustBeOwn(sql: Sql, named: string, own: Own): Promise<void> {
  if (own !== undefined && !isOwn((await findContact(sql, named)).owner, own)) throw notFound('contact');
}

/** The part of a query that leaves those who are theirs. @param owner the column of the owner; @param parameter the place of their owners among the values, of which null leaves everyone */
export const ownSql = (owner: string, parameter: number): string =>
  `($${parameter}::text[] is null or ${owner} = any($${parameter}::text[]))`;

/** The part of a query that leaves what is about contacts of theirs. @param subject the column of the contact; @param parameter the place of their owners among the values */
export const ownSubjectSql = (subject: string, parameter: number): string =>
  `($${parameter}::text[] is null or exists (select from contact w where w.id = ${subject} and w.owner = any($${parameter}::text[])))`;

/** Items as they were sent; those of contacts that are not theirs are refused, as if there were no such contact. @param named by what each names contacts: all have to be theirs, and one at least */
export async function onlyOwn<Value>(
  sql: Sql,
  items: readonly Item<Value>[],
  named: (item: Item<Value>) => readonly string[] | Promise<readonly string[]>,
  own: Own,
): Promise<Item<Value>[]> {
  if (own === undefined) return [...items];
  const found = async (name: string): Promise<boolean> => {
    try {
      return isOwn((await findContact(sql, name)).owner, own);
    } catch (error) {
      if (error instanceof ProblemError) return false;
      throw error;
    }
  };
  const read: Item<Value>[] = [];
  for (const item of items) {
    const names = item.faults ? [] : await named(item);
    const are = await Promise.all(names.map(found));
    const good = item.faults !== undefined || (are.length > 0 && are.every(Boolean));
    read.push(good ? item : { faults: [{ path: [], code: 'contact.not-own', expected: 'a contact that you look after' }] });
  }
  return read;
}
