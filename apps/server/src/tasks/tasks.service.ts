import { Injectable } from '@nestjs/common';
import { readDay, startOfDay } from '@eager-sieve/core';
import { type ChangeTask, type NewTask, type TasksAnswer, type TasksQuery, type TaskView } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { Database, type Sql } from '../database/database';
import { askByHand } from '../engine/ask-by-hand';
import { iso } from '../engine/clock';
import { Follower } from '../engine/follower';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { faulty, notFound, ProblemError } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

interface TaskRow extends SubjectRow {
  id: number;
  title: string;
  due_at: Date;
  assignee: string | null;
  done_at: Date | null;
  done_by: string | null;
}

const COLUMNS = `t.id, t.title, t.due_at, t.assignee, t.done_at, t.done_by, ${SUBJECT_COLUMNS}`;
const TABLES = `task t ${subjectJoins('t.contact_id')}`;

/** Work for people about contacts and companies: made by rules or by hand, done by hand. */
@Injectable()
export class TasksService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
  ) {}

  /** @param who only theirs and those for anyone; everyone's where it is left out */
  async list({ state, limit, after, contact, company, for: who }: TasksQuery): Promise<TasksAnswer> {
    const about = async (): Promise<number | null> => {
      if (contact !== undefined) return (await this.contacts.find(this.database, contact)).id;
      return company === undefined ? null : (await this.companies.find(this.database, company)).id;
    };
    const of = await about();
    const open = state === 'open';
    const [at, id] = readCursor(after) ?? [];
    const where = `($1::text is null or t.assignee = $1 or t.assignee is null) and ($2::bigint is null or t.contact_id = $2) and (t.done_at is null) = $3`;
    const values = [who ?? null, of, open];
    const [counted] = await this.database.query<{ all: number; late: number }>(
      `select count(*)::int as all, (count(*) filter (where t.done_at is null and t.due_at <= $4))::int as late from task t where ${where}`,
      [...values, iso(this.clock.now())],
    );
    const [key, further, order] = open
      ? ['t.due_at', '(t.due_at, t.id) > ($4::timestamptz, $5::bigint)', 't.due_at, t.id']
      : ['t.done_at', '(t.done_at, t.id) < ($4::timestamptz, $5::bigint)', 't.done_at desc, t.id desc'];
    const rows = await this.database.query<TaskRow & { key: Date }>(
      `select ${COLUMNS}, ${key} as key from ${TABLES}
        where ${where} and ($4::timestamptz is null or ${further}) order by ${order} limit $6`,
      [...values, at ?? null, id ?? null, limit + 1],
    );
    const page = rows.slice(0, limit);
    const last = page.at(-1);
    return {
      tasks: page.map(viewOf),
      all: counted?.all ?? 0,
      late: counted?.late ?? 0,
      after: rows.length > limit && last ? cursorOf(last.key.toISOString(), last.id) : null,
    };
  }

  /** Makes a task by hand. It goes through a pass, as what rules make does, so the ledger tells who made it and it can be taken back. */
  async make(task: NewTask, cause: { readonly kind: 'person' | 'api'; readonly ref: string }): Promise<TaskView> {
    const contact = await this.contacts.find(this.database, task.contact);
    const before = await this.#newest(this.database, contact.id);
    const { database, follower, clock } = this;
    await askByHand({ database, follower, now: clock.now() }, cause, async (sql) => {
      const due = await this.#endOf(sql, task.due);
      return {
        subject: contact,
        changes: [{ kind: 'task', title: task.title, due, ...(task.for === undefined ? {} : { for: task.for }) }],
      };
    });
    const [made] = await this.database.query<{ id: number }>(
      'select min(id) as id from task where contact_id = $1 and id > $2 and title = $3',
      [contact.id, before, task.title],
    );
    if (!made?.id)
      throw new ProblemError(503, 'task.waiting', 'The task is taken, and will be made as soon as what waits before it is worked.');
    return this.#view(this.database, made.id);
  }

  /** Changes what is to be done, by when and by whom, or says that it is done, or is not. */
  async change(id: number, asked: ChangeTask, by: string): Promise<TaskView> {
    return this.database.transaction(async (sql) => {
      const [found] = await sql.query<{ done_at: Date | null }>('select done_at from task where id = $1 for update', [id]);
      if (!found) throw notFound('task');
      const due = asked.due === undefined ? null : iso(await this.#endOf(sql, asked.due));
      await sql.query(
        `update task set title = coalesce($2, title), due_at = coalesce($3, due_at), assignee = case when $4 then $5 else assignee end where id = $1`,
        [id, asked.title ?? null, due, asked.for !== undefined, asked.for ?? null],
      );
      // Who did it stays, however often it is said again.
      if (asked.done !== undefined && asked.done !== (found.done_at !== null))
        await sql.query('update task set done_at = $2, done_by = $3 where id = $1', [
          id,
          asked.done ? iso(this.clock.now()) : null,
          asked.done ? by : null,
        ]);
      return this.#view(sql, id);
    });
  }

  async #newest(sql: Sql, contact: number): Promise<number> {
    const [row] = await sql.query<{ id: number }>('select coalesce(max(id), 0) as id from task where contact_id = $1', [contact]);
    return row?.id ?? 0;
  }

  async #view(sql: Sql, id: number): Promise<TaskView> {
    const [row] = await sql.query<TaskRow>(`select ${COLUMNS} from ${TABLES} where t.id = $1`, [id]);
    if (!row) throw notFound('task');
    return viewOf(row);
  }

  /** The last millisecond of a day of the workspace. */
  async #endOf(sql: Sql, written: string): Promise<number> {
    const { zone } = (await this.store.current(sql)).compiled.catalogue;
    const day = readDay(written);
    if (day === undefined) throw faulty([{ path: ['due'], code: 'date.malformed', expected: 'a day like 2026-11-25' }]);
    return startOfDay(day + 1, zone) - 1;
  }
}

const viewOf = (row: TaskRow): TaskView => ({
  id: row.id,
  title: row.title,
  due: row.due_at.toISOString(),
  for: row.assignee,
  done: row.done_at?.toISOString() ?? null,
  doneBy: row.done_by,
  ...subjectView(row),
});
