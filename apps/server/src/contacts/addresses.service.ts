import { Injectable } from '@nestjs/common';
import { fold, isEmail, readFact, type Catalogue, type Change, type WrittenFact } from '@eager-sieve/core';
import { v7 as uuidV7 } from 'uuid';
import { type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { EditsService, type EditCause } from '../engine/edits.service';
import { conflict, faulty } from '../http/problem';
import { findContact, type FoundContact } from './find-contact';

const UNIQUE_VIOLATION = '23505';

/** Corrects the email addresses of contacts, by which they are known. */
@Injectable()
export class AddressesService {
  constructor(private readonly edits: EditsService) {}

  /**
   * Gives a contact another address. What comes under the old one goes on coming to them.
   *
   * @param named the id, the email address however capitalised, or `id:` and the outside id
   * @throws ProblemError 409 if somebody else has the address, 422 if it is none
   */
  async correct(named: string, written: string, cause: EditCause): Promise<void> {
    const email = written.trim();
    if (!isEmail(email)) throw faulty([{ path: ['email'], code: 'email.malformed', expected: 'an email address like name@place.example' }]);
    try {
      await this.edits.ask(cause, async ({ sql, catalogue, now }) => {
        const contact = await locked(sql, named);
        if (contact.email !== email) await readdress(sql, contact, email, now);
        return { subject: contact, changes: await changesFor(sql, contact, email, { catalogue, now }) };
      });
    } catch (error) {
      if ((error as { code?: unknown }).code === UNIQUE_VIOLATION) throw isTaken();
      throw error;
    }
  }
}

const isTaken = () => conflict('contact.address', 'Somebody else has this address. If they are the same person, merge the two instead.');

async function locked(sql: Sql, named: string): Promise<FoundContact> {
  const { id, uid } = await findContact(sql, named);
  await sql.query('select from contact where id = $1 for update', [id]);
  return findContact(sql, uid);
}

/** Writes the new address, and leaves the old one with a name that leads here: a contact that was never worked and is merged into this one. */
async function readdress(sql: Sql, { id, lane, email: before }: FoundContact, email: string, now: number): Promise<void> {
  const isOtherwiseWritten = before !== null && fold(before) === fold(email);
  const [holder] = await sql.query<{ id: number; isFormer: boolean }>(
    `select c.id, c.merged_into = $2 and c.last_now is null as "isFormer" from contact c where c.email_folded = $1 and c.id <> $2 for update`,
    [fold(email), id],
  );
  if (holder && !holder.isFormer) throw isTaken();
  // They go back to an address that they had.
  if (holder) await sql.query('delete from contact where id = $1', [holder.id]);
  await sql.query('update contact set email = $2, email_folded = $3 where id = $1', [id, email, fold(email)]);
  if (before === null || isOtherwiseWritten) return;
  await sql.query(
    `insert into contact (id, uid, lane, email, email_folded, merged_into, made_at) values (nextval('contact_id_seq'), $1, $2, $3, $4, $5, $6)`,
    [uuidV7({ msecs: now }), lane, before, fold(before), id, iso(now)],
  );
}

/** The fact of the address; and of one that could not be reached it is not known any more whether mail to them arrives. */
async function changesFor(
  sql: Sql,
  { id, email: before }: FoundContact,
  email: string,
  { catalogue, now }: { readonly catalogue: Catalogue; readonly now: number },
): Promise<readonly Change[]> {
  const field = catalogue.find('field', 'email');
  if (!field || before === email) return [];
  const read = readFact(field.body, email, catalogue.workspace);
  const value: WrittenFact = read.ok && read.value ? read.value : { fact: fold(email) };
  const [unreached] = await sql.query(
    `select from contact_consent where contact_id = $1 and channel = 'email' and state = 'undeliverable'`,
    [id],
  );
  return [
    { kind: 'field', field: field.id, value },
    ...(unreached ? [{ kind: 'consent', channel: 'email', state: 'unknown', at: now } as const] : []),
  ];
}
