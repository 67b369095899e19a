import { fold, isEmail, laneOf, type Catalogue } from '@eager-sieve/core';
import { v7 as uuidV7 } from 'uuid';
import { type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { type MadeFacts } from '../engine/inbox';
import { originFacts, type Origin } from './origin';

/** Who is meant: by email address, by the id that another system knows them by, by phone, or by the id that they have here. */
export type Subject =
  | { readonly by: 'email'; readonly email: string; readonly outsideId?: string }
  | { readonly by: 'outsideId'; readonly outsideId: string; readonly email?: string }
  /** folded, as the phone field keeps it */
  | { readonly by: 'phone'; readonly phone: string; readonly email?: string }
  /** one that there is: nobody is made by it */
  | { readonly by: 'id'; readonly uid: string };

export interface ResolvedContact {
  readonly id: number;
  readonly lane: number;
  readonly uid: string;
  readonly isNew: boolean;
  /** whether it was given an address or an outside id just now */
  readonly isCompleted?: boolean;
}

interface MadeContact {
  readonly lane: number;
  readonly facts: MadeFacts;
}

export function subjectKey(subject: Subject): string {
  switch (subject.by) {
    case 'email':
      return `e ${fold(subject.email)}`;
    case 'outsideId':
      return `o ${subject.outsideId}`;
    case 'phone':
      return `p ${subject.phone}`;
    case 'id':
      return `i ${subject.uid}`;
  }
}

/** The subject of a CloudEvent: an email address, or `id:` and an outside id. */
export function readSubject(text: string): Subject | undefined {
  if (text.startsWith('id:')) {
    const outsideId = text.slice(3).trim();
    return outsideId ? { by: 'outsideId', outsideId } : undefined;
  }
  return isEmail(text) ? { by: 'email', email: text.trim() } : undefined;
}

/**
 * Finds the contacts behind these subjects and makes those that are new.
 *
 * @param originOf how somebody came who is new
 * @param completes whether those that are here already are given the address or the outside id that they are sent with for the first time.
 *   Who has another one, or one that somebody else has, is not found then: it cannot be told who is meant
 * @returns by `subjectKey`, and what the new ones are made with, or completed, which belongs into the first thing that is worked of each
 */
export async function resolveContacts(
  sql: Sql,
  catalogue: Catalogue,
  subjects: readonly Subject[],
  now: number,
  originOf: (subject: Subject) => Origin,
  completes = false,
): Promise<{ readonly contacts: ReadonlyMap<string, ResolvedContact>; readonly made: ReadonlyMap<number, MadeContact> }> {
  const wanted = new Map(subjects.map((subject) => [subjectKey(subject), subject]));
  const contacts = new Map<string, ResolvedContact>();
  await find(sql, wanted, contacts);
  await findByPhone(sql, catalogue, wanted, contacts);
  const fields = { email: catalogue.find('field', 'email')?.id, added: catalogue.find('field', 'added')?.id };
  const made = new Map<number, MadeContact>();
  const unclear = new Set<string>();
  if (completes) {
    const { given, conflicts } = await complete(sql, wanted, contacts);
    for (const { key, contact, email } of given) {
      contacts.set(key, { ...contact, isCompleted: true });
      if (fields.email !== undefined && email) made.set(contact.id, { lane: contact.lane, facts: { [fields.email]: email } });
    }
    for (const key of conflicts) unclear.add(key);
    for (const key of conflicts) contacts.delete(key);
  }
  // In one order everywhere, so that two batches with the same people wait for each other instead of deadlocking.
  const missing = [...wanted]
    .flatMap(([key, subject]) => (contacts.has(key) || unclear.has(key) || subject.by === 'id' ? [] : [[key, subject] as const]))
    .sort(([a], [b]) => (a < b ? -1 : 1));
  if (missing.length === 0) return { contacts, made };
  const ids = await sql.query<{ id: number }>(`select nextval('contact_id_seq') as id from generate_series(1, $1::int)`, [missing.length]);
  const fresh = missing.map(([, subject], index) => {
    const id = Number(ids[index]?.id);
    const email = subject.email ?? null;
    return {
      subject,
      id,
      uid: uuidV7({ msecs: now }),
      lane: laneOf(id),
      email,
      email_folded: email === null ? null : fold(email),
      outside_id: 'outsideId' in subject ? subject.outsideId : null,
    };
  });
  const inserted = await sql.query<{ id: number }>(
    `insert into contact (id, uid, lane, email, email_folded, outside_id, made_at)
     select id, uid, lane, email, email_folded, outside_id, $2
       from jsonb_to_recordset($1::jsonb) as r(id bigint, uid uuid, lane smallint, email text, email_folded text, outside_id text)
     on conflict do nothing returning id`,
    [JSON.stringify(fresh.map(({ subject: _subject, ...row }) => row)), iso(now)],
  );
  const madeIds = new Set(inserted.map((row) => row.id));
  for (const contact of fresh) {
    if (!madeIds.has(contact.id)) continue;
    const values: Record<number, unknown> = { ...originFacts(originOf(contact.subject), catalogue) };
    if (fields.email !== undefined && contact.email !== null) values[fields.email] = contact.email;
    if (fields.added !== undefined) values[fields.added] = iso(now);
    made.set(contact.id, { lane: contact.lane, facts: values });
  }
  await find(sql, new Map(missing), contacts, madeIds);
  const claims = missing.flatMap(([key, subject], index) => {
    const kept = fresh[index];
    if (subject.by !== 'phone' || !kept || !madeIds.has(kept.id)) return [];
    contacts.set(key, { id: kept.id, lane: kept.lane, uid: kept.uid, isNew: true });
    return [{ phone: subject.phone, contact_id: kept.id }];
  });
  if (claims.length > 0) await claim(sql, claims);
  return { contacts, made };
}

interface Completed {
  readonly key: string;
  readonly contact: ResolvedContact;
  readonly email: string | undefined;
  readonly outsideId: string | undefined;
}

/** The second identifier that was sent, beside the one to match by. */
function alsoKnownBy(subject: Subject): Subject | undefined {
  if (subject.by === 'email') return subject.outsideId === undefined ? undefined : { by: 'outsideId', outsideId: subject.outsideId };
  return subject.by === 'id' || subject.email === undefined ? undefined : { by: 'email', email: subject.email };
}

/** Gives known contacts the address or outside id they are sent with, if they have none and nobody else has it. */
async function complete(
  sql: Sql,
  wanted: ReadonlyMap<string, Subject>,
  contacts: ReadonlyMap<string, ResolvedContact>,
): Promise<{ readonly given: readonly Completed[]; readonly conflicts: readonly string[] }> {
  const sent = [...wanted].flatMap(([key, subject]) => {
    const contact = contacts.get(key);
    const also = alsoKnownBy(subject);
    return contact && also ? [{ key, contact, also }] : [];
  });
  if (sent.length === 0) return { given: [], conflicts: [] };
  const holders = new Map<string, ResolvedContact>();
  await find(sql, new Map(sent.map(({ also }) => [subjectKey(also), also])), holders);
  const open = sent.filter(({ contact, also }) => holders.get(subjectKey(also))?.id !== contact.id);
  const rows = await sql.query<{ id: number; email: string | null; outside_id: string | null }>(
    'select id, email, outside_id from contact where id = any($1::bigint[]) order by id for update',
    [open.map(({ contact }) => contact.id)],
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  const taken = new Set<string>();
  const given: Completed[] = [];
  const conflicts: string[] = [];
  for (const { key, contact, also } of open) {
    const row = byId.get(contact.id);
    const name = subjectKey(also);
    const has = also.by === 'email' ? row?.email : row?.outside_id;
    if (has || holders.has(name) || taken.has(name) || taken.has(`${contact.id} ${also.by}`)) {
      conflicts.push(key);
      continue;
    }
    taken.add(name).add(`${contact.id} ${also.by}`);
    const [email, outsideId] =
      also.by === 'email' ? [also.email, undefined] : [undefined, 'outsideId' in also ? also.outsideId : undefined];
    given.push({ key, contact, email, outsideId });
  }
  await sql.query(
    `update contact c set email = coalesce(c.email, r.email), email_folded = coalesce(c.email_folded, r.email_folded), outside_id = coalesce(c.outside_id, r.outside_id)
       from jsonb_to_recordset($1::jsonb) as r(id bigint, email text, email_folded text, outside_id text) where c.id = r.id`,
    [
      JSON.stringify(
        given.map(({ contact: { id }, email, outsideId }) => ({ id, email, email_folded: email && fold(email), outside_id: outsideId })),
      ),
    ],
  );
  return { given, conflicts };
}

async function find(
  sql: Sql,
  wanted: ReadonlyMap<string, Subject>,
  into: Map<string, ResolvedContact>,
  madeIds: ReadonlySet<number> = new Set(),
): Promise<void> {
  const emails = [...wanted.values()].flatMap((subject) => (subject.by === 'email' ? [fold(subject.email)] : []));
  const outsideIds = [...wanted.values()].flatMap((subject) => (subject.by === 'outsideId' ? [subject.outsideId] : []));
  const uids = [...wanted.values()].flatMap((subject) => (subject.by === 'id' ? [subject.uid] : []));
  const rows = await sql.query<{
    id: number;
    lane: number;
    uid: string;
    named: string;
    email_folded: string | null;
    outside_id: string | null;
  }>(
    `select coalesce(k.id, c.id) as id, coalesce(k.lane, c.lane) as lane, coalesce(k.uid, c.uid) as uid, c.uid as named, c.email_folded, c.outside_id
       from contact c left join contact k on k.id = c.merged_into
      where c.email_folded = any($1::text[]) or c.outside_id = any($2::text[]) or c.uid = any($3::uuid[])`,
    [emails, outsideIds, uids],
  );
  for (const row of rows) {
    const contact = { id: row.id, lane: row.lane, uid: row.uid, isNew: madeIds.has(row.id) };
    if (row.email_folded !== null && wanted.has(`e ${row.email_folded}`)) into.set(`e ${row.email_folded}`, contact);
    if (wanted.has(`i ${row.named}`)) into.set(`i ${row.named}`, contact);
    if (row.outside_id !== null && wanted.has(`o ${row.outside_id}`)) into.set(`o ${row.outside_id}`, contact);
  }
}

/** A contact whose first pass has not run, or which has waiting inbox rows from when it was made: its first facts may not be stored yet. */
const WAITING = `(c.last_now is null or exists (select from inbox i where i.lane = c.lane and i.contact_id = c.id and i.arrived_at <= c.made_at))`;

/** Records which contact claimed each of these phone numbers, and deletes claims that have become facts. */
async function claim(sql: Sql, claims: readonly { readonly phone: string; readonly contact_id: number }[]): Promise<void> {
  await sql.query(
    `delete from phone_claim where contact_id in
       (select p.contact_id from phone_claim p join contact c on c.id = p.contact_id where not ${WAITING} for update of p skip locked)`,
  );
  await sql.query(
    'insert into phone_claim (phone, contact_id) select phone, contact_id from jsonb_to_recordset($1::jsonb) as r(phone text, contact_id bigint)',
    [JSON.stringify(claims)],
  );
}

/**
 * Phone numbers are facts, not keys: two that come at once wait for each other, and the first contact with a number is the one that is
 * meant, also where its first pass has yet to make the number a fact.
 */
async function findByPhone(
  sql: Sql,
  catalogue: Catalogue,
  wanted: ReadonlyMap<string, Subject>,
  into: Map<string, ResolvedContact>,
): Promise<void> {
  const phones = [...wanted.values()].flatMap((subject) => (subject.by === 'phone' ? [subject.phone] : [])).sort();
  if (phones.length === 0) return;
  for (const phone of phones) await sql.query('select pg_advisory_xact_lock(hashtextextended($1, 0))', [phone]);
  const rows = await sql.query<{ id: number; lane: number; uid: string; phone: string }>(
    `select distinct on (phone) id, lane, uid, phone from (
       select c.id, c.lane, c.uid, f.folded as phone from contact_fact f join contact c on c.id = f.contact_id
        where f.field_id = $1 and left(f.folded, 100) = any($2::text[]) and f.folded = any($2::text[]) and c.merged_into is null
       union all
       select c.id, c.lane, c.uid, p.phone from phone_claim p join contact c on c.id = p.contact_id
        where p.phone = any($2::text[]) and c.merged_into is null and ${WAITING}
     ) known order by phone, id`,
    [catalogue.find('field', 'phone')?.id ?? -1, phones],
  );
  for (const row of rows) into.set(`p ${row.phone}`, { id: row.id, lane: row.lane, uid: row.uid, isNew: false });
}
