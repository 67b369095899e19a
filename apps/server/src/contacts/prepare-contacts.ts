import { type TagReason } from '@eager-sieve/core';
import { type ContactWrite, type PutContacts } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { rejected, type EditCause, type EditContext, type EditResult, type PreparedEdits } from '../engine/edits.service';
import { withMade, type InboxEntry } from '../engine/inbox';
import { originOfEdit } from './origin';
import { readWrite, type Known, type ReadWrite } from './read-write';
import { resolveContacts, subjectKey } from './resolve';
import { unshared } from './unique-values';

/**
 * Reads what is sent of contacts, finds those that are here and makes those that are new.
 *
 * @param addTags tags that all of them get, by key
 * @param reason why they have the tags that they get
 */
export async function prepareContacts(
  { sql, catalogue, now }: EditContext,
  request: PutContacts,
  cause: EditCause,
  addTags: readonly string[] = [],
  reason: TagReason = { kind: cause.kind === 'person' ? 'hand' : cause.kind, ref: cause.ref },
): Promise<PreparedEdits> {
  const known = await knownTo(
    sql,
    request.contacts.flatMap(({ value }) => value ?? []),
  );
  const read = request.contacts.map((item, index): ReadWrite | Refused =>
    item.faults ? { index, faults: item.faults } : readWrite(item.value, index, request.matchBy, catalogue, known, addTags),
  );
  const origin = await originOfEdit(sql, cause);
  const { prepared, entries } = await unshared(sql, catalogue, 'contact', async (faultsOf) => {
    const fit = read.filter((each): each is ReadWrite => each.faults.length === 0 && !faultsOf.has(each.index));
    const subjects = fit.map((each) => each.subject);
    const { contacts, made } = await resolveContacts(sql, catalogue, subjects, now, () => origin, request.onExisting === 'update');
    const seen = new Set<number>();
    const items: number[] = [];
    const edits: InboxEntry[] = [];
    const results = read.map((each): EditResult => {
      const faults = faultsOf.get(each.index) ?? each.faults;
      if (!('subject' in each) || faults.length > 0) return rejected(each.index, faults);
      const contact = contacts.get(subjectKey(each.subject));
      if (!contact) return rejected(each.index, [unresolved(each)]);
      const { id, uid, lane, isCompleted } = contact;
      const isNew = contact.isNew && !seen.has(id);
      seen.add(id);
      const about = { index: each.index, uid, subject: id };
      if (!isNew && request.onExisting === 'skip') return { ...about, status: 'skipped' };
      items.push(each.index);
      edits.push({ kind: 'edit', contactId: id, lane, payload: { ...each.edit, cause, reason } });
      return { ...about, status: isNew ? 'created' : 'updated', ...(isCompleted ? { isCompleted } : {}) };
    });
    return { prepared: { results, made }, entries: edits, items };
  });
  return { entries: withMade(entries, prepared.made, cause), results: prepared.results };
}

const unresolved = ({ subject }: ReadWrite) =>
  subject.by === 'id'
    ? { path: ['id'], code: 'contact.unknown', expected: 'the id of a contact that there is' }
    : {
        path: ['email'],
        code: 'contact.conflict',
        expected: 'an email address and an outside id of one and the same contact, or such as nobody has yet',
      };

/** An item that is not of the shape of a contact. */
type Refused = Pick<ReadWrite, 'index' | 'faults'>;

/** The companies and owners named by a request that exist. */
export async function knownTo(sql: Sql, writes: readonly Pick<ContactWrite, 'company' | 'owner'>[]): Promise<Known> {
  const companies = writes.flatMap(({ company }) => company ?? []);
  const owners = writes.flatMap(({ owner }) => owner?.trim().toLowerCase() ?? []);
  const found = companies.length === 0 ? [] : await companiesByOutsideId(sql, companies);
  const people =
    owners.length === 0
      ? []
      : await sql.query<{ email: string }>('select lower(email) as email from person where lower(email) = any($1::text[])', [owners]);
  return { companies: new Map(found.map((row) => [row.outside_id, row.id])), owners: new Set(people.map((row) => row.email)) };
}

export const companiesByOutsideId = (
  sql: Sql,
  outsideIds: readonly string[],
): Promise<{ id: number; lane: number; uid: string; outside_id: string }[]> =>
  sql.query('select id, lane, uid, outside_id from company where outside_id = any($1::text[])', [outsideIds]);
