import { randomUUID } from 'node:crypto';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Injectable, type BeforeApplicationShutdown } from '@nestjs/common';
import { type Catalogue } from '@eager-sieve/core';
import { importOptionsSchema, type ImportOptions, type ImportRehearsal, type ImportView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ImportRun, Watch } from '../database/entities';
import { EditsService } from '../engine/edits.service';
import { MOVED } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { isDatabaseAway } from '../http/away';
import { conflict, notFound } from '../http/problem';
import { UploadStopped } from '../http/uploads';
import { DefinitionStore } from '../settings/definition-store';
import { ArrivingFile, ImportTaken } from './import-files';
import { checkOptions } from './import-checks';
import { ImportRehearsals } from './import-rehearsal';
import { canGoOn, countChanged, countRows, viewOf } from './import-progress';
import { keepRefused, refusedRows, type RefusedRow } from './refused-rows';
import { failureText, stepsOf, type FileRecord } from './import-formats';
import { kindOf, type Written } from './import-kinds';
import { eachOf, rowsIn } from './import-joined';
import { type ImportRow } from './import-row';
import { rowsOf } from './import-rows';
import { noteRows, reasonOf, watchOf } from './watch-rows';

const BATCH = 500;
/** Rows wait in the inbox until they are worked; so many may wait before reading goes on, which bounds memory and keeps others served. */
const MOST_WAITING = 4_000;
/** A server that has not been heard of for so long is gone. */
const LEASE_MS = 20_000;
/** A file that stopped coming is kept so long for somebody to go on with it. */
const KEPT_MS = 7 * 86_400_000;

/** So many of the latest are listed. */
const SHOWN = 50;

/** An import that this process has in hand. */
interface InHand {
  readonly id: number;
  readonly holder: string;
  readonly options: ImportOptions;
  readonly file: ArrivingFile;
  readonly abort: AbortController;
  /** rows that are in already */
  readonly rows: number;
  /** the watched file that it is a reading of */
  readonly watchId: number | null;
}

/** Reading stops, and somebody else goes on with it. */
class HandedOver extends Error {
  override readonly name = 'HandedOver';
}

/**
 * Brings contacts in from CSV: in constant memory, each row wholly or not at all. The file is kept in the database until all of it is in, so that
 * another process can go on where one ended.
 */
