import { type Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Injectable } from '@nestjs/common';
import { parse, CsvError } from 'csv-parse';
import { isStorable, splitName, type Catalogue, type Fault } from '@eager-sieve/core';
import { type ContactWrite, type ImportOptions, type ImportView } from '@eager-sieve/contracts';
import { prepareContacts } from '../contacts/prepare-contacts';
import { IsNull, LessThan } from 'typeorm';
import { Database } from '../database/database';
import { ImportRun } from '../database/entities';
import { EditsService } from '../engine/edits.service';
import { MOVED } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound } from '../http/problem';
import { UploadStopped } from '../http/uploads';
import { DefinitionStore } from '../settings/definition-store';

const BATCH = 500;
/** Rows wait in the inbox until they are worked; so many may wait before reading goes on, which bounds memory and keeps others served. */
const MOST_WAITING = 4_000;
const KEPT_FAULTS = 100;
/** A server that has not been heard of for so long is gone. */
const LEASE_MS = 20_000;
const MAX_COLUMNS = 200;
const MAX_ROW_BYTES = 256 * 1024;

const TARGETS = /^(email|outsideId|name|consent:(email|text|chat)|(field|tag):.+)$/;

/** So many of the latest are listed. */
const SHOWN = 50;

/** Brings contacts in from CSV: streamed, in constant memory, each row wholly or not at all. */
@Injectable()
export class ImportsService {
  readonly #running = new Map<number, AbortController>();

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly store: DefinitionStore,
  ) {}

  /** @param bytes the length of the file if it is known, for the progress */
  async run(file: Readable, options: ImportOptions, bytes: number, by: string): Promise<ImportView> {
    if (!Object.values(options.mapping).length || !('email' in options.mapping)) {
      throw faulty([
        { path: ['mapping'], code: 'mapping.email', expected: 'a column for the email address, by which contacts are matched' },
      ]);
    }
    for (const target of Object.keys(options.mapping)) {
      if (!TARGETS.test(target))
        throw faulty([
          { path: ['mapping', target], code: 'mapping.target', expected: 'email, outsideId, name, field:KEY, tag:KEY or consent:email' },
        ]);
    }
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const unknown = Object.keys(options.mapping).filter((target) => !takes(target, catalogue));
    // Otherwise each row would be refused for it, one after another.
    if (unknown.length > 0)
      throw faulty(
        unknown.map((target) => ({
          path: ['mapping', target],
          code: 'mapping.target',
          expected: 'a field of contacts or a tag that exists',
        })),
      );
    const now = this.clock.now();
    const started = {
      name: options.name,
      state: 'running' as const,
      options,
      bytes,
      startedAt: new Date(now),
      aliveUntil: new Date(now + LEASE_MS),
      by,
    };
    const { id } = await this.database.transaction((sql) => sql.table(ImportRun).save({ ...started }));
    const controller = new AbortController();
    this.#running.set(id, controller);
    const alive = setInterval(() => void this.#keepAlive(id), LEASE_MS / 4);
    try {
      await this.#read(id, file, options, catalogue, controller.signal);
      await this.#finish(id, 'done', null);
    } catch (error) {
      await this.#finish(id, controller.signal.aborted ? 'cancelled' : 'failed', controller.signal.aborted ? null : failureText(error));
    } finally {
      clearInterval(alive);
      this.#running.delete(id);
      file.destroy();
    }
    return this.view(id);
  }

  async #read(id: number, file: Readable, options: ImportOptions, catalogue: Catalogue, signal: AbortSignal): Promise<void> {
    let bytesRead = 0;
    const counted = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytesRead += chunk.length;
        done(null, chunk);
      },
    });
    const decoder = new TextDecoder('utf-8', { fatal: true });
    const decoded = new Transform({
      decodeStrings: true,
      readableObjectMode: false,
      transform(chunk: Buffer, _encoding, done) {
        try {
          done(null, decoder.decode(chunk, { stream: true }));
        } catch {
          done(new ImportError('The file is not UTF-8. Save it as “CSV UTF-8” and try again.'));
        }
      },
      flush(done) {
        try {
          done(null, decoder.decode());
        } catch {
          done(new ImportError('The file ends in the middle of a character: it is not whole, or not UTF-8.'));
        }
      },
    });
    const rows = parse({
      bom: true,
      columns: (header: string[]) => checkHeader(header, options),
      delimiter: options.separator,
      relax_column_count: true,
      skip_empty_lines: true,
      max_record_size: MAX_ROW_BYTES,
      info: true,
      trim: true,
    });
    let batch: { row: number; write: ContactWrite; faults: Fault[] }[] = [];
    const flush = async (): Promise<void> => {
      const now = batch;
      batch = [];
      await this.#take(id, now, options, bytesRead);
    };
    await pipeline(
      file,
      counted,
      decoded,
      rows,
      async (source: AsyncIterable<{ record: Record<string, string>; info: { lines: number; columns: unknown[] } }>) => {
        for await (const { record, info } of source) {
          batch.push({ row: info.lines, ...rowOf(record, options, catalogue) });
          if (batch.length >= BATCH) await flush();
        }
        await flush();
      },
      { signal },
    );
  }

  async #take(
    id: number,
    batch: readonly { row: number; write: ContactWrite; faults: readonly Fault[] }[],
    options: ImportOptions,
    bytesRead: number,
  ): Promise<void> {
    await this.#room();
    const good = batch.filter((each) => each.faults.length === 0);
    const faulty = batch.filter((each) => each.faults.length > 0).map((each) => ({ row: each.row, faults: each.faults }));
    let created = 0;
    let updated = 0;
    let unchanged = 0;
    if (good.length > 0) {
      const request = { matchBy: 'email', onExisting: options.onExisting, contacts: good.map((each) => ({ value: each.write })) } as const;
      const cause = { kind: 'import', ref: String(id) } as const;
      const { results } = await this.edits.enqueue((context) => prepareContacts(context, request, cause, options.addTags));
      results.forEach((result, index) => {
        if (result.status === 'rejected') faulty.push({ row: good[index]?.row ?? 0, faults: result.faults ?? [] });
        else if (result.status === 'created') created += 1;
        else if (result.status === 'updated') updated += 1;
        else unchanged += 1;
      });
    }
    faulty.sort((a, b) => a.row - b.row);
    await this.database.query(
      `update import_run set rows = rows + $2, created = created + $3, updated = updated + $4, unchanged = unchanged + $5, faulty = faulty + $6, bytes_read = $7,
              faults = case when jsonb_array_length(faults) < ${KEPT_FAULTS} then faults || $8::jsonb else faults end
        where id = $1`,
      [id, batch.length, created, updated, unchanged, faulty.length, bytesRead, JSON.stringify(faulty.slice(0, KEPT_FAULTS))],
    );
    await this.database.query(`select pg_notify('${MOVED}', '')`);
  }

  async #room(): Promise<void> {
    for (;;) {
      const [row] = await this.database.query<{ waiting: number }>('select count(*) as waiting from inbox');
      if ((row?.waiting ?? 0) < MOST_WAITING) return;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
  }

  async #finish(id: number, state: 'done' | 'failed' | 'cancelled', error: string | null): Promise<void> {
    const end = { state, error, finishedAt: new Date(this.clock.now()), ...(state === 'done' ? { bytesRead: () => 'bytes' } : {}) };
    await this.database.transaction((sql) => sql.table(ImportRun).update(id, end));
  }

  /** A database that is away for longer than the lease ends the import; the rows that were counted are in. */
  async #keepAlive(id: number): Promise<void> {
    const aliveUntil = new Date(this.clock.now() + LEASE_MS);
    await this.database.transaction((sql) => sql.table(ImportRun).update({ id, state: 'running' }, { aliveUntil })).catch(() => undefined);
  }

  cancel(id: number): void {
    const running = this.#running.get(id);
    if (!running) throw conflict('import.over', 'This import is not under way any more.');
    running.abort();
  }

  /** What was under way in a server that is gone is over, and says so. What it had taken in stays, and is counted. */
  async closeInterrupted(): Promise<void> {
    const now = this.clock.now();
    const error =
      'The server stopped while this import was under way. The rows counted here are in; import the file again to bring in the rest.';
    const end = { state: 'failed' as const, error, finishedAt: new Date(now) };
    await this.database.transaction(async (sql) => {
      for (const aliveUntil of [LessThan(new Date(now)), IsNull()])
        await sql.table(ImportRun).update({ state: 'running', aliveUntil }, end);
    });
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

const viewOf = ({ options: _options, aliveUntil: _aliveUntil, startedAt, finishedAt, ...run }: ImportRun): ImportView => ({
  ...run,
  startedAt: startedAt.toISOString(),
  finishedAt: finishedAt?.toISOString() ?? null,
});

class ImportError extends Error {
  override readonly name = 'ImportError';
}

function failureText(error: unknown): string {
  if (error instanceof ImportError) return error.message;
  if (error instanceof UploadStopped)
    return 'The file stopped coming before its end. The rows counted here are in; import the file again to bring in the rest.';
  if (error instanceof CsvError) {
    const line = (error as { lines?: number }).lines;
    if (error.code === 'CSV_QUOTE_NOT_CLOSED') return `A quotation mark that opens before line ${line ?? '?'} is never closed.`;
    if (error.code === 'CSV_MAX_RECORD_SIZE')
      return `The row around line ${line ?? '?'} is longer than 256 kB; perhaps a quotation mark is not closed.`;
    return `Line ${line ?? '?'} cannot be read as CSV: ${error.message}`;
  }
  return 'The import stopped. The rows counted here are in; import the file again to bring in the rest.';
}

function checkHeader(header: readonly string[], options: ImportOptions): string[] {
  const names = header.map((name) => name.trim());
  const unfit = names.find((name) => name === '__proto__' || !isStorable(name));
  if (unfit !== undefined)
    throw new ImportError(`A column is named “${shownName(unfit)}”, which cannot be taken: give it another name in the first line.`);
  if (names.length > MAX_COLUMNS) throw new ImportError(`The file has ${names.length} columns; at most ${MAX_COLUMNS} are taken.`);
  const missing = Object.values(options.mapping).filter((column) => !names.includes(column));
  if (missing.length > 0)
    throw new ImportError(
      `The file has no column ${missing.map((column) => `“${column}”`).join(', ')}. Its columns are ${names.slice(0, 12).join(', ')}.`,
    );
  return names.map((name, index) => (names.indexOf(name) === index ? name : `${name} (${index + 1})`));
}

/** With what cannot be shown left out. */
const shownName = (name: string): string => name.toWellFormed().replaceAll('\u0000', '');

const YES = /^(yes|y|true|1|given|x)$/i;
const NO = /^(no|n|false|0|withdrawn)$/i;

/** Of a tag that carries a value, a bare 1 or 0 is one. */
const WORD = /^(yes|y|true|x|no|n|false)$/i;

/** Whether an import of contacts can bring what a column is to go to. */
function takes(target: string, catalogue: Catalogue): boolean {
  const [kind = '', key = ''] = target.split(/:(.*)/s);
  if (kind === 'field') return catalogue.all('field').some((field) => field.key === key && field.body.of === 'contact');
  return kind !== 'tag' || catalogue.all('tag').some((tag) => tag.key === key);
}

/** One row as a contact. An empty cell says nothing, and changes nothing. */
function rowOf(
  record: Readonly<Record<string, string>>,
  options: ImportOptions,
  catalogue: Catalogue,
): { write: ContactWrite; faults: Fault[] } {
  const faults: Fault[] = [];
  const fields: Record<string, unknown> = {};
  const tags: Record<string, boolean | string> = {};
  const consent: Record<string, 'given' | 'withdrawn'> = {};
  let email = '';
  let outsideId: string | undefined;
  for (const [target, column] of Object.entries(options.mapping)) {
    const cell = record[column]?.trim() ?? '';
    if (!isStorable(cell)) {
      faults.push({ path: [column], code: 'text.unfit', expected: 'text without the character U+0000' });
      continue;
    }
    const [kind = '', key = ''] = target.split(/:(.*)/s);
    if (kind === 'email') email = cell;
    else if (cell === '') continue;
    else if (kind === 'outsideId') outsideId = cell;
    else if (kind === 'field') fields[key] = cell;
    else if (kind === 'name') {
      const { given, family } = splitName(cell);
      if (given !== undefined) fields['given-name'] ??= given;
      if (family !== undefined) fields['family-name'] ??= family;
    } else if (kind === 'tag' && catalogue.find('tag', key)?.body.value !== undefined && !WORD.test(cell)) tags[key] = cell;
    else if (!YES.test(cell) && !NO.test(cell)) faults.push({ path: [column], code: 'value.yes-no', expected: 'yes or no' });
    else if (kind === 'tag') tags[key] = YES.test(cell);
    else consent[key] = YES.test(cell) ? 'given' : 'withdrawn';
  }
  return { write: { email, ...(outsideId ? { outsideId } : {}), fields, tags, consent }, faults };
}
