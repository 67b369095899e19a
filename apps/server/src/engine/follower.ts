import { EventEmitter } from 'node:events';
import { Client } from 'pg';
import { type Database } from '../database/database';
import { ProblemError } from '../http/problem';
import { feedAfter, newestRevisions, type Moved } from './feed';
import { MOVED } from './inbox';

const POLL_MS = 250;
const LISTEN_AGAIN_MS = 1_000;

/**
 * Follows the feed: emits every revision of every lane once, in order. It keeps one revision a lane and asks for what is newer,
 * so a lost notification costs a moment and never an event.
 */
export class Follower {
  readonly events = new EventEmitter<{ moved: [readonly Moved[]] }>();
  readonly #database: Database;
  readonly #url: string;
  #revisions = new Map<number, number>();
  #client: Client | undefined;
  #timer: NodeJS.Timeout | undefined;
  #listening: NodeJS.Timeout | undefined;
  #reading = false;
  #again = false;
  #stopped = false;

  constructor(database: Database, url: string) {
    this.#database = database;
    this.#url = url;
    this.events.setMaxListeners(0);
  }

  async start(): Promise<void> {
    this.#revisions = await newestRevisions(this.#database);
    await this.#listen();
    this.#timer = setInterval(() => void this.#read(), POLL_MS);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    clearInterval(this.#timer);
    clearTimeout(this.#listening);
    await this.#client?.end().catch(() => undefined);
  }

  async #listen(): Promise<void> {
    const client = new Client({ connectionString: this.#url, application_name: 'eager-sieve feed' });
    client.on('notification', () => void this.#read());
    client.on('error', () => {
      this.#client = undefined;
      this.#listenAgain();
    });
    await client.connect();
    await client.query(`listen ${MOVED}`);
    this.#client = client;
  }

  /** Reconnects once the database is back. Meanwhile the timer reads what moved. */
  #listenAgain(): void {
    if (this.#stopped || this.#listening) return;
    this.#listening = setTimeout(() => {
      this.#listening = undefined;
      void this.#listen().catch(() => this.#listenAgain());
    }, LISTEN_AGAIN_MS);
  }

  async #read(): Promise<void> {
    if (this.#stopped) return;
    if (this.#reading) {
      this.#again = true;
      return;
    }
    this.#reading = true;
    try {
      do {
        this.#again = false;
        const rows = await feedAfter(this.#database, this.#revisions);
        if (rows.length > 0) this.events.emit('moved', rows);
      } while (this.#again && !this.#stopped);
    } catch {
      // The database is unreachable: the next tick retries from the same revisions.
    } finally {
      this.#reading = false;
    }
  }

  /**
   * Waits until these inbox rows have been worked. Returns false after `timeoutMs`.
   *
   * @throws ProblemError where one of them cannot be worked
   */
  async worked(seqs: readonly number[], timeoutMs = 10_000): Promise<boolean> {
    if (seqs.length === 0) return true;
    const end = Date.now() + timeoutMs;
    for (;;) {
      // Whether any is left takes half as long as how many: 0.3 ms and 0.65 for 300.
      const [row] = await this.#database.query<{ waiting: boolean; aside: boolean }>(
        `select exists (select from inbox where seq = any($1::bigint[])) as waiting,
                exists (select from set_aside where seq = any($1::bigint[])) as aside`,
        [seqs],
      );
      if (row?.aside)
        throw new ProblemError(500, 'set-aside', 'Some of this was accepted and could not be worked.', {
          detail:
            'It was set aside and is kept: Intake shows it, and lets you try it again. The rest was done, and need not be sent again.',
        });
      if (!row?.waiting) return true;
      const left = end - Date.now();
      if (left <= 0) return false;
      await new Promise<void>((resolve) => {
        const done = (): void => {
          clearTimeout(timer);
          this.events.off('moved', done);
          resolve();
        };
        const timer = setTimeout(done, Math.min(100, left));
        this.events.once('moved', done);
      });
    }
  }
}
