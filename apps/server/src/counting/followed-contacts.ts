import { ContactColumns, LineSets, type Catalogue, type CountedPart } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { feedAfter, newestRevisions } from '../engine/feed';
import { loadParts, type WantedParts } from '../engine/load-parts';
import { ALL, loadStates, NOTHING_MORE } from '../engine/load-states';
import { REVISIONS_AT_ONCE, type FeedDelta, type SignalKey } from '../engine/queries/feed-after';
import { type DefinitionStore } from '../settings/definition-store';
import { type IndexSnapshot } from './index-snapshot';

/** So many contacts are loaded in one transaction. */
const LOADED_AT_ONCE = 500;
const CAUGHT_UP_AT_ONCE = 1_000;
/** What one process holds without trouble. */
const MOST_CONTACTS = 2_000_000;
const MOST_SIGNALS = 20_000_000;
/** Fewer than these are loaded sooner than a file is read. */
const FEWEST_WRITTEN_DOWN = 1_000;

type Reading = ReadonlyMap<string | number, string>;

/** What of a contact has changed since it was loaded. */
type Changed = 'anything' | { readonly parts: Set<CountedPart>; readonly signals: SignalKey[] };

/** All contacts in columns as they stood at some revision of each lane, and whom the feed has named since. Whoever uses it sees to it that one thing is done at a time. */
export class FollowedContacts {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  readonly #snapshot: IndexSnapshot | undefined;
  #sets = new LineSets(new ContactColumns());
  #revisions = new Map<number, number>();
  /** what the feed named and is not loaded anew yet */
  readonly #changed = new Map<number, Changed>();
  /** how what is stored is read; another one means loading everything anew */
  #reading: Reading = new Map();
  #cameFrom: 'database' | 'snapshot' = 'database';
  #isWritten = false;
  #unwritten = 0;
  /** somebody was erased who may still be in */
  #isErasing = false;

  constructor(database: Database, store: DefinitionStore, snapshot: IndexSnapshot | undefined) {
    this.#database = database;
    this.#store = store;
    this.#snapshot = snapshot;
  }

  get sets(): LineSets {
    return this.#sets;
  }

  /** Where everyone was loaded from at the start. */
  get cameFrom(): 'database' | 'snapshot' {
    return this.#cameFrom;
  }

  /** How many have changed and are not loaded anew yet. */
  get behind(): number {
    return this.#changed.size;
  }

  /** How much of what is known stands in no file: 1 for all of it, where there is no file of it. */
  get unwrittenPart(): number {
    return this.#isWritten ? this.#unwritten / Math.max(1, this.#sets.columns.size) : 1;
  }

  get isErasing(): boolean {
    return this.#isErasing;
  }

  get isTooLarge(): boolean {
    return this.#sets.columns.size > MOST_CONTACTS;
  }

