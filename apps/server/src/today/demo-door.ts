import { type DemoNews, type DemoView, type DemoWish } from '@eager-sieve/contracts';
import { conflict } from '../http/problem';

const NOT_BEGUN = { day: 0, days: 0 };

/**
 * Asks whoever started the server to load the demo, or to stop. They put another one in its place meanwhile, at which the demo lives through its
 * past, and tell it how far it is.
 */
export class DemoDoor {
  readonly #ask: ((what: DemoWish['asks']) => void) | undefined;
  #isAsked = false;
  #isStopping = false;
  #news: DemoNews['demo'] | undefined;

  /** @param ask left out where nobody is there who could load it */
  constructor(ask?: (what: DemoWish['asks']) => void) {
    this.#ask = ask;
  }

  /** @param isEmpty whether nothing has come in yet: the demo comes into no installation that is in use */
  view(isEmpty: boolean): DemoView {
    const state = this.#isStopping ? 'stopping' : 'loading';
    if (typeof this.#news === 'object') return { state, ...this.#news };
    if (this.#isAsked) return { state, ...NOT_BEGUN };
    // It ended before anything came in: it can be begun again.
    if (isEmpty) this.#news = undefined;
    if (isEmpty && this.#ask) return { state: 'offered', ...NOT_BEGUN };
    return { state: this.#news ?? 'none', ...NOT_BEGUN };
  }

  load(isEmpty: boolean): void {
    if (this.view(isEmpty).state !== 'offered' || !this.#ask)
      throw conflict('demo.no', 'The demo comes only into an empty installation that ./sieve started.');
    this.#isAsked = true;
    this.#ask('demo');
  }

  stop(): void {
    if ((!this.#isAsked && typeof this.#news !== 'object') || !this.#ask) throw conflict('demo.none', 'No demo is being loaded.');
    if (!this.#isStopping) this.#ask('stop demo');
    this.#isStopping = true;
  }

  tell(news: DemoNews): void {
    this.#news = news.demo;
    if (typeof news.demo !== 'object') this.#isAsked = this.#isStopping = false;
  }
}
