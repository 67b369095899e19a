import { Injectable } from '@nestjs/common';
import { Moment, orThrow, prepareColumns, within, type Catalogue, type Column } from '@eager-sieve/core';
import { MAX_WORKLIST, type Cell, type MarkEntry, type NewWorklist, type WorklistEntry, type WorklistView } from '@eager-sieve/contracts';
import { cellsOf } from '../audiences/table-columns';
import { ConditionsService } from '../audiences/conditions.service';
import { ownSql, type Own } from '../contacts/own';
import { Database, type Sql } from '../database/database';
import { Worklist } from '../database/entities';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound, ProblemError } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

/** Whoever has one before them and says nothing for so long has left it to others. */
const TAKEN_MS = 15 * 60_000;
const AT_ONCE = 500;

interface EntryRow {
  readonly place: number;
  readonly uid: string;
  readonly name: string;
  readonly email: string | null;
  readonly state: WorklistEntry['state'];
  readonly by_ref: string | null;
  readonly at: Date | null;
  readonly note: string | null;
  readonly taken_by: string | null;
  readonly taken_at: Date | null;
  readonly was: Cell[];
}
const OF_LIST = `worklist_entry e join contact c on c.id = e.contact_id where e.worklist_id = $1 and ${ownSql('c.owner', 2)}`;
const ENTRY = `e.place, c.uid, c.name, c.email, e.state, e.by_ref, e.at, e.note, e.taken_by, e.taken_at, e.was`;

/** Who works a list down. */
export interface Worker {
  readonly by: string;
  /** whose contacts they see: the rest of a list is not there for them */
  readonly own: Own;
}

