import { Client } from 'pg';
import { type Database } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { buildStep } from './builds';
import { type Clock, DatabaseClock } from './clock';
import { WAKE } from './inbox';
import { KeptStates } from './kept-states';
import { leaveLanes } from './queries/busy-lanes';
import { setAsideWhatFails } from './set-aside';
import { turn, USUAL, type Portion } from './turn';
import { WorkDelays } from './work-delays';

/** Notifications can be lost with a connection, so workers also look for work at this interval. */
const POLL_MS = 250;
const SET_CLOCK_EVERY_MS = 60_000;
const MOST_ERROR_PAUSE_MS = 10_000;
const TRIES_BEFORE_ASIDE = 2;

/** One turn computes while another waits for the database. */
const WORKERS = 2;

/** How many workers a process runs, unless SIEVE_WORKERS says otherwise. */
export const workersWanted = (): number => Number(process.env['SIEVE_WORKERS'] ?? WORKERS);

export interface WorkerLog {
  error(what: object, message: string): void;
  info(what: object, message: string): void;
}

/** Works inboxes, due times and builds until stopped. Any number of workers can run side by side, in one or many processes. */
export class Worker {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  readonly #clock: Clock;
  readonly #url: string;
  readonly #owner: string;
  readonly #log: WorkerLog;
  #stopping = false;
  #wake: (() => void) | undefined;
  #woken = false;
  #running: Promise<void> | undefined;
  #listener: Client | undefined;
  readonly #portion: Portion;
  readonly #extra: (() => Promise<boolean>)[];
  readonly #delays = new WorkDelays();
  readonly #kept = new KeptStates();

  /**
   * @param extra further work of the same kind, such as the outbox: does one piece, and says whether there was one
   * @param portion how much it takes in a turn
   */
  constructor(
    database: Database,
    store: DefinitionStore,
    clock: Clock,
    url: string,
    owner: string,
    log: WorkerLog,
    extra: (() => Promise<boolean>)[] = [],
    portion = USUAL,
  ) {
    this.#portion = portion;
    this.#database = database;
    this.#store = store;
    this.#clock = clock;
    this.#url = url;
    this.#owner = owner;
    this.#log = log;
    this.#extra = extra;
  }

  start(): void {
    this.#running ??= this.#run();
  }

  /** Takes no more, ends the turn that is under way, and comes back. */
  async stop(): Promise<void> {
    this.#stopping = true;
    this.#wake?.();
    await this.#running;
    await this.#delays.writeDown(this.#database, Date.now(), true).catch(() => undefined);
    await leaveLanes(this.#database, this.#owner).catch(() => undefined);
    await this.#listener?.end().catch(() => undefined);
  }

  async #run(): Promise<void> {
    let lastClock = 0;
    let errors = 0;
    let ofOthers = true;
    while (!this.#stopping) {
      try {
        await this.#listen();
        if (this.#clock instanceof DatabaseClock && Date.now() - lastClock > SET_CLOCK_EVERY_MS) {
          await this.#clock.set(this.#database);
          lastClock = Date.now();
        }
        let busy = await this.#work({ ofOthers, ...this.#portion });
        for (const extra of this.#extra) busy = (await extra()) || busy;
        await this.#delays.writeDown(this.#database, Date.now());
        errors = 0;
        // Lanes of a worker that is no more are taken over when there is nothing else to do.
        ofOthers = !busy && !(await this.#rest(POLL_MS));
      } catch (error) {
        errors += 1;
        this.#log.error({ err: error }, 'a turn failed and was undone whole; it will be tried again');
        if (errors >= TRIES_BEFORE_ASIDE) await this.#setAside();
        await this.#rest(Math.min(MOST_ERROR_PAUSE_MS, 100 * 2 ** errors));
      }
    }
  }

  /** A turn, or else a step of a build. @returns whether there was anything to do */
  async #work(portion: Portion): Promise<boolean> {
    if ((await turn(this.#database, this.#store, this.#clock, this.#owner, portion, this.#delays, this.#kept)) > 0) return true;
    return buildStep(this.#database, this.#store, this.#clock);
  }

  /** What fails again and again, and nothing else, is set aside. */
  async #setAside(): Promise<void> {
    try {
      const aside = await setAsideWhatFails(this.#database, this.#store, this.#clock, this.#owner);
      if (aside > 0) this.#log.error({ aside }, 'what could not be worked was set aside');
    } catch (error) {
      this.#log.error({ err: error }, 'nothing was set aside; it will be tried again');
    }
  }

  async #listen(): Promise<void> {
    if (this.#listener) return;
    const listener = new Client({ connectionString: this.#url, application_name: 'eager-sieve wake' });
    listener.on('notification', () => {
      this.#woken = true;
      this.#wake?.();
    });
    listener.on('error', () => {
      this.#listener = undefined;
    });
    await listener.connect();
    await listener.query(`listen ${WAKE}`);
    this.#listener = listener;
  }

  /** @returns whether it was woken */
  #rest(ms: number): Promise<boolean> {
    if (this.#woken || this.#stopping) {
      this.#woken = false;
      return Promise.resolve(true);
    }
    return new Promise((resolve) => {
      const done = (isWoken: boolean): void => {
        clearTimeout(timer);
        this.#wake = undefined;
        this.#woken = false;
        resolve(isWoken);
      };
      const timer = setTimeout(() => done(false), ms);
      this.#wake = () => done(true);
    });
  }
}
