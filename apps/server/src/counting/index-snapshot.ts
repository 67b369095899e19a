import { rm } from 'node:fs/promises';
import { type Logger } from 'pino';
import { ContactColumns, type DumpedPart } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { readSnapshot, writeSnapshot } from './snapshot-file';

/** Raised whenever columns are packed in another way, or what was in them could be wrong: what was written before is not read then. */
const FORMAT = 2;

/** What the index knew when it was written down. */
export interface KeptIndex {
  readonly columns: ContactColumns;
  /** up to which revision of each lane it is in */
  readonly revisions: ReadonlyMap<number, number>;
  /** whom the feed named and who were not loaded anew yet */
  readonly changed: readonly number[];
  /** how stored values were read */
  readonly reading: ReadonlyMap<string | number, string>;
}

interface Header extends Omit<KeptIndex, 'columns'> {
  readonly format: number;
  readonly schema: string;
  readonly marks: readonly string[];
}

/** The counting index in a file, so that a start takes seconds. It is only taken for the database from which it came, as far as that has gone on since. */
export class IndexSnapshot {
  readonly #file: string;
  readonly #log: Logger;

  constructor(file: string, log: Logger) {
    this.#file = file;
    this.#log = log;
  }

  /** The columns may not change meanwhile. What stands in the way is logged: without a snapshot the next start only takes longer. @returns whether it is written */
  async write(sql: Sql, { columns, ...known }: KeptIndex): Promise<boolean> {
    try {
      const header: Header = { ...known, format: FORMAT, schema: await schemaOf(sql), marks: await marksOf(sql, known.revisions) };
      await writeSnapshot(this.#file, headed(header, columns.dump()));
      return true;
    } catch (error) {
      this.#log.warn({ err: error }, 'the counting index could not be written down');
      return false;
    }
  }

  /** Undefined where there is none, none that can be read, or none of this database. */
  async read(sql: Sql): Promise<KeptIndex | undefined> {
    const parts = readSnapshot(this.#file);
    try {
      const first = await parts.next();
      if (first.done) return undefined;
      const { format, schema, marks, ...known } = first.value as Header;
      if (format !== FORMAT || schema !== (await schemaOf(sql))) return this.refuse('it is of another version');
      const found = await marksOf(sql, known.revisions);
      if (marks.length === 0 || marks.length !== found.length || marks.some((mark, index) => mark !== found[index]))
        return this.refuse('it is not of this database, or that has gone another way since');
      const columns = new ContactColumns();
      for await (const part of parts) columns.take(part as DumpedPart);
      return { columns, ...known };
    } catch (error) {
      this.#log.warn({ err: error }, 'the counting index that was written down could not be read; everyone is loaded from the database');
      return undefined;
    } finally {
      await parts.return(undefined);
    }
  }

  /** Says why everyone is loaded from the database instead. */
  refuse(why: string): undefined {
    this.#log.warn({ why }, 'the counting index that was written down is not taken');
    return undefined;
  }

  /** Removes it: somebody in it is to be known no more. */
  async forget(): Promise<void> {
    await rm(this.#file, { force: true });
  }
}

function* headed(header: Header, parts: Iterable<DumpedPart>): Generator<Header | DumpedPart> {
  yield header;
  yield* parts;
}

async function schemaOf(sql: Sql): Promise<string> {
  const [row] = await sql.query<{ name: string }>('select name from migration order by id desc limit 1');
  return row?.name ?? '';
}

/**
 * When each of these revisions was written. A database that was restored and went on differently has the same revisions, but not of the same
 * instants.
 */
async function marksOf(sql: Sql, revisions: ReadonlyMap<number, number>): Promise<readonly string[]> {
  const rows = await sql.query<{ mark: string }>(
    `select f.lane || '/' || f.revision || '/' || extract(epoch from f.at) as mark
       from unnest($1::smallint[], $2::bigint[]) as r(lane, revision) join feed f on f.lane = r.lane and f.revision = r.revision
      order by f.lane`,
    [[...revisions.keys()], [...revisions.values()]],
  );
  return rows.map(({ mark }) => mark);
}
