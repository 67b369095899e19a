import { Injectable } from '@nestjs/common';
import { addToDay, instantAt, localDay, type Instant } from '@eager-sieve/core';
import {
  importOptionsSchema,
  type ImportRehearsal,
  type Login,
  type Timetable,
  type WatchBody,
  type WatchView,
} from '@eager-sieve/contracts';
import { Database, type Transaction } from '../database/database';
import { ImportRun, Watch } from '../database/entities';
import { EditsService } from '../engine/edits.service';
import { keptInHand } from '../engine/kept-in-hand';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound, ProblemError } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';
import { checkOptions } from './import-checks';
import { viewOf } from './import-progress';
import { ImportsService } from './imports.service';
import { countGone, takeGone, watchOf } from './watch-rows';
import { NotSettled, Places, Unreadable, type Copied } from './watched-places';

/** A process that has not been heard of for so long has left what it had in hand. */
const LEASE_MS = 30_000;
const HELD_SHOWN = 5;
const HEAD_BYTES = 64 * 1024;
/** What is being written is looked at again so soon. */
const SETTLING_MS = 5_000;

/** Files that are looked at by a timetable and read whenever they have changed, by an import each time. */
@Injectable()
export class WatchesService {
  readonly #places = new Places();

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly store: DefinitionStore,
    private readonly edits: EditsService,
    private readonly imports: ImportsService,
  ) {}

  places() {
    return this.#places.list();
  }

  async list(): Promise<readonly WatchView[]> {
    const watches = await this.database.read(Watch).find({ order: { name: 'asc' } });
    return Promise.all(watches.map((watch) => this.#view(watch)));
  }

  async one(id: number): Promise<WatchView> {
    const watch = await this.database.read(Watch).findOneBy({ id });
    if (!watch) throw notFound('watched file');
    return this.#view(watch);
  }

  async #view(watch: Watch): Promise<WatchView> {
    const login = loginIn(watch);
    const { id, name, isOn, place, timetable, options, gone, readAt, nextAt, error, held, importId } = watch;
    const [row] = await this.database.query<{ n: number }>(
      `select count(*)::int as n from watch_row where watch_id = $1 and not is_gone and key <> ''`,
      [id],
    );
    const last = importId === null ? null : await this.database.read(ImportRun).findOneBy({ id: importId });
    return {
      ...{ id, name, isOn, place, timetable, options, gone, error, held },
      login: login ? { user: login.user } : null,
      people: (row?.n ?? 0) - held,
      heldNames: held === 0 ? [] : await this.#goneNames(id, importId),
      readAt: readAt?.toISOString() ?? null,
      nextAt: isOn ? (nextAt?.toISOString() ?? null) : null,
      last: last && viewOf(last),
    };
  }

  async #goneNames(id: number, importId: number | null): Promise<string[]> {
    const rows = await this.database.query<{ name: string }>(
      `select c.name from watch_row w join contact c on c.id = w.contact_id
        where w.watch_id = $1 and w.import_id <> $2 and not w.is_gone order by c.name limit ${HELD_SHOWN}`,
      [id, importId],
    );
    return rows.map(({ name }) => name);
  }

  /** How a file begins. @throws ProblemError 422 where it cannot be read */
  async look(at: Looked): Promise<{ readonly name: string; readonly bytes: number; readonly head: string }> {
    return this.#with(at, async ({ name, bytes, read }) => {
      const parts: Buffer[] = [];
      for await (const part of read().take(2)) parts.push(part as Buffer);
      return { name, bytes, head: Buffer.concat(parts).subarray(0, HEAD_BYTES).toString('base64') };
    });
  }

  async rehearse({ options, ...at }: Looked & Pick<WatchBody, 'options'>): Promise<ImportRehearsal> {
    return this.#with(at, ({ read }) => this.imports.rehearse(read(), options));
  }

  async #with<T>({ place, login, watch: id }: Looked, use: (copied: Copied) => Promise<T>): Promise<T> {
    const known = id === undefined ? null : await this.database.read(Watch).findOneBy({ id });
    try {
      return await this.#places.with(place, wholeLogin({ place, login }, known), use);
    } catch (error) {
      if (error instanceof Unreadable) throw new ProblemError(422, 'watch.unreadable', error.message);
      throw error;
    }
  }

  async make({ login, ...body }: WatchBody, by: string): Promise<{ readonly id: number }> {
    await this.#check(body);
    const kept = wholeLogin({ place: body.place, login }, null);
    return this.database.transaction(async (sql) => {
      const now = this.clock.now();
      const { id } = await sql.table(Watch).save({ ...body, login: kept ? JSON.stringify(kept) : null, madeBy: by, nextAt: new Date(now) });
      await writeSetting(sql, 'file watched', { name: body.name }, by, now);
      return { id };
    });
  }

  /** What it brings from then on it brings as is said now, so it is read anew although it is the same. */
  change(id: number, { login, ...body }: WatchBody, by: string): Promise<void> {
    return this.#write(id, 'watched file changed', by, async (sql, watch) => {
      await this.#check(body);
      const kept = wholeLogin({ place: body.place, login }, watch);
      await sql.table(Watch).update(id, {
        ...body,
        login: kept ? JSON.stringify(kept) : null,
        hash: null,
        readingHash: null,
        error: null,
        nextAt: new Date(this.clock.now()),
      });
    });
  }

  remove(id: number, by: string): Promise<void> {
    return this.#write(id, 'file watched no more', by, async (sql) => {
      await sql.query('delete from watch_row where watch_id = $1', [id]);
      await sql.query('delete from watch where id = $1', [id]);
    });
  }

  readNow(id: number, by: string): Promise<void> {
    return this.#write(id, 'watched file looked at', by, (sql) => sql.table(Watch).update(id, { nextAt: new Date(this.clock.now()) }));
  }

  async #write(id: number, verb: string, by: string, write: (sql: Transaction, watch: Watch) => Promise<unknown>): Promise<void> {
    await this.database.transaction(async (sql) => {
      const watch = await sql.table(Watch).findOneBy({ id });
      if (!watch) throw notFound('watched file');
      await write(sql, watch);
      await writeSetting(sql, verb, { name: watch.name }, by, this.clock.now());
    });
  }

  async #check({ options, gone }: Omit<WatchBody, 'login'>): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    await checkOptions(this.database, catalogue, options);
    if (gone.tag !== undefined && !catalogue.find('tag', gone.tag))
      throw faulty([{ path: ['gone', 'tag'], code: 'tag.unknown', expected: 'a tag that exists' }]);
    if (options.of !== 'contact' && (gone.takeOff || gone.tag !== undefined))
      throw faulty([{ path: ['gone'], code: 'gone.contact', expected: 'nothing, where the rows are not contacts' }]);
  }

  /** Somebody has said whether so many are gone. */
  async answerGone(id: number, acts: boolean, by: string): Promise<void> {
    let importId: number | null = null;
    await this.#write(
      id,
      acts ? 'gone from a watched file: done' : 'gone from a watched file: left as they are',
      by,
      async (sql, watch) => {
        importId = watch.importId;
        await sql.table(Watch).update(id, { held: 0 });
      },
    );
    if (importId !== null) await this.#takeAllGone(id, importId, acts);
  }

  /** Looks at the next file whose time has come. */
  async due(): Promise<void> {
    const now = this.clock.now();
    const [claimed] = await this.database.query<{ id: number }>(
      `update watch set lease_until = $2
        where id = (select id from watch where (is_on or reading_hash is not null) and next_at <= $1 and (lease_until is null or lease_until < $1)
                     order by next_at limit 1 for update skip locked)
        returning id`,
      [new Date(now), new Date(now + LEASE_MS)],
    );
    if (claimed) void this.#lookAt(claimed.id).catch(() => undefined);
  }

  async #lookAt(id: number): Promise<void> {
    const keep = (): Promise<unknown> =>
      this.database.query('update watch set lease_until = $2 where id = $1', [id, new Date(this.clock.now() + LEASE_MS)]);
    await keptInHand(LEASE_MS, keep, async () => {
      const watch = await this.database.read(Watch).findOneBy({ id });
      if (!watch) return;
      // What a process was reading that is gone is read to its end by whoever took the import over.
      if (watch.readingHash === null) await this.#read(watch);
      await this.#settle(id);
    });
  }

  async #read(watch: Watch): Promise<void> {
    try {
      await this.#places.with(watch.place, loginIn(watch), async ({ bytes, hash, read }) => {
        if (hash === watch.hash) return;
        const options = { ...importOptionsSchema.parse(watch.options), name: watch.name };
        await this.imports.run(read(), options, bytes, watch.madeBy, { id: watch.id, hash });
      });
      await this.#ended(watch, null);
    } catch (error) {
      await this.#ended(watch, error);
    }
  }

  /** It was looked at, with what went wrong, and is looked at again when its time comes. */
  async #ended(watch: Watch, error: unknown): Promise<void> {
    const { zone } = (await this.store.current(this.database)).compiled.catalogue;
    const now = this.clock.now();
    const isSettling = error instanceof NotSettled;
    const words = error instanceof Unreadable || error instanceof ProblemError ? error.message : 'It could not be read.';
    await this.#rest(watch, isSettling ? now + SETTLING_MS : nextTime(watch.timetable, now, zone), {
      ...(isSettling ? {} : { readAt: new Date(now), error: error === null ? null : words }),
    });
  }

  /** Until its time comes again; who asked meanwhile for it to be looked at is not forgotten. */
  async #rest({ id, nextAt }: Watch, next: number, also: Partial<Watch>): Promise<void> {
    await this.database.transaction(async (sql) => {
      await sql.table(Watch).update(id, { ...also, leaseUntil: null });
      await sql.query('update watch set next_at = $3 where id = $1 and next_at is not distinct from $2', [id, nextAt, new Date(next)]);
    });
  }

  /** When a reading has ended, those who are not in the file any more are seen to. */
  async #settle(id: number): Promise<void> {
    const watch = await this.database.read(Watch).findOneBy({ id });
    if (watch?.readingHash === null || watch?.readingHash === undefined || watch.importId === null) return;
    const run = await this.database.read(ImportRun).findOneBy({ id: watch.importId });
    const now = this.clock.now();
    if (run?.state === 'running') return this.#rest(watch, now + SETTLING_MS, {});
    const isWhole = run?.state === 'done';
    const { gone, isDoubtful } = isWhole ? await countGone(this.database, id, watch.importId) : { gone: 0, isDoubtful: false };
    const acts = watch.gone.takeOff || watch.gone.tag !== undefined;
    if (gone > 0 && !(acts && isDoubtful)) await this.#takeAllGone(id, watch.importId, acts);
    const { zone } = (await this.store.current(this.database)).compiled.catalogue;
    const { readingHash } = (await this.database.read(Watch).findOneBy({ id })) ?? {};
    // Whoever has changed it meanwhile has it read anew.
    if (readingHash !== watch.readingHash) return this.#rest(watch, now, {});
    await this.#rest(watch, nextTime(watch.timetable, now, zone), {
      readingHash: null,
      ...(isWhole
        ? { hash: watch.readingHash, held: acts && isDoubtful ? gone : 0 }
        : { error: run?.error ?? 'The reading was cancelled.' }),
    });
  }

  /** In portions, each wholly or not at all. */
  async #takeAllGone(id: number, importId: number, acts: boolean): Promise<void> {
    for (let taken = 1; taken > 0;) {
      await this.edits.enqueue(async ({ sql, catalogue }) => {
        const watch = await watchOf(sql, id);
        const went = watch && (await takeGone(sql, catalogue, watch, importId, acts));
        taken = went?.taken ?? 0;
        return { entries: went?.entries ?? [], results: [] };
      });
    }
  }

  /** Those that could not be read, or wait for an answer: what somebody has to see to. */
  async troubled(): Promise<
    readonly { readonly id: number; readonly name: string; readonly error: string | null; readonly held: number }[]
  > {
    return this.database.query('select id, name, error, held from watch where is_on and (error is not null or held > 0) order by name');
  }
}