@Injectable()
export class ImportsService implements BeforeApplicationShutdown {
  readonly #inHand = new Map<number, InHand>();
  readonly #going = new Set<Promise<unknown>>();

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly store: DefinitionStore,
  ) {}

  /** Before the server stops listening, since a request waits for its import. */
  async beforeApplicationShutdown(): Promise<void> {
    for (const { abort } of this.#inHand.values()) abort.abort(new HandedOver());
    await Promise.all(this.#going);
  }

  /**
   * @param bytes the length of the file if it is known, for the progress
   * @param watch the watched file that this is a reading of, and what it is read as
   */
  async run(
    file: Readable,
    options: ImportOptions,
    bytes: number,
    by: string,
    watch?: { readonly id: number; readonly hash: string },
  ): Promise<ImportView> {
    await this.#check(options);
    const holder = randomUUID();
    const now = this.clock.now();
    const started = {
      name: options.name,
      state: 'running' as const,
      options,
      bytes,
      startedAt: new Date(now),
      aliveUntil: new Date(now + LEASE_MS),
      holder,
      by,
      watchId: watch?.id ?? null,
    };
    const { id } = await this.database.transaction(async (sql) => {
      const run = await sql.table(ImportRun).save({ ...started });
      if (watch) await sql.table(Watch).update(watch.id, { importId: run.id, readingHash: watch.hash });
      return run;
    });
    return this.#receive({ id, holder, options, rows: 0, watchId: started.watchId }, file);
  }

  /**
   * Goes on with an import whose file stopped coming.
   *
   * @param rest the file from `from` on
   */
  async goOn(id: number, rest: Readable, from: number): Promise<ImportView> {
    const holder = randomUUID();
    const run = await this.database.transaction(async (sql) => {
      const found = await sql.table(ImportRun).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
      if (!found) throw notFound('import');
      if (!canGoOn(found)) throw conflict('import.over', 'This import did not stop on the way, so there is nothing to go on with.');
      if (from !== found.stored)
        throw conflict('import.elsewhere', `Of this file ${found.stored} bytes are here: send it from there on, not from ${from}.`);
      const aliveUntil = new Date(this.clock.now() + LEASE_MS);
      await sql.table(ImportRun).update(id, { state: 'running', error: null, finishedAt: null, holder, aliveUntil });
      return found;
    });
    return this.#receive({ id, holder, options: importOptionsSchema.parse(run.options), rows: run.rows, watchId: run.watchId }, rest);
  }

  /** Keeps what comes and reads it, at the same time. */
  async #receive(run: Omit<InHand, 'file' | 'abort'>, incoming: Readable): Promise<ImportView> {
    const file = new ArrivingFile(this.database, run.id);
    const kept = file.keep(incoming, run.holder);
    try {
      await this.#work({ ...run, file, abort: new AbortController() });
    } finally {
      incoming.destroy();
      await kept;
    }
    return this.view(run.id);
  }

  async #work(run: InHand): Promise<void> {
    const going = this.#bringIn(run);
    this.#going.add(going);
    await going.finally(() => this.#going.delete(going));
  }

  async #bringIn(run: InHand): Promise<void> {
    this.#inHand.set(run.id, run);
    const alive = setInterval(() => void this.#keepAlive(run), LEASE_MS / 4);
    try {
      const { catalogue } = (await this.store.current(this.database)).compiled;
      await this.#read(run, catalogue);
      await countChanged(this.database, run.id, run.options, run.abort.signal);
      await this.#finish(run, 'done', null);
    } catch (error) {
      await this.#stopped(run, run.abort.signal.aborted ? (run.abort.signal.reason as unknown) : error);
    } finally {
      clearInterval(alive);
      if (this.#inHand.get(run.id) === run) this.#inHand.delete(run.id);
    }
  }

  async #check(options: ImportOptions): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    await checkOptions(this.database, catalogue, options);
  }

  async #read(run: InHand, catalogue: Catalogue): Promise<void> {
    let bytesRead = 0;
    const counted = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytesRead += chunk.length;
        done(null, chunk);
      },
    });
    await pipeline(
      Readable.from(run.file.read(), { objectMode: false }),
      counted,
      ...stepsOf(run.options),
      async (records: AsyncIterable<FileRecord>) => {
        let batch: ImportRow[] = [];
        const flush = async (): Promise<void> => {
          const now = batch;
          batch = [];
          await this.#take(run, now, bytesRead);
        };
        for await (const row of rowsOf(records, run.options, catalogue, run.rows)) {
          batch.push(row);
          if (batch.length >= BATCH) await flush();
        }
        await flush();
      },
      { signal: run.abort.signal },
    );
  }

  /** Rows and their count are in together or not at all: whoever goes on knows where. */
  async #take(run: InHand, batch: readonly ImportRow[], bytesRead: number): Promise<void> {
    if (batch.length === 0) return;
    await this.#room();
    const good = batch.filter((each) => each.faults.length === 0);
    const faulty = batch.filter((each) => each.faults.length > 0);
    const cause = { kind: 'import', ref: String(run.id) } as const;
    await this.edits.enqueue(async (context) => {
      const values = good.map(({ write }) => write as Written);
      const watch = run.watchId === null ? undefined : await watchOf(context.sql, run.watchId);
      const prepared = await kindOf(run.options).prepare(context, values, run.options, cause, watch ? reasonOf(watch.id) : undefined);
      const back = watch ? await noteRows(context.sql, context.catalogue, watch, run, batch, prepared.results) : [];
      const having = (status: string): number => prepared.results.filter((result) => result.status === status).length;
      const refused = prepared.results.flatMap((result, index) =>
        result.status === 'rejected' ? eachOf({ ...(good[index] as ImportRow), faults: result.faults ?? [] }) : [],
      );
      const faults = [...faulty, ...refused].sort((a, b) => a.row - b.row);
      await keepRefused(context.sql, run.id, faults);
      await countRows(context.sql, run, {
        rows: rowsIn(batch),
        created: having('created'),
        updated: having('updated'),
        joined: rowsIn(good) - good.length - (refused.length - having('rejected')),
        faults: faults.map(({ row, faults: wrong }) => ({ row, faults: wrong })),
        bytesRead,
      });
      return { ...prepared, entries: [...prepared.entries, ...back] };
    });
    await this.database.query(`select pg_notify('${MOVED}', '')`);
  }

  async #room(): Promise<void> {
    for (;;) {
      const [row] = await this.database.query<{ waiting: number }>('select count(*) as waiting from inbox');
      if ((row?.waiting ?? 0) < MOST_WAITING) return;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }

  /** What did not end by itself is over and says why, unless somebody goes on with it. */
  async #stopped(run: InHand, reason: unknown): Promise<void> {
    if (reason instanceof ImportTaken) return;
    if (reason instanceof HandedOver) {
      await this.database.query(`update import_run set alive_until = null where id = $1 and holder = $2 and state = 'running'`, [
        run.id,
        run.holder,
      ]);
    } else if (isDatabaseAway(reason)) {
      // The lease ends by itself, and then it is gone on with.
      throw reason;
    } else if (reason instanceof Cancelled) await this.#finish(run, 'cancelled', null);
    else await this.#finish(run, 'failed', failureText(reason), reason instanceof UploadStopped);
  }

  /** @param isKept whether the file is still needed */
  async #finish(
    { id, holder }: Pick<InHand, 'id' | 'holder'>,
    state: 'done' | 'failed' | 'cancelled',
    error: string | null,
    isKept = false,
  ): Promise<void> {
    const end = { state, error, finishedAt: new Date(this.clock.now()), ...(state === 'done' ? { bytesRead: () => 'bytes' } : {}) };
    await this.database.transaction(async (sql) => {
      const { affected } = await sql
        .table(ImportRun)
        .update({ id, holder, state: 'running' }, { ...end, ...(isKept ? {} : { stored: 0 }) });
      if (affected !== 0 && !isKept) await sql.query('delete from import_piece where import_id = $1', [id]);
    });
  }

  /** With the database away for longer than the lease, the import is gone on with when it is back. */
  async #keepAlive({ id, holder }: InHand): Promise<void> {
    const aliveUntil = new Date(this.clock.now() + LEASE_MS);
    await this.database
      .transaction((sql) => sql.table(ImportRun).update({ id, holder, state: 'running' }, { aliveUntil }))
      .catch(() => undefined);
  }

  async cancel(id: number): Promise<void> {
    const here = this.#inHand.get(id);
    if (here) return here.abort.abort(new Cancelled());
    // Another process has it in hand, and finds at its next rows that it has not any more.
    const run = await this.database.read(ImportRun).findOneBy({ id });
    if (!run) throw notFound('import');
    if (run.state !== 'running') throw conflict('import.over', 'This import is not under way any more.');
    await this.#finish({ id, holder: run.holder ?? '' }, 'cancelled', null);
  }

  /** Goes on with what a process had in hand that is gone, and forgets files that nobody needs any more. */
  async takeOver(): Promise<void> {
    const now = this.clock.now();
    const holder = randomUUID();
    const [run] = await this.database.query<{
      id: number;
      options: ImportOptions;
      rows: number;
      is_whole: boolean;
      watch_id: number | null;
    }>(
      `update import_run set holder = $1, alive_until = $2
        where id = (select id from import_run where state = 'running' and (alive_until is null or alive_until < $3) order by id limit 1
                    for update skip locked)
        returning id, options, rows, is_whole, watch_id`,
      [holder, new Date(now + LEASE_MS), new Date(now)],
    );
    await this.database.query(
      `with old as (update import_run set stored = 0 where state = 'failed' and stored > 0 and finished_at < $1 returning id)
       delete from import_piece using old where import_id = old.id`,
      [new Date(now - KEPT_MS)],
    );
    await this.database.query('delete from import_fault f using import_run r where r.id = f.import_id and r.finished_at < $1', [
      new Date(now - KEPT_MS),
    ]);
    if (!run) return;
    const file = new ArrivingFile(this.database, run.id);
    file.end(run.is_whole ? undefined : new UploadStopped());
    // It goes on beside whatever else is looked after; if it fails, its lease ends and somebody takes it over again.
    void this.#work({
      id: run.id,
      holder,
      options: importOptionsSchema.parse(run.options),
      rows: run.rows,
      watchId: run.watch_id,
      file,
      abort: new AbortController(),
    }).catch(() => undefined);
  }

  /** What an import would do. Nothing is kept of it. */
  async rehearse(file: Readable, options: ImportOptions): Promise<ImportRehearsal> {
    await this.#check(options);
    const { compiled } = await this.store.current(this.database);
    return new ImportRehearsals(this.database, compiled, options, this.clock.now()).run(file);
  }

  /** The rows that were refused, in the order of the file. */
  async *refused(id: number): AsyncGenerator<RefusedRow> {
    await this.view(id);
    yield* refusedRows(this.database, id);
  }

  async view(id: number): Promise<ImportView> {
    const run = await this.database.read(ImportRun).findOneBy({ id });
    if (!run) throw notFound('import');
    return viewOf(run);
  }

  async list(): Promise<ImportView[]> {
    return (await this.database.read(ImportRun).find({ order: { id: 'desc' }, take: SHOWN })).map(viewOf);
  }
}

/** Somebody asked for it to stop. */
class Cancelled extends Error {
  override readonly name = 'Cancelled';
}
