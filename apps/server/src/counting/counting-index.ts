import {
  countInSteps,
  findFew,
  findInOrder,
  findNewest,
  freshScores,
  Moment,
  movesOf,
  orThrow,
  prepareColumn,
  type Asking,
  type Compiled,
  type Counted,
  type RowInOrder,
  type Sort,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type CountAnswer } from '@eager-sieve/contracts';
import { listed, questionsOf, readGroup, type WhichList } from '../audiences/questions';
import { type Database } from '../database/database';
import { type FoundMove, type FoundMoves, type MovesQuestion } from '../engine/find-moves';
import { iso } from '../engine/clock';
import { type DefinitionStore } from '../settings/definition-store';
import { FollowedContacts } from './followed-contacts';
import { type IndexSnapshot } from './index-snapshot';
import { SharedLock } from './shared-lock';

/** With more than this to catch up on, SQL is the quicker answer; over many contacts SQL takes longer. */
const MOST_TO_CATCH_UP = 5_000;
const MOST_PART_TO_CATCH_UP = 1 / 250;
/** It keeps up by so many at a time, so that no question waits for long. */
const KEPT_UP_AT_ONCE = 500;
const WRITE_DOWN_EVERY_MS = 1_800_000;
/** When it stops it is only written down if this part of all has changed since. */
const MUCH = 0.02;
/** After somebody was erased it is written down anew so soon. */
const WRITE_ANEW_AFTER_MS = 60_000;
/** While people ask, it keeps up by itself, so that the next answer has little to catch up on; when nobody has asked for long, it rests. */
const KEEP_UP_EVERY_MS = 250;
const KEEP_UP_FOR_MS = 600_000;
/** Nor does it load anybody then, but it looks for who was erased: what was written down of them goes. */
const LOOK_EVERY_MS = 5_000;
const TRY_AGAIN_MS = 5_000;
/** Others are served at least so often, however long a count is. */
const SLICE_MS = 8;
/** Whoever waited so long is told to ask for less. */
const LONGEST_MS = 15_000;

export type CountingState = 'loading' | 'catching up' | 'ready' | 'too large';

/** Now, or an instant that was given; `another` if scores and audiences have to be worked out for it instead of taken as they are recorded. */
export type AskedClock = 'now' | 'given' | 'another';

/** A question about contacts at an instant; conditions come as they are written, since prepared ones cannot be sent to another thread. */
export interface Question {
  readonly condition: WrittenCondition;
  readonly instant: number;
  readonly clock: AskedClock;
  /** only contacts that one of these looks after */
  readonly own?: readonly string[] | undefined;
}

/**
 * All contacts in columns, to count them many times faster than SQL does. Never a source of truth: it follows the feed, brings itself up to the
 * newest commit before each answer, and answers nothing when it cannot; then SQL is asked.
 */
export class CountingIndex {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  readonly #contacts: FollowedContacts;
  #loading: Database;
  #state: CountingState = 'loading';
  /** the definitions under which the columns were last brought up */
  #under: { readonly epoch: number; readonly compiled: Compiled } | undefined;
  readonly #lock = new SharedLock();
  readonly #givenUp = new Set<number>();
  #timer: NodeJS.Timeout | undefined;
  #askedAt = 0;
  #lookedAt = 0;
  #now = 0;
  #stopped = false;
  #isWriting = false;
  /** when it is written down again */
  #writesAt = 0;

  /** @param loading where everyone is loaded from at the start: a replica will do, since what it lacks is followed from the database itself */
  constructor(database: Database, store: DefinitionStore, loading = database, snapshot?: IndexSnapshot) {
    this.#database = database;
    this.#store = store;
    this.#loading = loading;
    this.#contacts = new FollowedContacts(database, store, snapshot);
  }

  /** Where everyone was loaded from at the start. */
  cameFrom(): 'database' | 'snapshot' {
    return this.#contacts.cameFrom;
  }

  state(): CountingState {
    return this.#state === 'ready' && this.#contacts.behind > this.#mostToCatchUp() ? 'catching up' : this.#state;
  }

  #mostToCatchUp(): number {
    return Math.max(MOST_TO_CATCH_UP, this.#contacts.sets.columns.size * MOST_PART_TO_CATCH_UP);
  }

