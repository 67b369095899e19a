import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { wrap, type Remote } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { type Logger } from 'pino';
import { type CountAnswer } from '@eager-sieve/contracts';
import { type Database } from '../database/database';
import { type AppOptions } from '../http/app-options';
import { DefinitionStore } from '../settings/definition-store';
import { CountingIndex, type CountingState } from './counting-index';

/** The same calls, in this thread or another. */
type Index = CountingIndex | Remote<CountingIndex>;

/** What is given to the thread. */
export interface ThreadData {
  readonly databaseUrl: string;
}

/** Asks the counting index, wherever it is. With none, or one that fails, everything is left to SQL. */
export class CountingService implements OnModuleInit, OnApplicationShutdown {
  readonly #database: Database;
  readonly #databaseUrl: string;
  readonly #where: AppOptions['counting'];
  readonly #log: Logger;
  #index: Index | undefined;
  #thread: Worker | undefined;
  /** settles with the thread, whose calls would wait for ever for one that has ended */
  #ended: Promise<undefined> = new Promise(() => undefined);

  constructor(database: Database, databaseUrl: string, where: AppOptions['counting'], log: Logger) {
    this.#database = database;
    this.#databaseUrl = databaseUrl;
    this.#where = where;
    this.#log = log;
  }

  onModuleInit(): void {
    if (this.#where === 'here') {
      const index = new CountingIndex(this.#database, new DefinitionStore());
      index.start();
      this.#index = index;
    } else if (this.#where === 'thread') this.#startThread();
  }

  async onApplicationShutdown(): Promise<void> {
    const [index, thread] = [this.#index, this.#thread];
    this.#index = undefined;
    this.#thread = undefined;
    if (index) await Promise.race([Promise.resolve(index.stop()).catch(() => undefined), this.#ended]);
    await thread?.terminate();
  }

  /** Undefined where SQL should be asked. */
  count(...question: Parameters<CountingIndex['count']>): Promise<CountAnswer | undefined> {
    return this.#ask((index) => index.count(...question));
  }

  /** Undefined where SQL should be asked. */
  newest(...question: Parameters<CountingIndex['newest']>): Promise<readonly number[] | undefined> {
    return this.#ask((index) => index.newest(...question));
  }

  async state(): Promise<CountingState | 'none'> {
    return (await this.#ask(async (index) => index.state())) ?? 'none';
  }

  #startThread(): void {
    const data: ThreadData = { databaseUrl: this.#databaseUrl };
    const thread = new Worker(join(__dirname, 'thread.js'), { workerData: data });
    this.#ended = new Promise((resolve) => {
      thread.on('error', (error) => this.#log.error({ err: error }, 'the counting thread failed; SQL counts from now on'));
      thread.on('exit', () => {
        this.#index = undefined;
        resolve(undefined);
      });
    });
    this.#thread = thread;
    this.#index = wrap<CountingIndex>(nodeEndpoint(thread));
  }

  async #ask<Answer>(ask: (index: Index) => Promise<Answer>): Promise<Answer | undefined> {
    if (!this.#index) return undefined;
    try {
      return await Promise.race([ask(this.#index), this.#ended]);
    } catch (error) {
      this.#log.error({ err: error }, 'the counting index could not answer; SQL is asked instead');
      return undefined;
    }
  }
}
