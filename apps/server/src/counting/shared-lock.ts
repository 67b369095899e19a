/** Many may read at once, or one may write alone. Who waits to write goes before who comes to read after. */
export class SharedLock {
  #readers = 0;
  #writing = false;
  #waitingToWrite = 0;
  #changed: { readonly promise: Promise<void>; readonly tell: () => void } = signal();

  async read<Result>(work: () => Promise<Result>): Promise<Result> {
    while (this.#writing || this.#waitingToWrite > 0) await this.#changed.promise;
    this.#readers += 1;
    try {
      return await work();
    } finally {
      this.#readers -= 1;
      this.#tell();
    }
  }

  async write<Result>(work: () => Promise<Result>): Promise<Result> {
    this.#waitingToWrite += 1;
    while (this.#writing || this.#readers > 0) await this.#changed.promise;
    this.#waitingToWrite -= 1;
    this.#writing = true;
    try {
      return await work();
    } finally {
      this.#writing = false;
      this.#tell();
    }
  }

  #tell(): void {
    const { tell } = this.#changed;
    this.#changed = signal();
    tell();
  }
}

function signal(): { readonly promise: Promise<void>; readonly tell: () => void } {
  let tell: () => void = () => undefined;
  const promise = new Promise<void>((resolve) => (tell = resolve));
  return { promise, tell };
}