  /** Begins to load, and to keep up from then on. */
  start(): void {
    void this.#loadUntilDone();
    const keepUp = async (): Promise<void> => {
      const begin = Date.now();
      const isAsked = begin - this.#askedAt < KEEP_UP_FOR_MS;
      const looks = isAsked || begin - this.#lookedAt >= LOOK_EVERY_MS;
      const more = looks && (await this.#keepUp(isAsked).catch(() => false));
      // A stop sees to it itself: two would write the same file.
      if (!this.#stopped && Date.now() >= this.#writesAt) await this.#writeDown();
      // With much to catch up on it rests a little: the workers need the machine too.
      if (!this.#stopped) this.#timer = setTimeout(() => void keepUp(), more ? (Date.now() - begin) / 4 : KEEP_UP_EVERY_MS);
    };
    this.#timer = setTimeout(() => void keepUp(), KEEP_UP_EVERY_MS);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    clearTimeout(this.#timer);
    await this.#lock.write(() => Promise.resolve());
    // A stop is not to take long: what has changed a little is caught up with at the next start.
    if (this.#contacts.unwrittenPart > MUCH) await this.#writeDown();
  }

  /**
   * How many, exactly, as of the newest commit. Undefined where SQL should be asked, or where nobody waits any more.
   *
   * @param ask by which it can be given up
   */
  count({ condition, instant, clock, own }: Question, sieve: boolean, ask: number): Promise<CountAnswer | 'slow' | undefined> {
    return this.#current(async (compiled) => {
      const { catalogue } = compiled;
      const { nodes, deciding, read } = questionsOf(readGroup(condition, compiled, 'contact').node, 'contact', sieve);
      const moment = this.#momentOf(instant, clock, catalogue.zone);
      const steps = countInSteps(this.#contacts.sets, nodes, deciding, moment, askingAt(clock, compiled, own));
      const counted = await inSlices<Counted, 'slow' | undefined>(steps, (ms) => {
        if (this.#givenUp.has(ask)) return { instead: undefined };
        return ms > LONGEST_MS && { instead: 'slow' };
      });
      return typeof counted === 'object' ? read((index) => counted.counts[index] ?? 0, counted.decided, iso(moment.instant)) : counted;
    }).finally(() => this.#givenUp.delete(ask));
  }

  /** Nobody waits for the answer any more. */
  giveUp(ask: number): void {
    this.#givenUp.add(ask);
  }

  /** The ids of the newest for whom it holds. Undefined where SQL should be asked. */
  newest(
    { condition, instant, clock, own }: Question,
    which: WhichList,
    page: { readonly limit: number; readonly before?: number | undefined },
  ): Promise<readonly number[] | undefined> {
    return this.#current((compiled) => {
      const { catalogue } = compiled;
      const node = listed(readGroup(condition, compiled, 'contact').node, which);
      return findNewest(this.#contacts.sets, node, this.#momentOf(instant, clock, catalogue.zone), page, askingAt(clock, compiled, own));
    });
  }

  /** The ids of all for whom it holds now; null where they are more than so many. Undefined where SQL should be asked. */
  few({ condition, instant, own }: Omit<Question, 'clock'>, which: WhichList, most: number): Promise<readonly number[] | null | undefined> {
    return this.#current((compiled) => {
      const node = listed(readGroup(condition, compiled, 'contact').node, which);
      return findFew(this.#contacts.sets, node, this.#momentOf(instant, 'now', compiled.catalogue.zone), most, own) ?? null;
    });
  }

  /** What bringing some definitions up changes, and of how many contacts. Undefined where it cannot be told just now. */
  moves({ ids, among: asked, instant }: MovesQuestion): Promise<FoundMoves | undefined> {
    return this.#current(async (compiled) => {
      const { sets } = this.#contacts;
      const moment = this.#momentOf(instant, 'now', compiled.catalogue.zone);
      const among = 'lanes' in asked ? sets.columns.inLanes(asked.lanes) : sets.columns.among(asked.contacts);
      const due = new Map<number, number>();
      const comesAt = (contact: number, at: number): void => {
        due.set(contact, Math.min(at, due.get(contact) ?? at));
      };
      const moves: FoundMove[] = [];
      for (const id of ids) {
        const derived = compiled.derived.find((each) => each.id === id);
        if (derived?.kind === 'score') {
          const scores = await inSlices(freshScores(sets.columns, derived.card, moment, among));
          for (const [index, at] of scores.until.entries()) if (at !== null) comesAt(scores.contacts[index] as number, at);
          moves.push({ joins: [], leaves: [], scores });
        } else {
          const found = derived && movesOf(sets, derived, moment, among);
          for (const [contact, at] of found?.due ?? []) comesAt(contact, at);
          moves.push({ joins: found?.joins ?? [], leaves: found?.leaves ?? [] });
        }
      }
      return { moves, due: { ids: [...due.keys()], at: [...due.values()] }, contacts: among.count };
    });
  }

  /** Those for whom it holds, in an order of one's own. Undefined where SQL should be asked, as for what the columns do not hold. */
  inOrder(
    { condition, instant, own }: Omit<Question, 'clock'>,
    which: WhichList,
    sort: readonly Sort[],
    page: { readonly limit: number; readonly skip: number; readonly after?: RowInOrder | undefined },
  ): Promise<readonly RowInOrder[] | undefined> {
    return this.#current((compiled) => {
      const { catalogue, whyBroken } = compiled;
      const node = listed(readGroup(condition, compiled, 'contact').node, which);
      const by = sort.map(({ column, down }) => ({ column: orThrow(prepareColumn(column, catalogue, whyBroken)), down }));
      return findInOrder(this.#contacts.sets, node, this.#momentOf(instant, 'now', catalogue.zone), catalogue, by, page, own);
    });
  }