/** Tables that were frozen in their order and are worked down, alone or by several in turns. */
@Injectable()
export class WorklistsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly conditions: ConditionsService,
  ) {}

  /** The definitions as they stand. */
  async catalogue(): Promise<Catalogue> {
    return (await this.store.current(this.database)).compiled.catalogue;
  }

  async list({ by, own }: Worker): Promise<WorklistView[]> {
    const lists = await this.database.read(Worklist).find({ where: [{ byRef: by }, { forAll: true }], order: { id: 'desc' } });
    const views = await Promise.all(lists.map((list) => this.#view(this.database, list, own)));
    return own ? views.filter((view) => view.total > 0 || view.by === by) : views;
  }

  /** Reads the table first, page by page, and then writes all of it down at once. */
  async make({ name, table, contacts, forAll }: NewWorklist, { by, own }: Worker): Promise<WorklistView> {
    const { catalogue, whyBroken } = (await this.store.seen(this.database, own)).compiled;
    orThrow(within(['table', 'columns'], prepareColumns(table.columns ?? [], catalogue, whyBroken)));
    const frozen = contacts ? await this.#picked(contacts, table.columns ?? [], own) : await this.#whole(table, own);
    return this.database.transaction(async (sql) => {
      const list = await sql.table(Worklist).save({
        ...{ name, forAll, byRef: by, columns: table.columns ?? [] },
        madeAt: new Date(this.clock.now()),
      });
      await sql.query(
        `insert into worklist_entry (worklist_id, place, contact_id, state, was)
         select $1, r.place, c.id, 'waiting', r.was from jsonb_to_recordset($2::jsonb) as r(place int, uid uuid, was jsonb) join contact c on c.uid = r.uid
         on conflict do nothing`,
        [list.id, JSON.stringify(frozen.map(({ id, cells }, place) => ({ place, uid: id, was: cells })))],
      );
      return this.#view(sql, list, own);
    });
  }

  async #picked(picked: readonly string[], columns: readonly Column[], own: Own): Promise<readonly Frozen[]> {
    const uids = own ? await this.#ownAmong(picked, own.owners) : picked;
    const { cells } = await this.#cells(this.database, uids, columns, own);
    return uids.map((id) => ({ id, cells: cells.get(id) ?? [] }));
  }

  async #ownAmong(uids: readonly string[], owners: readonly string[]): Promise<readonly string[]> {
    const rows = await this.database.query<{ uid: string }>(
      'select c.uid from contact c where c.uid = any($1::uuid[]) and c.owner = any($2::text[])',
      [uids, owners],
    );
    const theirs = new Set(rows.map(({ uid }) => uid));
    return uids.filter((uid) => theirs.has(uid.toLowerCase()));
  }

  async #whole(table: NewWorklist['table'], own: Own): Promise<readonly Frozen[]> {
    const frozen: Frozen[] = [];
    for (let after: string | undefined; frozen.length < MAX_WORKLIST;) {
      const page = await this.conditions.people({
        ...table,
        own,
        of: 'contact',
        limit: AT_ONCE,
        ...(after === undefined ? {} : { after }),
      });
      frozen.push(...page.contacts.map(({ id, cells = [] }) => ({ id, cells })));
      if (page.after === null) break;
      after = page.after;
    }
    return frozen;
  }

  async entries(
    id: number,
    { state, limit, after }: { readonly state?: string | undefined; readonly limit: number; readonly after?: string | undefined },
    { by, own }: Worker,
  ) {
    const list = await this.#find(this.database, id, by);
    const place = readCursor(after, ['id'])?.[0] ?? -1;
    const rows = await this.database.query<EntryRow>(
      `select ${ENTRY} from ${OF_LIST} and e.place > $3 and ($4::text is null or e.state = $4) order by e.place limit $5`,
      [id, own?.owners ?? null, place, state ?? null, limit + 1],
    );
    const page = rows.slice(0, limit);
    const last = page.at(-1);
    return {
      worklist: await this.#view(this.database, list, own),
      entries: await this.#entryViews(this.database, list, page, own),
      after: rows.length > limit && last ? cursorOf(last.place) : null,
    };
  }

  /** On which lists a contact is, anybody's, and what was said of them there. */
  async wordsAbout(contact: number): Promise<readonly WordsAbout[]> {
    const rows = await this.database.query<Omit<WordsAbout, 'at'> & { at: Date | null }>(
      `select w.name, e.state, e.by_ref as by, e.at, e.note from worklist_entry e join worklist w on w.id = e.worklist_id where e.contact_id = $1 order by w.id`,
      [contact],
    );
    return rows.map(({ at, ...row }) => ({ ...row, at: at?.toISOString() ?? null }));
  }

  async entry(id: number, place: number, { by, own }: Worker) {
    return this.#one(this.database, await this.#find(this.database, id, by), place, own);
  }

  /** Takes whoever comes next, so that nobody else who shares the list is given them meanwhile. */
  async next(id: number, after: number | undefined, { by, own }: Worker) {
    return this.database.transaction(async (sql) => {
      const list = await this.#find(sql, id, by);
      const now = this.clock.now();
      const [found] = await sql.query<{ place: number }>(
        `update worklist_entry e set taken_by = $2, taken_at = $3
          where e.worklist_id = $1 and e.place = (
            select n.place from worklist_entry n
             where n.worklist_id = $1 and n.state <> 'done' and (n.taken_by is null or n.taken_by = $2 or n.taken_at < $4) and n.place is distinct from $5
               and ($6::text[] is null or exists (select from contact c where c.id = n.contact_id and c.owner = any($6::text[])))
             order by n.state = 'later', n.place <= coalesce($5, -1), n.place limit 1 for update skip locked)
         returning e.place`,
        [id, by, iso(now), iso(now - TAKEN_MS), after ?? null, own?.owners ?? null],
      );
      // One lets go of what one had.
      await sql.query(
        'update worklist_entry set taken_by = null, taken_at = null where worklist_id = $1 and taken_by = $2 and place <> $3',
        [id, by, found?.place ?? -1],
      );
      if (!found) return { worklist: await this.#view(sql, list, own), entry: null };
      return this.#one(sql, list, found.place, own);
    });
  }

  async mark(id: number, place: number, { state, note }: MarkEntry, { by, own }: Worker) {
    return this.database.transaction(async (sql) => {
      const list = await this.#find(sql, id, by);
      await this.#one(sql, list, place, own);
      const rows = await sql.query(
        `update worklist_entry set state = $3, by_ref = $4, at = $5, note = case when $6 then $7 else note end, taken_by = null, taken_at = null
          where worklist_id = $1 and place = $2 returning place`,
        [id, place, state, by, iso(this.clock.now()), note !== undefined, note ?? null],
      );
      if (rows.length === 0) throw notFound('entry');
      return this.#one(sql, list, place, own);
    });
  }

  /** @param any also one of somebody else */
  async remove(id: number, by: string, any: boolean): Promise<void> {
    await this.database.transaction(async (sql) => {
      const list = await this.#find(sql, id, by);
      if (list.byRef !== by && !any)
        throw new ProblemError(403, 'worklist.others', 'Only whoever froze this list, or an admin, can throw it away.');
      await sql.query('delete from worklist_entry where worklist_id = $1', [id]);
      await sql.table(Worklist).delete({ id });
    });
  }

  async #find(sql: Sql, id: number, by: string): Promise<Worklist> {
    const list = await sql.read(Worklist).findOneBy({ id });
    if (!list || (list.byRef !== by && !list.forAll)) throw notFound('worklist');
    return list;
  }

  async #one(sql: Sql, list: Worklist, place: number, own: Own) {
    const rows = await sql.query<EntryRow>(`select ${ENTRY} from ${OF_LIST} and e.place = $3`, [list.id, own?.owners ?? null, place]);
    const [entry] = await this.#entryViews(sql, list, rows, own);
    if (!entry) throw notFound('entry');
    return { worklist: await this.#view(sql, list, own), entry };
  }

  async #view(sql: Sql, { id, name, byRef: by, forAll, columns, madeAt }: Worklist, own: Own): Promise<WorklistView> {
    const [counted] = await sql.query<{ total: number; done: number; later: number }>(
      `select count(*)::int as total, count(*) filter (where e.state = 'done')::int as done, count(*) filter (where e.state = 'later')::int as later
         from ${OF_LIST}`,
      [id, own?.owners ?? null],
    );
    const { total = 0, done = 0, later = 0 } = counted ?? {};
    const { catalogue } = (await this.store.seen(sql, own)).compiled;
    const known = columns.filter((column) => prepareColumns([column], catalogue).ok);
    return { ...{ id, name, by, forAll, total, done, later }, at: madeAt.toISOString(), columns: known };
  }

  async #entryViews(sql: Sql, { columns }: Worklist, rows: readonly EntryRow[], own: Own): Promise<WorklistEntry[]> {
    const uids = rows.map(({ uid }) => uid);
    const { cells, kept } = await this.#cells(sql, uids, columns, own);
    const now = this.clock.now();
    return rows.map((row) => ({
      ...{ place: row.place, contact: row.uid, name: row.name || row.email || 'someone unnamed', email: row.email },
      ...{ state: row.state, by: row.by_ref, at: row.at?.toISOString() ?? null, note: row.note },
      takenBy: row.taken_at && row.taken_at.getTime() > now - TAKEN_MS ? row.taken_by : null,
      was: kept.map((index) => row.was[index] ?? null),
      cells: [...(cells.get(row.uid) ?? [])],
    }));
  }

  /** What columns say now; of those that rest on something gone nothing is said. @returns `kept`: the places of those that are left */
  async #cells(sql: Sql, uids: readonly string[], columns: readonly Column[], own: Own) {
    const { compiled } = await this.store.seen(sql, own);
    const { catalogue, whyBroken } = compiled;
    const found = columns.map((column) => prepareColumns([column], catalogue, whyBroken));
    const kept = found.flatMap((each, index) => (each.ok ? [index] : []));
    const prepared = found.flatMap((each) => (each.ok ? each.value : []));
    const moment = new Moment(this.clock.now(), catalogue.zone);
    return { cells: await cellsOf(sql, uids, prepared, { catalogue, moment, of: 'contact' }), kept };
  }
}

interface WordsAbout extends Pick<WorklistEntry, 'state' | 'by' | 'at' | 'note'> {
  /** of the list */
  readonly name: string;
}

interface Frozen {
  readonly id: string;
  readonly cells: readonly Cell[];
}
