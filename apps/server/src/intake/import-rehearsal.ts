import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  effectWords,
  entryOf,
  ownFields,
  pass,
  shownValue,
  thingOf,
  type Catalogue,
  type Compiled,
  type Effect,
  type SubjectState,
} from '@eager-sieve/core';
import { type ImportOptions, type ImportRehearsal } from '@eager-sieve/contracts';
import { type Database, type Sql } from '../database/database';
import { arrivalOf } from '../engine/arrivals';
import { type EditResult, type PreparedEdits } from '../engine/edits.service';
import { type InboxEntry } from '../engine/inbox';
import { loadStates } from '../engine/load-states';
import { failureText, stepsOf, type FileRecord } from './import-formats';
import { kindOf, type SignalRow, type Written } from './import-kinds';
import { eachOf, rowsIn } from './import-joined';
import { type ImportRow } from './import-row';
import { rowsOf } from './import-rows';

const BATCH = 500;
/** Of a longer file so many rows are rehearsed: enough to see whether it means what one thinks. */
const MOST_ROWS = 20_000;
const SAMPLES = 50;
const KEPT_FAULTS = 100;

/** So many rows have been looked at that the rest need not be. */
class Enough extends Error {
  override readonly name = 'Enough';
}
/** Ends a transaction of which nothing is to be kept. */
class Rehearsed extends Error {
  override readonly name = 'Rehearsed';
}

/** What an import would do: each batch is taken in as it would be, worked in passes of which nothing is kept, and undone. */
export class ImportRehearsals {
  readonly #database: Database;
  readonly #compiled: Compiled;
  readonly #options: ImportOptions;
  readonly #now: number;
  /** those whom an earlier row would have made */
  readonly #made = new Set<string>();
  readonly #answer = { rows: 0, joined: 0, created: 0, changed: 0, unchanged: 0, faulty: 0 };
  readonly #samples: ImportRehearsal['samples'] = [];
  readonly #faults: ImportRehearsal['faults'] = [];

  constructor(database: Database, compiled: Compiled, options: ImportOptions, now: number) {
    this.#database = database;
    this.#compiled = compiled;
    this.#options = options;
    this.#now = now;
  }