  /** Of two questions about now that overtake each other, the later clock stands for both: what is kept of lines never goes back. */
  #momentOf(instant: number, clock: AskedClock, zone: string): Moment {
    if (clock !== 'now') return new Moment(instant, zone);
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

  async #load(): Promise<void> {
    const isLoaded = await this.#contacts.load(this.#loading, () => !this.#stopped);
    this.#writesAt = this.#contacts.cameFrom === 'snapshot' ? Date.now() + WRITE_DOWN_EVERY_MS : 0;
    if (!isLoaded) this.#state = 'too large';
    else if (!this.#stopped) this.#state = 'ready';
  }

  /** What changes while it is written down is counted by SQL. */
  async #writeDown(): Promise<void> {
    if (this.#state !== 'ready') return;
    this.#isWriting = true;
    await this.#lock.read(() => this.#contacts.writeDown());
    this.#isWriting = false;
    this.#writesAt = Date.now() + WRITE_DOWN_EVERY_MS;
  }

  /** Catches up by some contacts, or only looks for who was erased. @returns whether there are more */
  async #keepUp(isAsked: boolean): Promise<boolean> {
    if (this.#state !== 'ready') return false;
    this.#lookedAt = Date.now();
    return this.#lock.write(async () => {
      if (await this.#standing()) return false;
      if (this.#contacts.isTooLarge) {
        this.#state = 'too large';
        this.#contacts.empty();
        return false;
      }
      return this.#database.snapshot(async (sql) => {
        const { compiled } = await this.#store.current(sql);
        await this.#contacts.follow(sql);
        if (!isAsked && !this.#contacts.isErasing) return false;
        if (this.#contacts.isErasing) this.#writesAt = Math.min(this.#writesAt, Date.now() + WRITE_ANEW_AFTER_MS);
        await this.#contacts.bringUp(sql, compiled.catalogue, KEPT_UP_AT_ONCE);
        return this.#contacts.behind > 0;
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
      if (!this.#contacts.readsAlike(catalogue)) {
        void this.#loadUntilDone();
        return false;
      }
      await this.#contacts.follow(sql);
      if (this.#contacts.behind > this.#mostToCatchUp()) return false;
      if (this.#contacts.isErasing) this.#writesAt = Math.min(this.#writesAt, Date.now() + WRITE_ANEW_AFTER_MS);
      await this.#contacts.bringUp(sql, catalogue, this.#contacts.behind);
      this.#under = { epoch, compiled };
      return true;
    });
  }

  /** What the columns were last brought up under, if nothing at all has been committed since: found out in one short statement. */
  async #standing(): Promise<Compiled | undefined> {
    if (this.#contacts.behind > 0) return undefined;
    const [newest] = await this.#database.query<{ epoch: number; revisions: number }>(
      'select epoch, (select sum(revision)::bigint from lane) as revisions from workspace where id = 1',
    );
    const { revision } = this.#contacts;
    return newest?.revisions === revision && newest.epoch === this.#under?.epoch ? this.#under.compiled : undefined;
  }
}

const askingAt = (clock: AskedClock, compiled: Compiled, own: readonly string[] | undefined): Asking => ({
  isNow: clock === 'now',
  through: clock === 'another' ? compiled : undefined,
  own,
});

/**
 * A slice at a time, so that no other question waits for a long one.
 *
 * @param stops what is answered instead after so many ms, if it is not to go on
 */
async function inSlices<Answer, Instead = never>(
  steps: Generator<void, Answer>,
  stops: (ms: number) => { readonly instead: Instead } | false = () => false,
): Promise<Answer | Instead> {
  const began = performance.now();
  for (let slice = began; ;) {
    const step = steps.next();
    if (step.done) return step.value;
    const now = performance.now();
    if (now - slice < SLICE_MS) continue;
    await new Promise((resolve) => setImmediate(resolve));
    const stopped = stops(now - began);
    if (stopped) return stopped.instead;
    slice = performance.now();
  }
}
