import { DatabaseClock, type Clock } from './clock';

/** The injectable clock of this server. Tests replace it with one that stands still until moved. */
export class ServerClock implements Clock {
  #clock: Clock;

  constructor(clock: Clock = new DatabaseClock()) {
    this.#clock = clock;
  }

  get inner(): Clock {
    return this.#clock;
  }

  now(): number {
    return this.#clock.now();
  }
}