  async run(file: Readable): Promise<ImportRehearsal> {
    let error: string | null = null;
    let isWhole = true;
    try {
      await pipeline(file, ...stepsOf(this.#options), async (records: AsyncIterable<FileRecord>) => {
        let batch: ImportRow[] = [];
        for await (const row of rowsOf(records, this.#options, this.#compiled.catalogue, 0)) {
          batch.push(row);
          if (batch.length < BATCH) continue;
          await this.#take(batch);
          batch = [];
          if (this.#answer.rows >= MOST_ROWS) throw new Enough();
        }
        await this.#take(batch);
      });
    } catch (thrown) {
      if (thrown instanceof Enough) isWhole = false;
      else error = failureText(thrown);
    }
    return { ...this.#answer, isWhole, error, samples: this.#samples, faults: this.#faults };
  }

  async #take(batch: readonly ImportRow[]): Promise<void> {
    if (batch.length === 0) return;
    this.#answer.rows += rowsIn(batch);
    const good = batch.filter(({ faults }) => faults.length === 0);
    for (const { row, faults } of batch) if (faults.length > 0) this.#refuse(row, faults);
    this.#answer.joined += rowsIn(good) - good.length;
    try {
      await this.#database.transaction(async (sql) => {
        const prepared = await kindOf(this.#options).prepare(
          { sql, catalogue: this.#compiled.catalogue, now: this.#now },
          good.map(({ write }) => write as Written),
          this.#options,
          { kind: 'import', ref: 'rehearsal' },
        );
        await this.#tell(sql, good, prepared);
        throw new Rehearsed();
      });
    } catch (thrown) {
      if (!(thrown instanceof Rehearsed)) throw thrown;
    }
  }

  #refuse(
    row: number,
    faults: readonly { readonly path: readonly (string | number)[]; readonly code: string; readonly expected: string }[],
  ): void {
    this.#answer.faulty += 1;
    if (this.#faults.length < KEPT_FAULTS) this.#faults.push({ row, faults: faults.map((fault) => ({ ...fault, path: [...fault.path] })) });
  }

  async #tell(sql: Sql, rows: readonly ImportRow[], { entries, results }: PreparedEdits): Promise<void> {
    const { catalogue } = this.#compiled;
    const subjects = [...new Set(results.flatMap(({ subject }) => subject ?? []))];
    const states = await loadStates(sql, catalogue, subjects, this.#compiled.needs);
    for (const state of states.values())
      pass(this.#compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'rehearsal' } }, this.#now);
    const known = await knownAs(sql, subjects);
    const waiting = new Map<number, readonly InboxEntry[]>();
    for (const entry of entries) waiting.set(entry.contactId, [...(waiting.get(entry.contactId) ?? []), entry]);
    /** Takes the next of its entries that is of this kind. */
    const nextFor = (subject: number | undefined, kind: Worked['kind']): Worked[] => {
      const entry = waiting.get(subject ?? -1)?.find((each): each is Worked => each.kind === kind);
      if (entry === undefined || subject === undefined) return [];
      waiting.set(
        subject,
        (waiting.get(subject) ?? []).filter((each) => each !== entry),
      );
      return [entry];
    };
    const isOfSignals = this.#options.of === 'signal';
    results.forEach((result, index) => {
      const row = rows[index] as ImportRow;
      if (result.status === 'rejected') {
        for (const each of eachOf(row)) this.#refuse(each.row, result.faults ?? []);
        this.#answer.joined -= row.more?.length ?? 0;
        return;
      }
      const { subject } = result;
      const state = subject === undefined ? undefined : states.get(subject);
      const isSkipped = result.status === 'skipped';
      const hasEdit = isOfSignals ? (row.write as SignalRow).contact !== undefined : !isSkipped;
      const work = [...(hasEdit ? nextFor(subject, 'edit') : []), ...(isOfSignals && !isSkipped ? nextFor(subject, 'signal') : [])];
      const effects = state ? work.flatMap((entry) => this.#work(state, entry)) : [];
      const key = kindOf(this.#options).keyOf(row.write as Written, this.#options);
      const subjectKnown = subject === undefined ? undefined : known.get(subject);
      if (isOfSignals && !isSkipped)
        return this.#signal(row.row, key, work.some((entry) => this.#makes(entry)) ? undefined : subjectKnown, effects);
      if (result.status === 'created') {
        // In a batch of its own a later row of the same person would make them again.
        if (this.#made.has(key)) this.#answer.unchanged += 1;
        else {
          this.#made.add(key);
          this.#answer.created += 1;
          this.#sample({ row: row.row, contact: null, name: key, isNew: true, changes: [] });
        }
        return;
      }
      const own = effects.filter(({ parent, kind }) => parent === undefined && !FOLLOWS.has(kind));
      if (own.length === 0 && !isCompleted(result)) {
        this.#answer.unchanged += 1;
        return;
      }
      this.#answer.changed += 1;
      const changes = own.map((effect) => changeWords(effect, catalogue));
      const { of } = this.#options;
      const name = of === 'deal' ? key : (subjectKnown?.name ?? key);
      this.#sample({ row: row.row, contact: of === 'contact' ? result.uid : null, name, isNew: false, changes });
    });
  }

  /** A signal that had not come before, with all that follows from it. */
  #signal(row: number, key: string, known: Known | undefined, effects: readonly Effect[]): void {
    this.#answer.created += 1;
    const { catalogue } = this.#compiled;
    const changes = effects.filter((effect) => !isOfBeingMade(effect, catalogue)).map((effect) => changeWords(effect, catalogue));
    // Whom an earlier row would have made has no page to go to.
    if (known === undefined) this.#made.add(key);
    const contact = known && !this.#made.has(key) ? known.uid : null;
    this.#sample({ row, contact, name: known?.name || key, isNew: known === undefined, changes });
  }

  /** Whether it brings what a contact is made with. */
  #makes(entry: Worked): boolean {
    if (entry.kind === 'signal') return entry.payload.made !== undefined;
    return (this.#compiled.catalogue.find('field', 'added')?.id ?? -1) in (entry.payload.fields ?? {});
  }

  #work(state: SubjectState, entry: Worked): readonly Effect[] {
    const row = { ...entry, seq: 0, contact_id: state.id, arrived_at: new Date(this.#now) };
    return pass(this.#compiled, state, arrivalOf(row, this.#compiled.catalogue, new Map()), this.#now);
  }

  #sample(sample: ImportRehearsal['samples'][number]): void {
    if (this.#samples.length < SAMPLES) this.#samples.push(sample);
  }
}

/** What follows by itself from what a row changes. */
const FOLLOWS: ReadonlySet<Effect['kind']> = new Set(['membership', 'band', 'firing']);
const isCompleted = (result: EditResult): boolean => result.isCompleted === true;

/** What says no more than that somebody is new. */
const isOfBeingMade = (effect: Effect, catalogue: Catalogue): boolean =>
  effect.kind === 'contact' ||
  (effect.kind === 'field' && ownFields.includes(catalogue.get('field', effect.definitionId ?? -1)?.key ?? ''));

/** A field with what stood there and what would; everything else as the ledger tells it. */
function changeWords(effect: Effect, catalogue: Catalogue): string {
  const entry = entryOf(effect);
  if (effect.kind !== 'field') return effectWords(entry, catalogue);
  const { before, after } = entry as { readonly before?: unknown; readonly after?: unknown };
  const shown = (value: unknown): string => String(shownValue(entry, value, catalogue) ?? 'nothing');
  return `${thingOf(entry, catalogue)?.name ?? 'a field'}: ${shown(before)} → ${shown(after)}`;
}

type Worked = Extract<InboxEntry, { readonly kind: 'edit' | 'signal' }>;

interface Known {
  readonly id: number;
  readonly uid: string;
  readonly name: string;
}

async function knownAs(sql: Sql, ids: readonly number[]): Promise<ReadonlyMap<number, Known>> {
  const rows = await sql.query<Known>(
    `select id, uid, name from contact where id = any($1::bigint[]) union all select id, uid, name from company where id = any($1::bigint[])`,
    [ids],
  );
  return new Map(rows.map((row) => [row.id, row]));
}
