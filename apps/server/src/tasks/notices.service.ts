import { Injectable } from '@nestjs/common';
import { type NoticesAnswer } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { IsNull, LessThanOrEqual } from 'typeorm';
import { Database } from '../database/database';
import { Notice } from '../database/entities';
import { ServerClock } from '../engine/server-clock';

const SHOWN = 50;
/** Unread notices for a person: those sent to them, and those for anyone because the contact has no owner. */
const FOR = '(n.recipient = $1 or n.recipient is null) and n.read_at is null';

/** Notices that rules send to people who sign in here. */
@Injectable()
export class NoticesService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  async list(person: string): Promise<NoticesAnswer> {
    const rows = await this.database.query<
      SubjectRow & { id: number; text: string; recipient: string | null; made_at: Date; every: number }
    >(
      `select n.id, n.text, n.recipient, n.made_at, ${SUBJECT_COLUMNS}, count(*) over ()::int as every
         from notice n ${subjectJoins('n.contact_id')} where ${FOR} order by n.id desc limit ${SHOWN}`,
      [person],
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
  async seen(person: string, id: number, andEarlier: boolean): Promise<void> {
    const which = { id: andEarlier ? LessThanOrEqual(id) : id, readAt: IsNull() };
    const readAt = new Date(this.clock.now());
    await this.database.transaction(async (sql) => {
      for (const recipient of [person, IsNull()]) await sql.table(Notice).update({ ...which, recipient }, { readAt });
    });
  }
}
