import { DatabaseClock, type Clock } from './clock';

/** The clock of this server, as a thing that can be injected. Tests put one in its place that stands until it is moved. */
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
