import { EventEmitter } from 'node:events';
import { Client } from 'pg';
import { type Database } from '../database/database';
import { type FeedDelta } from './feed';
import { MOVED } from './inbox';

const POLL_MS = 250;

export interface Moved {
  readonly lane: number;
  readonly gen: number;
  readonly delta: FeedDelta;
}

/**
 * Follows the feed: emits every gen of every lane once, in order. It keeps one gen a lane and asks for what is newer,
 * so a lost notification costs a moment and never an event.
 */
export class Follower {
  readonly events = new EventEmitter<{ moved: [readonly Moved[]] }>();
  readonly #database: Database;
  readonly #url: string;
  readonly #gens = new Map<number, number>();
  #client: Client | undefined;
  #timer: NodeJS.Timeout | undefined;
  #reading = false;
  #again = false;
  #stopped = false;

  constructor(database: Database, url: string) {
    this.#database = database;
    this.#url = url;
    this.events.setMaxListeners(0);
  }

  async start(): Promise<void> {
    for (const row of await this.#database.query<{ lane: number; gen: number }>('select lane, gen from lane'))
      this.#gens.set(row.lane, row.gen);
    await this.#listen();
    this.#timer = setInterval(() => void this.#read(), POLL_MS);
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    clearInterval(this.#timer);
    await this.#client?.end().catch(() => undefined);
  }

  async #listen(): Promise<void> {
    const client = new Client({ connectionString: this.#url, application_name: 'eager-sieve feed' });
    client.on('notification', () => void this.#read());
    client.on('error', () => {
      this.#client = undefined;
      if (!this.#stopped) setTimeout(() => void this.#listen().catch(() => undefined), 1_000);
    });
    await client.connect();
    await client.query(`listen ${MOVED}`);
    this.#client = client;
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
        const lanes = [...this.#gens];
        const rows = await this.#database.query<Moved>(
          // Lateral: one short look into the key for each lane, however long the feed has become.
          `select f.lane, f.gen, f.delta from unnest($1::smallint[], $2::bigint[]) as r(lane, gen)
             cross join lateral (select lane, gen, delta from feed where lane = r.lane and gen > r.gen order by gen limit 1000) f
            order by f.lane, f.gen`,
          [lanes.map(([lane]) => lane), lanes.map(([, gen]) => gen)],
        );
        for (const row of rows) this.#gens.set(row.lane, row.gen);
        if (rows.length > 0) this.events.emit('moved', rows);
      } while (this.#again && !this.#stopped);
    } catch {
      // The database is away: the next tick asks again from where the gens stand.
    } finally {
      this.#reading = false;
    }
  }

  /** Waits until these inbox rows have been worked. False when that took longer than `timeoutMs`. */
  async worked(seqs: readonly number[], timeoutMs = 10_000): Promise<boolean> {
    if (seqs.length === 0) return true;
    const end = Date.now() + timeoutMs;
    for (;;) {
      const [row] = await this.#database.query<{ waiting: number }>('select count(*) as waiting from inbox where seq = any($1::bigint[])', [
        seqs,
      ]);
      if (row?.waiting === 0) return true;
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