/** What is looked at, as somebody says it. */
interface Looked extends Pick<WatchBody, 'place' | 'login'> {
  /** the watched file that it is, if it is watched already */
  readonly watch?: number | undefined;
}

const loginIn = ({ login }: Watch): Required<Login> | undefined => (login === null ? undefined : (JSON.parse(login) as Required<Login>));

/** A login with its password: a known one goes to no other host, and to nobody else. @throws ProblemError 422 where there is none */
function wholeLogin({ place, login }: Pick<WatchBody, 'place' | 'login'>, watch: Watch | null): Required<Login> | undefined {
  if (!login || place.kind !== 'address') return undefined;
  const { user, password } = login;
  if (password !== undefined) return { user, password };
  const known = watch && loginIn(watch);
  const isSame = known?.user === user && watch?.place.kind === 'address' && new URL(watch.place.url).origin === new URL(place.url).origin;
  if (!known || !isSame)
    throw new ProblemError(
      422,
      'watch.password',
      'The password is missing. One that is known is used only for the same user at the same host.',
    );
  return known;
}

/** When a file is looked at next. */
export function nextTime(timetable: Timetable, now: Instant, zone: string): Instant {
  if ('everyMinutes' in timetable) return now + timetable.everyMinutes * 60_000;
  const today = localDay(now, zone);
  const at = instantAt(today, timetable.hour, zone);
  return at > now ? at : instantAt(addToDay(today, 1, 'days'), timetable.hour, zone);
}
