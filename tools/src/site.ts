import { setTimeout as pause } from 'node:timers/promises';
import { type DemoNews, type DemoWish } from '@eager-sieve/contracts';
import { ToldError } from './say';
import { startServer, stopServer, type RunningServer } from './server';

const TOLD_MS = 1_500;

interface SiteOptions {
  readonly databaseUrl: string;
  /** Lets the demo live through its past at a server of its own, and says which that is. Ends with an error once it is to stop. */
  readonly furnish: (began: (story: RunningServer) => void, toStop: AbortSignal) => Promise<void>;
  readonly endedByItself: (status: number | null) => void;
}

/** The server of an installation. When its first person asks for the demo, another one stands in its place until the demo is loaded. */
export class Site {
  readonly #options: SiteOptions;
  #server: RunningServer;
  #isOver = false;
  #loading: AbortController | undefined;

  constructor(server: RunningServer, options: SiteOptions) {
    this.#options = options;
    this.#server = server;
    this.#attend();
  }

  stop(): Promise<void> {
    this.#isOver = true;
    return stopServer(this.#server);
  }

  #attend(): void {
    const { child } = this.#server;
    this.#listen(this.#server);
    child.once('exit', (status) => {
      if (!this.#isOver && this.#server.child === child) this.#options.endedByItself(status);
    });
  }

  #listen({ child }: RunningServer): void {
    child.on('message', ({ asks }: Partial<DemoWish>) => {
      if (asks === 'demo') void this.#loadDemo();
      if (asks === 'stop demo') this.#loading?.abort();
    });
  }

  async #loadDemo(): Promise<void> {
    const { databaseUrl, furnish } = this.#options;
    const { child, port } = this.#server;
    let isLoaded = false;
    let isStopped = false;
    const loading = new AbortController();
    this.#loading = loading;
    const { signal } = loading;
    try {
      // Whoever asked for it is still told that it has begun.
      await pause(TOLD_MS);
      child.removeAllListeners('exit');
      await stopServer(this.#server);
      await furnish((story) => {
        this.#server = story;
        this.#listen(story);
      }, signal);
      isLoaded = true;
    } catch (error) {
      isStopped = signal.aborted && error === signal.reason;
      if (!this.#isOver && !isStopped) console.error(error instanceof ToldError ? error.message : error);
    }
    if (this.#isOver) return;
    try {
      this.#server = await startServer(databaseUrl, port);
    } catch (error) {
      console.error(error instanceof ToldError ? error.message : error);
      return this.#options.endedByItself(1);
    }
    this.#attend();
    this.#loading = undefined;
    const news: DemoNews = { demo: isStopped ? 'stopped' : 'failed' };
    if (!isLoaded) this.#server.child.send(news);
  }
}
