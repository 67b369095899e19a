import { type Database } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { buildStep } from './builds';
import { type Clock } from './clock';
import { every } from './every';
import { WAKE } from './inbox';
import { keepingTime } from './keeping-time';
import { KeptStates } from './kept-states';
import { leaveLanes, othersAtWork } from './queries/busy-lanes';
import { Rounds } from './rounds';
import { setAsideWhatFails } from './set-aside';
import { turn, USUAL, type Portion } from './turn';
import { WorkDelays } from './work-delays';

const TRIES_BEFORE_ASIDE = 2;
/** Who else is at work is asked so often. */
const OTHERS_EVERY_MS = 1_000;

/** One turn computes while another waits for the database. */
const WORKERS = 2;

/** How many workers a process runs, unless SIEVE_WORKERS says otherwise. */
export const workersWanted = (): number => Number(process.env['SIEVE_WORKERS'] ?? WORKERS);

export interface WorkerLog {
  error(what: object, message: string): void;
  info(what: object, message: string): void;
}

/** Work of another kind: does one piece, and says whether there was one. */
export type Extra = () => Promise<boolean>;

/** Does one piece of each. @returns whether there was any */
export async function allOf(extra: readonly Extra[]): Promise<boolean> {
  let isBusy = false;
  for (const each of extra) isBusy = (await each()) || isBusy;
  return isBusy;
}

/** Works inboxes, due times and builds until stopped. Any number of workers can run side by side, in one or many processes. */
export class Worker {
  readonly #database: Database;
  readonly #store: DefinitionStore;
  readonly #clock: Clock;
  readonly #owner: string;
  readonly #log: WorkerLog;
  readonly #portion: Portion;
  readonly #extra: readonly Extra[];
  readonly #delays = new WorkDelays();
  readonly #kept = new KeptStates();
  readonly #rounds: Rounds;
  readonly #keepTime: Extra;
  readonly #lookForOthers: Extra;
  #others: readonly string[] = [];

  /**
   * @param extra further work, such as the outbox
   * @param portion how much it takes in a turn
   */
  constructor(
    database: Database,
    store: DefinitionStore,
    clock: Clock,
    url: string,
    owner: string,
    log: WorkerLog,
    extra: readonly Extra[] = [],
    portion = USUAL,
  ) {
    this.#portion = portion;
    this.#database = database;
    this.#store = store;
    this.#clock = clock;
    this.#owner = owner;
    this.#log = log;
    this.#extra = extra;
    this.#keepTime = keepingTime(clock, database);
    this.#lookForOthers = every(
      OTHERS_EVERY_MS,
      () => Date.now(),
      async () => (this.#others = await othersAtWork(database, owner)),
    );
    this.#rounds = new Rounds({
      url,
      name: owner,
      channels: [WAKE],
      round: (isRested) => this.#round(isRested),
      failed: (error, times) => this.#failed(error, times),
    });
  }

  start(): void {
    this.#rounds.start();
  }

  /** Takes no more, ends the turn that is under way, and comes back. */
  async stop(): Promise<void> {
    await this.#rounds.stop();
    await this.#delays.writeDown(this.#database, Date.now(), true).catch(() => undefined);
    await leaveLanes(this.#database, this.#owner).catch(() => undefined);
  }

  async #round(isRested: boolean): Promise<boolean> {
    await this.#keepTime();
    await this.#lookForOthers();
    const isBusy = await this.#work({ ...this.#portion, others: isRested ? [] : this.#others });
    const more = await allOf(this.#extra);
    await this.#delays.writeDown(this.#database, Date.now());
    return isBusy || more;
  }

  /** A turn, and where it leaves nothing to do, a step of a build. @returns whether there is more to do */
  async #work(portion: Portion): Promise<boolean> {
    const { isMore, hasFollowUps } = await turn(this.#database, this.#store, this.#clock, this.#owner, portion, this.#delays, this.#kept);
    if (isMore || hasFollowUps) return true;
    return buildStep(this.#database, this.#store, this.#clock);
  }

  async #failed(error: unknown, times: number): Promise<void> {
    this.#log.error({ err: error }, 'a turn failed and was undone whole; it will be tried again');
    if (times >= TRIES_BEFORE_ASIDE) await this.#setAside();
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
}
