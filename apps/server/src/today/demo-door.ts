import { type DemoNews, type DemoView } from '@eager-sieve/contracts';
import { conflict } from '../http/problem';

const NOT_BEGUN = { day: 0, days: 0 };

/**
 * Asks whoever started the server to load the demo. They put another one in its place meanwhile, at which the demo lives through its past, and
 * tell it how far it is.
 */
export class DemoDoor {
  readonly #ask: (() => void) | undefined;
  #isAsked = false;
  #news: DemoNews['demo'] | undefined;

  /** @param ask left out where nobody is there who could load it */
  constructor(ask?: () => void) {
    this.#ask = ask;
  }

  /** @param isEmpty whether nothing has come in yet: the demo comes into no installation that is in use */
  view(isEmpty: boolean): DemoView {
    if (typeof this.#news === 'object') return { state: 'loading', ...this.#news };
    if (this.#isAsked) return { state: 'loading', ...NOT_BEGUN };
    // It failed before anything came in: it can be begun again.
    if (isEmpty) this.#news = undefined;
    if (isEmpty && this.#ask) return { state: 'offered', ...NOT_BEGUN };
    return { state: this.#news === 'failed' ? 'failed' : 'none', ...NOT_BEGUN };
  }

  load(isEmpty: boolean): void {
    if (this.view(isEmpty).state !== 'offered' || !this.#ask)
      throw conflict('demo.no', 'The demo comes only into an empty installation that ./sieve started.');
    this.#isAsked = true;
    this.#ask();
  }

  tell(news: DemoNews): void {
    this.#news = news.demo;
    if (news.demo === 'failed') this.#isAsked = false;
  }
}
