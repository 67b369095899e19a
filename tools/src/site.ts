import { setTimeout as pause } from 'node:timers/promises';
import { type DemoNews } from '@eager-sieve/contracts';
import { ToldError } from './say';
import { startServer, stopServer, type RunningServer } from './server';

const TOLD_MS = 1_500;

interface SiteOptions {
  readonly databaseUrl: string;
  /** Lets the demo live through its past at a server of its own, and says which that is. */
  readonly furnish: (began: (story: RunningServer) => void) => Promise<void>;
  readonly endedByItself: (status: number | null) => void;
}

/** The server of an installation. When its first person asks for the demo, another one stands in its place until the demo is loaded. */
export class Site {
  readonly #options: SiteOptions;
  #server: RunningServer;
  #isOver = false;

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
    child.on('message', (message: { asks?: 'demo' }) => message.asks === 'demo' && void this.#loadDemo());
    child.once('exit', (status) => {
      if (!this.#isOver && this.#server.child === child) this.#options.endedByItself(status);
    });
  }

  async #loadDemo(): Promise<void> {
    const { databaseUrl, furnish } = this.#options;
    const { child, port } = this.#server;
    let isLoaded = false;
    try {
      // Whoever asked for it is still told that it has begun.
      await pause(TOLD_MS);
      child.removeAllListeners('exit');
      await stopServer(this.#server);
      await furnish((story) => (this.#server = story));
      isLoaded = true;
    } catch (error) {
      if (!this.#isOver) console.error(error instanceof ToldError ? error.message : error);
    }
    if (this.#isOver) return;
    try {
      this.#server = await startServer(databaseUrl, port);
    } catch (error) {
      console.error(error instanceof ToldError ? error.message : error);
      return this.#options.endedByItself(1);
    }
    this.#attend();
    const news: DemoNews = { demo: 'failed' };
    if (!isLoaded) this.#server.child.send(news);
  }
}
