import { Injectable } from '@nestjs/common';
import { addToDay, localDay, startOfDay, writeDay } from '@eager-sieve/core';
import { type StaffMail } from '@eager-sieve/contracts';
import { emlOf } from '../campaigns/mail';
import { PublicAddress } from '../campaigns/public-address';
import { Database, type Transaction } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { DefinitionStore } from '../settings/definition-store';
import { ownOfPerson } from '../settings/own-of-person';
import { dayMailOf } from './day-mail';
import { OWN_TASK } from './tasks.service';
import { UNSEEN } from './notices.service';

/** From then on in the morning, in the workspace. */
const FROM_HOUR = 7;
const HOUR_MS = 3_600_000;
const SHOWN = 100;

interface Recipient {
  readonly id: number;
  readonly email: string;
  readonly name: string;
  readonly role: 'admin' | 'editor' | 'seller' | 'viewer';
  readonly team: string | null;
  readonly sees_team: boolean;
}

/** The mail of the morning to those who work here: what is due, and what rules told them. It goes into the post room, as all mail does. */
@Injectable()
export class DayMailsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly address: PublicAddress,
  ) {}

  /** Writes to everyone who has not been written to today, once it is morning. Of two processes one does. */
  async due(): Promise<void> {
    const now = this.clock.now();
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const today = localDay(now, catalogue.zone);
    if (now < startOfDay(today, catalogue.zone) + FROM_HOUR * HOUR_MS) return;
    for (let more = true; more;)
      more = await this.database.transaction(async (sql) => {
        const [person] = await sql.query<Recipient>(
          `update person set mailed_on = $1 where id = (
             select id from person where daily_mail and disabled_at is null and password_hash is not null and (mailed_on is null or mailed_on < $1)
              order by id limit 1 for update skip locked)
           returning id, email, name, role, team, sees_team`,
          [writeDay(today)],
        );
        if (person) await this.#write(sql, person, { zone: catalogue.zone, from: catalogue.workspace.name, today, now });
        return person !== undefined;
      });
  }

  /** The latest that went out. */
  async list(): Promise<StaffMail[]> {
    const rows = await this.database.query<Omit<StaffMail, 'at'> & { at: Date }>(
      `select id, to_address as to, subject, text, at from staff_mail order by id desc limit ${SHOWN}`,
    );
    return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
  }

  async #write(
    sql: Transaction,
    person: Recipient,
    { zone, from, today, now }: { readonly zone: string; readonly from: string; readonly today: number; readonly now: number },
  ): Promise<void> {
    const own = await ownOfPerson(sql, { ...person, seesTeam: person.sees_team });
    const tasks = await sql.query<SubjectRow & { contact_id: number; title: string; due_at: Date }>(
      `select t.contact_id, t.title, t.due_at, ${SUBJECT_COLUMNS} from task t ${subjectJoins('t.contact_id')}
        where t.assignee = $1 and t.done_at is null and t.due_at < $2 and ${OWN_TASK(3)} order by t.due_at, t.id`,
      [person.email, iso(startOfDay(addToDay(today, 1, 'days'), zone)), own?.owners ?? null],
    );
    const notices = await sql.query<SubjectRow & { contact_id: number; text: string }>(
      `select n.contact_id, n.text, ${SUBJECT_COLUMNS} from notice n ${subjectJoins('n.contact_id')}
        where n.recipient = $1 and ${UNSEEN(2)} order by n.id`,
      [person.email, own?.owners ?? null],
    );
    const named = (row: SubjectRow): string | null => {
      const { contactName, companyName } = subjectView(row);
      return contactName ?? companyName;
    };
    const mail = dayMailOf(
      {
        name: person.name,
        tasks: tasks.map((row) => ({ title: row.title, due: row.due_at, about: named(row) })),
        notices: notices.map((row) => ({ text: row.text, about: named(row) })),
      },
      { zone, now, address: this.address.url },
    );
    if (!mail) return;
    const eml = await emlOf({ to: person.email, ...mail, from, messageId: `day-${person.id}-${today}@post-room.example` });
    await sql.query('insert into staff_mail (to_address, subject, text, eml, at, contact_ids) values ($1, $2, $3, $4, $5, $6)', [
      person.email,
      mail.subject,
      mail.text,
      eml,
      iso(now),
      [...new Set([...tasks, ...notices].map((row) => row.contact_id))],
    ]);
  }
}
