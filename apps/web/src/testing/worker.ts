import { Catalogue, circlesIn, Compiled, neverRun } from '@eager-sieve/core';
import { type LookedThrough, type Tried } from '../rules/rules.worker';

/** Stands for the worker that tries the rules: it answers at once. */
export default class RulesWorker {
  onmessage: ((event: { readonly data: unknown }) => void) | null = null;

  postMessage({ workspace, definitions }: LookedThrough): void {
    const compiled = new Compiled(new Catalogue(workspace, definitions));
    const found: Tried = { circles: circlesIn(compiled, Date.now()), dead: neverRun(compiled, Date.now()) };
    setTimeout(() => this.onmessage?.({ data: found }), 0);
  }

  terminate(): void {
    this.onmessage = null;
  }
}