  /** The sum of all revisions up to which the feed was followed: revisions only ever rise, so it stands still only while each of them does. */
  get revision(): number {
    return [...this.#revisions.values()].reduce((sum, revision) => sum + revision, 0);
  }

  empty(): void {
    this.#sets = new LineSets(new ContactColumns());
    this.#changed.clear();
  }

  /**
   * Loads everyone, from what was written down or else from the database. Whatever changes meanwhile comes by the feed, which is followed from before.
   *
   * @param loading where everyone is loaded from: a replica will do
   * @param goesOn asked again and again whether it is still wanted
   * @returns false where there are too many
   */
  async load(loading: Database, goesOn: () => boolean): Promise<boolean> {
    this.empty();
    const [size] = await loading.query<{ contacts: number; signals: number }>(
      `select (select count(*) from contact) as contacts, (select coalesce(sum(n), 0)::bigint from signal_sum) as signals`,
    );
    if (!size || size.contacts > MOST_CONTACTS || size.signals > MOST_SIGNALS) {
      // Nobody would follow who is erased from it.
      await this.#snapshot?.forget();
      return false;
    }
    const isTaken = await this.#fromSnapshot(goesOn);
    this.#cameFrom = isTaken ? 'snapshot' : 'database';
    if (!isTaken) await this.#fromDatabase(loading, goesOn);
    return true;
  }

  /** Whether what is stored is still read as it was. What is new has not been stored before. */
  readsAlike(catalogue: Catalogue): boolean {
    const reading = readingOf(catalogue);
    if (!alike(this.#reading, reading)) return false;
    this.#reading = reading;
    return true;
  }

  /** Looks into the feed for whom else has changed. What was written down goes as soon as somebody was erased. */
  async follow(sql: Sql): Promise<void> {
    let rows;
    do {
      rows = await feedAfter(sql, this.#revisions);
      for (const { lane, delta } of rows) {
        for (const id of delta.ended ?? []) this.#sets.columns.end(id, lane);
        for (const id of delta.contacts) this.#note(id, delta);
        for (const { id, at, joins, leaves } of delta.moves ?? []) {
          this.#sets.columns.move(id, new Date(at).getTime(), joins, leaves);
          this.#unwritten += joins.length + leaves.length;
        }
        for (const { id, scores } of delta.scores ?? []) {
          this.#sets.columns.score(id, scores);
          this.#unwritten += scores.length;
        }
      }
      if (rows.some(({ delta }) => (delta.counts['gone'] ?? 0) > 0)) {
        this.#isErasing = true;
        this.#isWritten = false;
        await this.#snapshot?.forget();
      }
    } while (rows.length >= REVISIONS_AT_ONCE);
  }

  /** Loads those anew who have changed, at most so many. */
  async bringUp(sql: Sql, catalogue: Catalogue, most: number): Promise<void> {
    const changed = [...this.#changed].slice(0, most);
    for (let start = 0; start < changed.length; start += LOADED_AT_ONCE)
      await this.#bringUp(sql, catalogue, changed.slice(start, start + LOADED_AT_ONCE));
    for (const [id] of changed) this.#changed.delete(id);
    if (this.#changed.size === 0) this.#isErasing = false;
  }

  /** Writes everything down, unless somebody is in who was erased. Nothing may change meanwhile. */
  async writeDown(): Promise<void> {
    const { columns } = this.#sets;
    if (!this.#snapshot || this.#isErasing || columns.size < FEWEST_WRITTEN_DOWN || this.unwrittenPart === 0) return;
    this.#isWritten = await this.#snapshot.write(this.#database, {
      columns,
      revisions: this.#revisions,
      changed: [...this.#changed.keys()],
      reading: this.#reading,
    });
    if (this.#isWritten) this.#unwritten = 0;
  }

  /** Takes what was written down, and what has come since. @returns false where there is nothing that fits */
  async #fromSnapshot(goesOn: () => boolean): Promise<boolean> {
    const kept = await this.#snapshot?.read(this.#database);
    if (!kept) return false;
    const { compiled } = await this.#store.current(this.#database);
    this.#reading = kept.reading;
    if (!this.readsAlike(compiled.catalogue)) return this.#refuse('fields were changed since');
    this.#sets = new LineSets(kept.columns);
    this.#revisions = new Map(kept.revisions);
    for (const id of kept.changed) this.#changed.set(id, 'anything');
    this.#isWritten = true;
    while (goesOn()) {
      const isWhole = await this.#database.snapshot(async (sql) => {
        await this.follow(sql);
        await this.bringUp(sql, compiled.catalogue, CAUGHT_UP_AT_ONCE);
        if (this.behind > 0) return undefined;
        const [there] = await sql.query<{ n: number }>(
          'select count(*)::int as n from contact where merged_into is null and last_now is not null',
        );
        return there?.n === this.#sets.columns.size;
      });
      if (isWhole === false) return this.#refuse('what has come since does not make it whole');
      if (isWhole) break;
    }
    return true;
  }

  #refuse(why: string): false {
    this.#snapshot?.refuse(why);
    return false;
  }

  /** Loads them chunk by chunk. */
  async #fromDatabase(loading: Database, goesOn: () => boolean): Promise<void> {
    this.empty();
    this.#isWritten = false;
    await loading.snapshot(async (sql) => {
      this.#revisions = await newestRevisions(sql);
      this.#reading = readingOf((await this.#store.current(sql)).compiled.catalogue);
    });
    for (let after: number | undefined = 0; after !== undefined && goesOn();) {
      const behind: number = after;
      after = await loading.snapshot(async (sql) => {
        const { compiled } = await this.#store.current(sql);
        const rows = await sql.query<{ id: number }>('select id from contact where id > $1 order by id limit $2', [behind, LOADED_AT_ONCE]);
        const ids = rows.map((row) => row.id);
        await this.#put(sql, compiled.catalogue, ids);
        return ids.length === LOADED_AT_ONCE ? ids.at(-1) : undefined;
      });
    }
  }

  /** Remembers that a contact has changed, and what of it, if that alone is told. */
  #note(id: number, { only }: FeedDelta): void {
    const told = only?.[id];
    const before = this.#changed.get(id);
    if (!told || before === 'anything') this.#changed.set(id, 'anything');
    else if (!before) this.#changed.set(id, { parts: new Set(told.parts), signals: [...told.signals] });
    else {
      for (const part of told.parts) before.parts.add(part);
      before.signals.push(...told.signals);
    }
  }

  /** Loads of some contacts what has changed. */
  async #bringUp(sql: Sql, catalogue: Catalogue, changed: readonly (readonly [number, Changed])[]): Promise<void> {
    const { columns } = this.#sets;
    const whole: number[] = [];
    const some = new Map<number, WantedParts>();
    for (const [id, what] of changed) {
      if (what === 'anything' || columns.placeOf(id) === undefined) whole.push(id);
      else some.set(id, what);
    }
    if (whole.length > 0) await this.#put(sql, catalogue, whole);
    if (some.size === 0) return;
    const states = await loadParts(sql, catalogue, some);
    this.#unwritten += some.size;
    for (const [id, { parts }] of some) {
      const state = states.get(id);
      if (state) columns.update(state, parts);
      else columns.drop(id);
    }
  }

  /** Contacts as they stand now, out those that stand no more, and of companies what their contacts read. */
  async #put(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<void> {
    const { columns } = this.#sets;
    const companies = await sql.query<{ id: number }>('select id from company where id = any($1::bigint[])', [ids]);
    const ofCompanies = new Set(companies.map((company) => company.id));
    for (const [id, state] of await loadStates(sql, catalogue, [...ofCompanies], NOTHING_MORE)) columns.putCompany(id, state.facts);
    const contacts = ids.filter((id) => !ofCompanies.has(id));
    const states = await loadStates(sql, catalogue, contacts, ALL);
    this.#unwritten += ids.length;
    for (const id of contacts) {
      const state = states.get(id);
      if (state && !state.isNew) columns.put(state);
      else columns.drop(id);
    }
  }
}

/** What of the definitions decides how stored facts and deals are read, by what is read. */
const readingOf = (catalogue: Catalogue): Reading =>
  new Map<string | number, string>([
    ['zone', catalogue.zone],
    ...catalogue.all('field').map(({ id, body }) => [id, body.type] as const),
    ...catalogue.all('pipeline').map(({ id, body }) => [id, JSON.stringify(body)] as const),
  ]);

const alike = (before: Reading, now: Reading): boolean => [...before].every(([what, how]) => now.get(what) === how);
