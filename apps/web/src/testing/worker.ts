import { Catalogue, circlesIn, Compiled } from '@eager-sieve/core';
import { type LookedThrough } from '../rules/circles.worker';

/** Stands for the worker that looks for circles: it answers at once. */
export default class CirclesWorker {
  onmessage: ((event: { readonly data: unknown }) => void) | null = null;

  postMessage({ workspace, definitions }: LookedThrough): void {
    const found = circlesIn(new Compiled(new Catalogue(workspace, definitions)), Date.now());
    setTimeout(() => this.onmessage?.({ data: found }), 0);
  }

  terminate(): void {
    this.onmessage = null;
  }
}
