import { Injectable } from '@nestjs/common';
import { type NoticesAnswer } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { type Own } from '../contacts/own';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';

const SHOWN = 50;
/** Of notices `n`: not read yet and, where it was told to anyone, about a contact of theirs. @param own its place among the values */
export const UNSEEN = (own: number): string =>
  `n.read_at is null and (n.recipient is not null or $${own}::text[] is null
    or exists (select from contact w where w.id = n.contact_id and w.owner = any($${own}::text[])))`;
/** Those sent to a person, and those for anyone because the contact has no owner. */
const FOR = `(n.recipient = $1 or n.recipient is null) and ${UNSEEN(2)}`;

/** Notices that rules send to people who sign in here. */
@Injectable()
export class NoticesService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  async list(person: string, own: Own): Promise<NoticesAnswer> {
    const rows = await this.database.query<
      SubjectRow & { id: number; text: string; recipient: string | null; made_at: Date; every: number }
    >(
      `select n.id, n.text, n.recipient, n.made_at, ${SUBJECT_COLUMNS}, count(*) over ()::int as every
         from notice n ${subjectJoins('n.contact_id')} where ${FOR} order by n.id desc limit ${SHOWN}`,
      [person, own?.owners ?? null],
    );
    return {
      notices: rows.map((row) => ({
        id: row.id,
        text: row.text,
        at: row.made_at.toISOString(),
        ...subjectView(row),
        forAnyone: row.recipient === null,
      })),
      all: rows[0]?.every ?? 0,
    };
  }

  /** @param andEarlier with it all that came before it */
  async seen(person: string, id: number, andEarlier: boolean, own: Own): Promise<void> {
    await this.database.query(`update notice n set read_at = $3 where ${FOR} and n.id ${andEarlier ? '<=' : '='} $4`, [
      person,
      own?.owners ?? null,
      iso(this.clock.now()),
      id,
    ]);
  }
}
