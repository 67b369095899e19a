import { setTimeout as pause } from 'node:timers/promises';
import { Client } from 'pg';

/** Notifications can be lost with a connection, so a round is also made at this interval. */
const POLL_MS = 250;
const MOST_ERROR_PAUSE_MS = 10_000;

export interface RoundsOptions {
  readonly url: string;
  /** of its connection, by which it can be found */
  readonly name: string;
  /** channels of the database that wake it */
  readonly channels: readonly string[];
  /** Does a piece of work. @returns whether there was any: then the next round follows at once */
  readonly round: (isRested: boolean) => Promise<boolean>;
  /** @param times how often in a row rounds have failed */
  readonly failed: (error: unknown, times: number) => void | Promise<void>;
  /** rounds follow each other no sooner than after so many ms */
  readonly apartMs?: number;
}

/** Makes rounds until stopped: one after the other while there is something to do, else when it is woken, and from time to time. */
export class Rounds {
  readonly #options: RoundsOptions;
  #stopping = false;
  #wake: (() => void) | undefined;
  #woken = false;
  #running: Promise<void> | undefined;
  #listener: Client | undefined;

  constructor(options: RoundsOptions) {
    this.#options = options;
  }

  start(): void {
    this.#running ??= this.#run();
  }

  /** Ends the round that is under way, and comes back. */
  async stop(): Promise<void> {
    this.#stopping = true;
    this.#wake?.();
    await this.#running;
    await this.#listener?.end().catch(() => undefined);
  }

  async #run(): Promise<void> {
    const { round, failed, apartMs = 0 } = this.#options;
    let errors = 0;
    let isRested = true;
    while (!this.#stopping) {
      try {
        await this.#listen();
        const isBusy = await round(isRested);
        errors = 0;
        if (apartMs > 0 && !this.#stopping) await pause(apartMs);
        isRested = !isBusy && !(await this.#rest(POLL_MS));
      } catch (error) {
        errors += 1;
        await failed(error, errors);
        await this.#rest(Math.min(MOST_ERROR_PAUSE_MS, 100 * 2 ** errors));
      }
    }
  }

  async #listen(): Promise<void> {
    if (this.#listener) return;
    const listener = new Client({ connectionString: this.#options.url, application_name: this.#options.name });
    listener.on('notification', () => {
      this.#woken = true;
      this.#wake?.();
    });
    listener.on('error', () => {
      this.#listener = undefined;
    });
    await listener.connect();
    await listener.query(this.#options.channels.map((channel) => `listen ${channel}`).join('; '));
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
