import {
  ContactColumns,
  countInSteps,
  findInOrder,
  findNewest,
  LineSets,
  Moment,
  orThrow,
  prepareColumn,
  type Catalogue,
  type Compiled,
  type Counted,
  type RowInOrder,
  type Sort,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type CountAnswer } from '@eager-sieve/contracts';
import { listed, questionsOf, readGroup, type WhichList } from '../audiences/questions';
import { type Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { feedAfter, newestRevisions } from '../engine/feed';
import { REVISIONS_AT_ONCE } from '../engine/queries/feed-after';
import { ALL, loadStates, NOTHING_MORE } from '../engine/load-states';
import { type DefinitionStore } from '../settings/definition-store';
import { type IndexSnapshot } from './index-snapshot';
import { SharedLock } from './shared-lock';

/** So many contacts are loaded in one transaction. */
const LOADED_AT_ONCE = 500;
/** With more than this to catch up on, SQL is the quicker answer. */
const MOST_TO_CATCH_UP = 1_000;
/** What one process holds without trouble. Beyond, SQL answers. */
const MOST_CONTACTS = 2_000_000;
const MOST_SIGNALS = 20_000_000;
/** Fewer than these are loaded sooner than a file is read. */
const FEWEST_WRITTEN_DOWN = 1_000;
const WRITE_DOWN_EVERY_MS = 1_800_000;
/** When it stops it is only written down if this part of all has changed since. */
const MUCH = 0.02;
/** After somebody was erased it is written down anew so soon. */
const WRITE_ANEW_AFTER_MS = 60_000;
/** While people ask, it keeps up by itself, so that the next answer has little to catch up on; when nobody has asked for long, it rests. */
const KEEP_UP_EVERY_MS = 1_000;
const KEEP_UP_FOR_MS = 600_000;
const TRY_AGAIN_MS = 5_000;
/** Others are served at least so often, however long a count is. */
const SLICE_MS = 8;
/** Whoever waited so long is told to ask for less. */
const LONGEST_MS = 15_000;

export type CountingState = 'loading' | 'catching up' | 'ready' | 'too large';

/** A question about contacts at an instant; conditions come as they are written, since prepared ones cannot be sent to another thread. */
export interface Question {
  readonly condition: WrittenCondition;
  readonly instant: number;
  /** another clock than now: scores and audiences are worked out instead of taken as they are recorded */
  readonly another: boolean;
}

/**
 * All contacts in columns, to count them many times faster than SQL does. Never a source of truth: it follows the feed, brings itself up to the
 * newest commit before each answer, and answers nothing when it cannot; then SQL is asked.
 */
export class CountingIndex {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  #loading: Database;
  #sets = new LineSets(new ContactColumns());
  #revisions = new Map<number, number>();
  /** what the feed named and is not loaded anew yet */
  readonly #changed = new Set<number>();
  #state: CountingState = 'loading';
  /** how what is stored is read; another one means loading everything anew */
  #reading: ReadonlyMap<string | number, string> = new Map();
  /** the definitions under which the columns were last brought up */
  #under: { readonly epoch: number; readonly compiled: Compiled } | undefined;
  readonly #lock = new SharedLock();
  readonly #givenUp = new Set<number>();
  #timer: NodeJS.Timeout | undefined;
  #askedAt = 0;
  #now = 0;
  #stopped = false;
  readonly #snapshot: IndexSnapshot | undefined;
  /** whether there is a file of this database, how many have changed since it was written, and when the next time comes */
  #isWritten = false;
  #isWriting = false;
  #unwritten = 0;
  #writesAt = 0;
  #cameFrom: 'database' | 'snapshot' = 'database';

  /** @param loading where everyone is loaded from at the start: a replica will do, since what it lacks is followed from the database itself */
  constructor(database: Database, store: DefinitionStore, loading = database, snapshot?: IndexSnapshot) {
    this.#database = database;
    this.#store = store;
    this.#loading = loading;
    this.#snapshot = snapshot;
  }

  /** Where everyone was loaded from at the start. */
  cameFrom(): 'database' | 'snapshot' {
    return this.#cameFrom;
  }

  state(): CountingState {
    return this.#state === 'ready' && this.#changed.size > MOST_TO_CATCH_UP ? 'catching up' : this.#state;
  }

  /** Begins to load, and to keep up from then on. */
  start(): void {
    void this.#loadUntilDone();
    const keepUp = async (): Promise<void> => {
      const begin = Date.now();
      const more = begin - this.#askedAt < KEEP_UP_FOR_MS && (await this.#keepUp().catch(() => false));
      await this.#writeDown(this.#writesAt);
      // With much to catch up on it rests as long as it works: the workers need the machine too.
      if (!this.#stopped) this.#timer = setTimeout(() => void keepUp(), more ? Date.now() - begin : KEEP_UP_EVERY_MS);
    };
    this.#timer = setTimeout(() => void keepUp(), KEEP_UP_EVERY_MS);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    clearTimeout(this.#timer);
    await this.#lock.write(() => Promise.resolve());
    // A stop is not to take long: what has changed a little is caught up with at the next start.
    if (!this.#isWritten || this.#unwritten > this.#sets.columns.size * MUCH) await this.#writeDown(Date.now());
  }

  /**
   * How many, exactly, as of the newest commit. Undefined where SQL should be asked, or where nobody waits any more.
   *
   * @param ask by which it can be given up
   */
  count({ condition, instant, another }: Question, sieve: boolean, ask: number): Promise<CountAnswer | 'slow' | undefined> {
    return this.#current(async (compiled) => {
      const { catalogue } = compiled;
      const { nodes, deciding, read } = questionsOf(readGroup(condition, compiled, 'contact').node, 'contact', sieve);
      const moment = this.#momentOf(instant, another, catalogue.zone);
      const counted = await this.#inSlices(countInSteps(this.#sets, nodes, deciding, moment, another ? compiled : undefined), ask);
      return typeof counted === 'object' ? read((index) => counted.counts[index] ?? 0, counted.decided, iso(moment.instant)) : counted;
    }).finally(() => this.#givenUp.delete(ask));
  }

  /** Nobody waits for the answer any more. */
  giveUp(ask: number): void {
    this.#givenUp.add(ask);
  }

  /** A slice at a time, so that no other count waits for a long one. */
  async #inSlices(steps: Generator<void, Counted>, ask: number): Promise<Counted | 'slow' | undefined> {
    const began = performance.now();
    for (let slice = began; ;) {
      const step = steps.next();
      if (step.done) return step.value;
      const now = performance.now();
      if (now - slice < SLICE_MS) continue;
      if (now - began > LONGEST_MS) return 'slow';
      await new Promise((resolve) => setImmediate(resolve));
      if (this.#givenUp.has(ask)) return undefined;
      slice = performance.now();
    }
  }

  /** The ids of the newest for whom it holds. Undefined where SQL should be asked. */
  newest(
    { condition, instant, another }: Question,
    which: WhichList,
    page: { readonly limit: number; readonly before?: number | undefined },
  ): Promise<readonly number[] | undefined> {
    return this.#current((compiled) => {
      const { catalogue } = compiled;
      const node = listed(readGroup(condition, compiled, 'contact').node, which);
      return findNewest(this.#sets, node, this.#momentOf(instant, another, catalogue.zone), page, another ? compiled : undefined);
    });
  }

  /** Those for whom it holds, in an order of one's own. Undefined where SQL should be asked, as for what the columns do not hold. */
  inOrder(
    { condition, instant }: Omit<Question, 'another'>,
    which: WhichList,
    sort: readonly Sort[],
    page: { readonly limit: number; readonly skip: number; readonly after?: RowInOrder | undefined },
  ): Promise<readonly RowInOrder[] | undefined> {
    return this.#current((compiled) => {
      const { catalogue, whyBroken } = compiled;
      const node = listed(readGroup(condition, compiled, 'contact').node, which);
      const by = sort.map(({ column, down }) => ({ column: orThrow(prepareColumn(column, catalogue, whyBroken)), down }));
      return findInOrder(this.#sets, node, this.#momentOf(instant, false, catalogue.zone), catalogue, by, page);
    });
  }

  /** Of two questions about now that overtake each other, the later clock stands for both: what is kept of lines never goes back. */
  #momentOf(instant: number, another: boolean, zone: string): Moment {
    if (another) return new Moment(instant, zone);
    this.#now = Math.max(this.#now, instant);
    return new Moment(this.#now, zone);
  }

  /** The database can be away for a while; SQL could not answer then either. */
  async #loadUntilDone(): Promise<void> {
    this.#state = 'loading';
    while (!this.#stopped) {
      try {
        return await this.#lock.write(() => this.#load());
      } catch {
        // A replica that is away, or that has no tables yet, is not waited for.
        this.#loading = this.#database;
        await new Promise((resolve) => setTimeout(resolve, TRY_AGAIN_MS));
      }
    }
  }

  /** Loads everyone. Whatever changes meanwhile comes by the feed, which is followed from before. */
  async #load(): Promise<void> {
    this.#sets = new LineSets(new ContactColumns());
    this.#changed.clear();
    const [size] = await this.#loading.query<{ contacts: number; signals: number }>(
      `select (select count(*) from contact) as contacts, (select coalesce(sum(n), 0)::bigint from signal_sum) as signals`,
    );
    if (!size || size.contacts > MOST_CONTACTS || size.signals > MOST_SIGNALS) {
      this.#state = 'too large';
      return;
    }
    this.#isWritten = await this.#fromSnapshot();
    if (this.#isWritten) this.#cameFrom = 'snapshot';
    else await this.#fromDatabase();
    this.#writesAt = this.#cameFrom === 'snapshot' ? Date.now() + WRITE_DOWN_EVERY_MS : 0;
    if (!this.#stopped) this.#state = 'ready';
  }

  /** Takes what was written down, and what has come since. @returns false where there is nothing that fits */
  async #fromSnapshot(): Promise<boolean> {
    const kept = await this.#snapshot?.read(this.#database);
    const { compiled } = await this.#store.current(this.#database);
    if (!kept) return false;
    if (!readsAlike(kept.reading, readingOf(compiled.catalogue))) {
      this.#snapshot?.refuse('fields were changed since');
      return false;
    }
    this.#sets = new LineSets(kept.columns);
    this.#revisions = new Map(kept.revisions);
    this.#reading = readingOf(compiled.catalogue);
    for (const id of kept.changed) this.#changed.add(id);
    while (!this.#stopped) {
      const isWhole = await this.#database.snapshot(async (sql) => {
        await this.#follow(sql);
        await this.#bringUp(sql, compiled.catalogue, MOST_TO_CATCH_UP);
        if (this.#changed.size > 0) return undefined;
        const [there] = await sql.query<{ n: number }>(
          'select count(*)::int as n from contact where merged_into is null and last_now is not null',
        );
        return there?.n === this.#sets.columns.size;
      });
      if (isWhole === false) this.#snapshot?.refuse('what has come since does not make it whole');
      if (isWhole !== undefined) return isWhole;
    }
    return true;
  }

  /** Loads them chunk by chunk. */
  async #fromDatabase(): Promise<void> {
    this.#sets = new LineSets(new ContactColumns());
    this.#changed.clear();
    this.#cameFrom = 'database';
    await this.#loading.snapshot(async (sql) => {
      this.#revisions = await newestRevisions(sql);
      this.#reading = readingOf((await this.#store.current(sql)).compiled.catalogue);
    });
    for (let after = 0; !this.#stopped;) {
      const last = await this.#loading.snapshot(async (sql) => {
        const { compiled } = await this.#store.current(sql);
        const rows = await sql.query<{ id: number }>('select id from contact where id > $1 order by id limit $2', [after, LOADED_AT_ONCE]);
        const ids = rows.map((row) => row.id);
        await this.#put(sql, compiled.catalogue, ids);
        return ids.length === LOADED_AT_ONCE ? ids.at(-1) : undefined;
      });
      if (last === undefined) break;
      after = last;
    }
    this.#unwritten = this.#sets.columns.size;
  }

  /** Writes the index down, if that is due by an instant and there is anything new. What changes meanwhile is counted by SQL. */
  async #writeDown(by: number): Promise<void> {
    if (!this.#snapshot || this.#state !== 'ready' || this.#unwritten === 0 || Date.now() < by) return;
    if (this.#sets.columns.size < FEWEST_WRITTEN_DOWN) return;
    this.#isWriting = true;
    await this.#lock.read(async () => {
      const { columns } = this.#sets;
      await this.#snapshot?.write(this.#database, {
        columns,
        revisions: this.#revisions,
        changed: [...this.#changed],
        reading: this.#reading,
      });
      this.#isWritten = true;
      this.#unwritten = 0;
      this.#writesAt = Date.now() + WRITE_DOWN_EVERY_MS;
    });
    this.#isWriting = false;
  }

  /** Catches up by some contacts. @returns whether there are more */
  async #keepUp(): Promise<boolean> {
    if (this.#state !== 'ready') return false;
    return this.#lock.write(async () => {
      if (await this.#standing()) return false;
      if (this.#sets.columns.size > MOST_CONTACTS) {
        this.#state = 'too large';
        this.#sets = new LineSets(new ContactColumns());
        return false;
      }
      return this.#database.snapshot(async (sql) => {
        const { compiled } = await this.#store.current(sql);
        await this.#follow(sql);
        await this.#bringUp(sql, compiled.catalogue, LOADED_AT_ONCE);
        return this.#changed.size > 0;
      });
    });
  }

  /** Answers as of the newest commit, to which the columns are brought first. They stand still under every answer. */
  async #current<Answer>(answer: (compiled: Compiled) => Promise<Answer> | Answer): Promise<Answer | undefined> {
    this.#askedAt = Date.now();
    if (this.#state !== 'ready') return undefined;
    const standing = await this.#lock.read(async () => {
      const compiled = await this.#standing();
      return compiled && { answer: await answer(compiled) };
    });
    if (standing) return standing.answer;
    // The columns have to stand still while they are written down, which takes seconds over a million contacts.
    if (this.#isWriting || !(await this.#lock.write(() => this.#catchUp()))) return undefined;
    // What is committed from here on is newer than the question.
    return this.#lock.read(async () => (this.#state === 'ready' && this.#under ? answer(this.#under.compiled) : undefined));
  }

  /** Brings the columns to the newest commit. @returns false where SQL is the quicker answer */
  async #catchUp(): Promise<boolean> {
    return this.#database.snapshot(async (sql) => {
      const { compiled, epoch } = await this.#store.current(sql);
      const { catalogue } = compiled;
      const reading = readingOf(catalogue);
      if (!readsAlike(this.#reading, reading)) {
        void this.#loadUntilDone();
        return false;
      }
      this.#reading = reading;
      await this.#follow(sql);
      if (this.#changed.size > MOST_TO_CATCH_UP) return false;
      await this.#bringUp(sql, catalogue, this.#changed.size);
      this.#under = { epoch, compiled };
      return true;
    });
  }

  /** What the columns were last brought up under, if nothing at all has been committed since: found out in one short statement. */
  async #standing(): Promise<Compiled | undefined> {
    if (this.#changed.size > 0) return undefined;
    const [newest] = await this.#database.query<{ epoch: number; revisions: number }>(
      // Revisions only ever rise, so their sum stands still only while each of them does.
      'select epoch, (select sum(revision)::bigint from lane) as revisions from workspace where id = 1',
    );
    const revisions = [...this.#revisions.values()].reduce((sum, revision) => sum + revision, 0);
    return newest?.revisions === revisions && newest.epoch === this.#under?.epoch ? this.#under.compiled : undefined;
  }

  async #follow(sql: Sql): Promise<void> {
    let rows;
    do {
      rows = await feedAfter(sql, this.#revisions);
      for (const { delta } of rows) for (const id of delta.contacts) this.#changed.add(id);
    } while (rows.length >= REVISIONS_AT_ONCE);
  }

  async #bringUp(sql: Sql, catalogue: Catalogue, most: number): Promise<void> {
    const ids = [...this.#changed].slice(0, most);
    for (let start = 0; start < ids.length; start += LOADED_AT_ONCE)
      await this.#put(sql, catalogue, ids.slice(start, start + LOADED_AT_ONCE));
    for (const id of ids) this.#changed.delete(id);
  }

  /** Contacts as they stand now, out those that stand no more, and of companies what their contacts read. */
  async #put(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<void> {
    const companies = await sql.query<{ id: number }>('select id from company where id = any($1::bigint[])', [ids]);
    const ofCompanies = new Set(companies.map((company) => company.id));
    for (const [id, state] of await loadStates(sql, catalogue, [...ofCompanies], NOTHING_MORE))
      this.#sets.columns.putCompany(id, state.facts);
    const contacts = ids.filter((id) => !ofCompanies.has(id));
    const states = await loadStates(sql, catalogue, contacts, ALL);
    this.#unwritten += ids.length;
    for (const id of contacts) {
      const state = states.get(id);
      if (state && !state.isNew) this.#sets.columns.put(state);
      else if (this.#sets.columns.drop(id)) {
        await this.#snapshot?.forget();
        this.#isWritten = false;
        this.#writesAt = Math.min(this.#writesAt, Date.now() + WRITE_ANEW_AFTER_MS);
      }
    }
  }
}

/** What of the definitions decides how stored facts and deals are read, by what is read. */
const readingOf = (catalogue: Catalogue): ReadonlyMap<string | number, string> =>
  new Map<string | number, string>([
    ['zone', catalogue.zone],
    ...catalogue.all('field').map(({ id, body }) => [id, body.type] as const),
    ...catalogue.all('pipeline').map(({ id, body }) => [id, JSON.stringify(body)] as const),
  ]);

/** Whether everything that is known already is read as it was. What is new has not been stored before. */
const readsAlike = (before: ReadonlyMap<string | number, string>, now: ReadonlyMap<string | number, string>): boolean =>
  [...before].every(([what, how]) => now.get(what) === how);
