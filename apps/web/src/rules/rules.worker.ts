import { Catalogue, circlesIn, Compiled, neverRun, type AnyDefinition, type Circle, type Workspace } from '@eager-sieve/core';

/** All definitions as they are sent to be looked through. */
export interface LookedThrough {
  readonly workspace: Workspace;
  readonly definitions: readonly AnyDefinition[];
}

/** What comes of rules that are tried on people and companies made up for it. */
export interface Tried {
  readonly circles: readonly Circle[];
  /** rules that can never run */
  readonly dead: readonly number[];
}

self.onmessage = ({ data: { workspace, definitions } }: MessageEvent<LookedThrough>): void => {
  const compiled = new Compiled(new Catalogue(workspace, definitions));
  const now = Date.now();
  const tried: Tried = { circles: circlesIn(compiled, now), dead: neverRun(compiled, now) };
  self.postMessage(tried);
};
