import { once } from 'node:events';
import { join } from 'node:path';
import { Worker as Thread } from 'node:worker_threads';
import { type Portion } from './turn';
import { type WorkerLog } from './worker';

export interface ThreadData {
  readonly databaseUrl: string;
  /** distinguishes its lanes from those of the other workers of this process */
  readonly name: string;
  readonly portion: Portion;
  /** of the clock that all go by, where it is not the database's */
  readonly clock?: SharedArrayBuffer;
}
/** The one message that a thread takes: to end its turn and come back. */
export const STOP = 'stop';

const AGAIN_AFTER_MS = 1_000;
/** Far more than it needs. Without a limit it lets four times as much garbage stand as what it holds, with one at most as much again. */
const MOST_MEMORY_MB = 2_000;
/** What a turn makes and is done with is to be gone before it is taken for something that lasts. */
const YOUNG_MEMORY_MB = 192;

/** A worker in a thread of its own, which is begun anew if it ends by itself; what it was at is undone whole by the database. */
export class WorkerThread {
  readonly #data: ThreadData;
  readonly #log: WorkerLog;
  #thread: Thread | undefined;
  #stopping = false;

  constructor(data: ThreadData, log: WorkerLog) {
    this.#data = data;
    this.#log = log;
  }

  start(): void {
    const thread = new Thread(join(__dirname, 'worker-thread.js'), {
      workerData: this.#data,
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY_MB, maxYoungGenerationSizeMb: YOUNG_MEMORY_MB },
    });
    this.#thread = thread;
    thread.on('error', (error) => this.#log.error({ err: error }, 'a worker failed; it is begun anew'));
    thread.on('exit', () => {
      this.#thread = undefined;
      if (!this.#stopping) setTimeout(() => !this.#stopping && this.start(), AGAIN_AFTER_MS).unref();
    });
  }

  async stop(): Promise<void> {
    this.#stopping = true;
    const thread = this.#thread;
    if (!thread) return;
    const ended = once(thread, 'exit');
    thread.postMessage(STOP);
    await ended;
  }
}
