import { Injectable } from '@nestjs/common';
import { LATEST_INSTANT, readDay, startOfDay } from '@eager-sieve/core';
import { type ChangeTask, type NewTask, type TasksAnswer, type TasksQuery, type TaskView } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { mustBeOwn, type Own } from '../contacts/own';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { MoreThan } from 'typeorm';
import { Database, type Sql } from '../database/database';
import { Task } from '../database/entities';
import { EditsService, type EditCause } from '../engine/edits.service';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { faulty, notFound, ProblemError } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { calendarOf } from './calendar';

interface TaskRow extends SubjectRow {
  id: number;
  title: string;
  due_at: Date;
  assignee: string | null;
  done_at: Date | null;
  done_by: string | null;
}

const MOST_IN_CALENDAR = 5_000;
const COLUMNS = `t.id, t.title, t.due_at, t.assignee, t.done_at, t.done_by, ${SUBJECT_COLUMNS}`;
/** Of tasks `t`: given to somebody of `own`, or about a contact of theirs. @param own its place among the values */
export const OWN_TASK = (own: number): string =>
  `($${own}::text[] is null or t.assignee = any($${own}::text[])
    or exists (select from contact w where w.id = t.contact_id and w.owner = any($${own}::text[])))`;
const TABLES = `task t ${subjectJoins('t.contact_id')}`;

/** Tasks about contacts and companies: made by rules or by hand, done by people. */
@Injectable()
export class TasksService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
  ) {}

  /**
   * @param for only theirs and those for anyone; everyone's where it is left out
   * @param own only what is given to these, or is about contacts of theirs
   */
  async list({ state, limit, after, contact, company, for: who }: TasksQuery, own: Own): Promise<TasksAnswer> {
    const about = async (): Promise<number | null> => {
      if (contact !== undefined) await mustBeOwn(this.database, contact, own);
      if (contact !== undefined) return (await this.contacts.find(this.database, contact)).id;
      return company === undefined ? null : (await this.companies.find(this.database, company)).id;
    };
    const of = await about();
    const open = state === 'open';
    const [at, id] = readCursor(after, ['time', 'id']) ?? [];
    const where = `($1::text is null or t.assignee = $1 or t.assignee is null) and ($2::bigint is null or t.contact_id = $2) and (t.done_at is null) = $3
      and ${OWN_TASK(4)}`;
    const values = [who ?? null, of, open, own?.owners ?? null];
    const [counted] = await this.database.query<{ all: number; late: number }>(
      `select count(*)::int as all, (count(*) filter (where t.done_at is null and t.due_at <= $5))::int as late from task t where ${where}`,
      [...values, iso(this.clock.now())],
    );
    const [key, further, order] = open
      ? ['t.due_at', '(t.due_at, t.id) > ($5::timestamptz, $6::bigint)', 't.due_at, t.id']
      : ['t.done_at', '(t.done_at, t.id) < ($5::timestamptz, $6::bigint)', 't.done_at desc, t.id desc'];
    const rows = await this.database.query<TaskRow & { key: Date }>(
      `select ${COLUMNS}, ${key} as key from ${TABLES}
        where ${where} and ($5::timestamptz is null or ${further}) order by ${order} limit $7`,
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

  /** Open tasks as a calendar, those due first. */
  async calendar(who: string | undefined, own: Own, address: string): Promise<string> {
    const { zone } = (await this.store.current(this.database)).compiled.catalogue;
    const tasks: TaskView[] = [];
    for (let after: string | undefined; tasks.length < MOST_IN_CALENDAR;) {
      const page = await this.list({ state: 'open', limit: 500, after, for: who }, own);
      tasks.push(...page.tasks);
      if (page.after === null) break;
      after = page.after;
    }
    return calendarOf(tasks, { zone, now: this.clock.now(), address });
  }

  /** Makes a task by hand. It goes through a pass, as what rules make does, so the ledger tells who made it and it can be taken back. */
  async make(task: NewTask, cause: EditCause, own: Own): Promise<TaskView> {
    await mustBeOwn(this.database, task.contact, own);
    const contact = await this.contacts.find(this.database, task.contact);
    const before = await this.#newest(this.database, contact.id);
    await this.edits.ask(cause, async ({ sql }) => {
      const due = await this.#endOf(sql, task.due);
      return {
        subject: contact,
        changes: [{ kind: 'task', title: task.title, due, ...(task.for === undefined ? {} : { for: task.for }) }],
      };
    });
    const made = await this.database.read(Task).findOne({
      where: { contactId: contact.id, id: MoreThan(before), title: task.title },
      order: { id: 'asc' },
    });
    if (!made)
      throw new ProblemError(503, 'task.waiting', 'The task is taken, and will be made as soon as what waits before it is worked.');
    return this.#view(this.database, made.id);
  }

  /** Changes what is to be done, by when and by whom, or says that it is done, or is not. */
  async change(id: number, asked: ChangeTask, by: string, own: Own): Promise<TaskView> {
    return this.database.transaction(async (sql) => {
      const tasks = sql.table(Task);
      const task = await tasks.findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
      const [theirs] = await sql.query(`select from task t where t.id = $1 and ${OWN_TASK(2)}`, [id, own?.owners ?? null]);
      if (!task || !theirs) throw notFound('task');
      if (asked.title !== undefined) task.title = asked.title;
      if (asked.due !== undefined) task.dueAt = new Date(await this.#endOf(sql, asked.due));
      if (asked.for !== undefined) task.assignee = asked.for;
      // Who did it stays, however often it is said again.
      if (asked.done !== undefined && asked.done !== (task.doneAt !== null)) {
        task.doneAt = asked.done ? new Date(this.clock.now()) : null;
        task.doneBy = asked.done ? by : null;
      }
      await tasks.save(task);
      return this.#view(sql, id);
    });
  }

  async #newest(sql: Sql, contact: number): Promise<number> {
    return (await sql.read(Task).maximum('id', { contactId: contact })) ?? 0;
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
    return Math.min(LATEST_INSTANT, startOfDay(day + 1, zone) - 1);
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
