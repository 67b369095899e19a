import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { wrap, type Remote } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { type Logger } from 'pino';
import { type RowInOrder } from '@eager-sieve/core';
import { type CountAnswer } from '@eager-sieve/contracts';
import { type Database } from '../database/database';
import { type FoundMoves, type MovesQuestion } from '../engine/find-moves';
import { type AppOptions } from '../http/app-options';
import { DefinitionStore } from '../settings/definition-store';
import { ProblemError } from '../http/problem';
import { CountingIndex, type CountingState, type Question } from './counting-index';
import { IndexSnapshot } from './index-snapshot';

const FIRST_PAUSE_MS = 500;
const LONGEST_PAUSE_MS = 60_000;

/** The same calls, in this thread or another. */
type Index = CountingIndex | Remote<CountingIndex>;

/** A name that tells databases apart, and stays when one is reached by another port. */
function fileNameOf(databaseUrl: string): string {
  const { hostname, pathname } = new URL(databaseUrl);
  return `counting-${createHash('sha256')
    .update(hostname + pathname)
    .digest('hex')
    .slice(0, 16)}`;
}

/** A count that took too long. */
export const tooSlow = (): ProblemError =>
  new ProblemError(503, 'count.slow', 'This takes too long to count. Ask with fewer lines, or in parts.', { retryAfterSeconds: 5 });

/** What is given to the thread. */
export interface ThreadData {
  readonly databaseUrl: string;
  /** from which everyone is loaded at the start */
  readonly replicaUrl: string | undefined;
  /** in which the index is kept between two starts */
  readonly snapshotFile: string | undefined;
}

export type CountingOptions = Pick<AppOptions, 'database' | 'databaseUrl' | 'replicaUrl' | 'counting' | 'snapshotFolder'>;

/** Asks the counting index, wherever it is. With none, or one that fails, everything is left to SQL. */
export class CountingService implements OnModuleInit, OnApplicationShutdown {
  readonly #database: Database;
  readonly #given: ThreadData;
  readonly #where: AppOptions['counting'];
  readonly #log: Logger;
  #index: Index | undefined;
  #asks = 0;
  #again: NodeJS.Timeout | undefined;
  #againAfterMs = FIRST_PAUSE_MS;
  #thread: Worker | undefined;
  #stopping: Promise<void> | undefined;
  /** settles with the thread, whose calls would wait for ever for one that has ended */
  #ended: Promise<undefined> = new Promise(() => undefined);

  constructor({ database, databaseUrl, replicaUrl, counting, snapshotFolder }: CountingOptions, log: Logger) {
    this.#database = database;
    this.#given = { databaseUrl, replicaUrl, snapshotFile: snapshotFolder && join(snapshotFolder, fileNameOf(databaseUrl)) };
    this.#where = counting;
    this.#log = log;
  }

  onModuleInit(): void {
    if (this.#where === 'here') {
      const { snapshotFile } = this.#given;
      const index = new CountingIndex(
        this.#database,
        new DefinitionStore(),
        this.#database,
        snapshotFile === undefined ? undefined : new IndexSnapshot(snapshotFile, this.#log),
      );
      index.start();
      this.#index = index;
    } else if (this.#where === 'thread') this.#startThread();
    // What was kept before would hold whoever is erased from now on.
    else if (this.#given.snapshotFile !== undefined)
      void new IndexSnapshot(this.#given.snapshotFile, this.#log).forget().catch(() => undefined);
  }

  /** The same end for everyone who asks: what the index writes down is waited for. */
  onApplicationShutdown(): Promise<void> {
    return (this.#stopping ??= this.#stop());
  }

  async #stop(): Promise<void> {
    const [index, thread] = [this.#index, this.#thread];
    this.#index = undefined;
    this.#thread = undefined;
    clearTimeout(this.#again);
    if (index) await Promise.race([Promise.resolve(index.stop()).catch(() => undefined), this.#ended]);
    await thread?.terminate();
  }

  /**
   * Undefined where SQL should be asked, and where nobody waits any more.
   *
   * @param waited by which it is given up when nobody waits
   * @throws ProblemError 503 if it took too long
   */
  async count(question: Question, sieve: boolean, waited?: AbortSignal): Promise<CountAnswer | undefined> {
    const ask = (this.#asks += 1);
    const giveUp = (): void => void this.#ask((index) => Promise.resolve(index.giveUp(ask)));
    waited?.addEventListener('abort', giveUp, { once: true });
    try {
      const answer = await this.#ask((index) => index.count(question, sieve, ask));
      if (answer === 'slow') throw tooSlow();
      return answer;
    } finally {
      waited?.removeEventListener('abort', giveUp);
    }
  }

  /** Undefined where SQL should be asked. */
  newest(...question: Parameters<CountingIndex['newest']>): Promise<readonly number[] | undefined> {
    return this.#ask((index) => index.newest(...question));
  }

  /** Undefined where SQL should be asked. */
  few(...question: Parameters<CountingIndex['few']>): Promise<readonly number[] | null | undefined> {
    return this.#ask((index) => index.few(...question));
  }

  /** Undefined where SQL should be asked. */
  inOrder(...question: Parameters<CountingIndex['inOrder']>): Promise<readonly RowInOrder[] | undefined> {
    return this.#ask((index) => index.inOrder(...question));
  }

  /** Undefined where it cannot be told just now. */
  moves(question: MovesQuestion): Promise<FoundMoves | undefined> {
    return this.#ask((index) => index.moves(question));
  }

  async state(): Promise<CountingState | 'none'> {
    return (await this.#ask(async (index) => index.state())) ?? 'none';
  }

  #startThread(): void {
    const thread = new Worker(join(__dirname, 'thread.js'), { workerData: this.#given });
    this.#ended = new Promise((resolve) => {
      thread.on('error', (error) => this.#log.error({ err: error }, 'the counting thread failed; SQL counts until it has been begun anew'));
      thread.on('exit', () => {
        if (this.#thread === thread) this.#startAgain();
        resolve(undefined);
      });
    });
    this.#thread = thread;
    this.#index = wrap<CountingIndex>(nodeEndpoint(thread));
  }

  /** It is begun anew after a moment, which grows while it keeps failing. */
  #startAgain(): void {
    this.#index = undefined;
    this.#thread = undefined;
    this.#again = setTimeout(() => this.#startThread(), this.#againAfterMs);
    this.#againAfterMs = Math.min(LONGEST_PAUSE_MS, this.#againAfterMs * 2);
  }

  async #ask<Answer>(ask: (index: Index) => Promise<Answer>): Promise<Answer | undefined> {
    if (!this.#index) return undefined;
    try {
      const answer = await Promise.race([ask(this.#index), this.#ended]);
      if (answer !== undefined) this.#againAfterMs = FIRST_PAUSE_MS;
      return answer;
    } catch (error) {
      this.#log.error({ err: error }, 'the counting index could not answer; SQL is asked instead');
      return undefined;
    }
  }
}
