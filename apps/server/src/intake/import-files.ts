import { type Readable } from 'node:stream';
import { type Database } from '../database/database';
import { isDatabaseAway } from '../http/away';
import { UploadStopped } from '../http/uploads';
import { ImportError } from './import-formats';

const MAX_FILE_BYTES = 2 * 1024 ** 3;
/** So many pieces are read at once; each is what had come while the one before it was kept. */
const READ_AT_ONCE = 4;

/** The import is in other hands: this process was not heard of for too long. */
export class ImportTaken extends Error {
  override readonly name = 'ImportTaken';
}

/** A file that is being kept in the database as it comes, so that whoever goes on with the import has it. */
export class ArrivingFile {
  #isOver = false;
  #failure: unknown;
  #wake: (() => void) | undefined;
  readonly #database: Database;
  readonly #id: number;

  constructor(database: Database, id: number) {
    this.#database = database;
    this.#id = id;
  }

  /** Keeps what comes behind what is kept already, up to the end of the file. A failure is told to who reads. */
  async keep(file: Readable, holder: string): Promise<void> {
    let failure: unknown;
    try {
      for await (const bytes of file as AsyncIterable<Buffer>) {
        await this.#add(bytes, holder);
        this.#wake?.();
      }
      await this.#database.query('update import_run set is_whole = true, bytes = stored where id = $1 and holder = $2', [this.#id, holder]);
    } catch (error) {
      // Whatever the sender's side says when it goes away, to the reader the file stopped coming.
      failure = error instanceof ImportError || error instanceof ImportTaken || isDatabaseAway(error) ? error : new UploadStopped();
    }
    this.end(failure);
  }

  /**
   * Nothing more will come.
   *
   * @param failure why what came is not all of the file
   */
  end(failure?: unknown): void {
    this.#failure = failure;
    this.#isOver = true;
    this.#wake?.();
  }

  async #add(bytes: Buffer, holder: string): Promise<void> {
    const [run] = await this.#database.query<{ stored: number }>(
      `with run as (
         update import_run set stored = stored + length($2::bytea) where id = $1 and holder = $3 and state = 'running' returning id, stored
       ), piece as (
         insert into import_piece (import_id, starts_at, bytes) select id, stored - length($2::bytea), $2 from run
       )
       select stored from run`,
      [this.#id, bytes, holder],
    );
    if (!run) throw new ImportTaken();
    if (run.stored > MAX_FILE_BYTES) throw new ImportError('The file is larger than 2 GB. Import it in parts.');
  }

  /** All of the file, waiting for what has not come yet. */
  async *read(): AsyncGenerator<Buffer> {
    let at = 0;
    for (;;) {
      // Looked at before the pieces: what came before the end is then among them.
      const isOver = this.#isOver;
      const woken = new Promise<void>((resolve) => (this.#wake = resolve));
      const pieces = await this.#database.query<{ bytes: Buffer }>(
        'select bytes from import_piece where import_id = $1 and starts_at >= $2 order by starts_at limit $3',
        [this.#id, at, READ_AT_ONCE],
      );
      for (const { bytes } of pieces) {
        at += bytes.length;
        yield bytes;
      }
      if (pieces.length > 0) continue;
      if (isOver) {
        if (this.#failure !== undefined) throw this.#failure;
        return;
      }
      await woken;
    }
  }
}
