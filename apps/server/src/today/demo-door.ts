import { type DemoState } from '@eager-sieve/contracts';
import { conflict } from '../http/problem';

/** Asks whoever started the server to load the demo: a process of its own, which sends it through the same doors as real data. */
export class DemoDoor {
  readonly #ask: (() => void) | undefined;
  #isLoading = false;

  /** @param ask left out where nobody is there who could load it */
  constructor(ask?: () => void) {
    this.#ask = ask;
  }

  /** @param isEmpty whether nothing has come in yet: the demo comes into no installation that is in use */
  state(isEmpty: boolean): DemoState {
    if (this.#isLoading) return 'loading';
    return isEmpty && this.#ask ? 'offered' : 'none';
  }

  load(isEmpty: boolean): void {
    if (this.state(isEmpty) !== 'offered' || !this.#ask)
      throw conflict('demo.no', 'The demo comes only into an empty installation that ./sieve started.');
    this.#isLoading = true;
    this.#ask();
  }

  /** It is loaded, or could not be. */
  ended(): void {
    this.#isLoading = false;
  }
}
