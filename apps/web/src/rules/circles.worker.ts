import { Catalogue, circlesIn, Compiled, type AnyDefinition, type Workspace } from '@eager-sieve/core';

/** All definitions as they are sent to be looked through for circles. */
export interface LookedThrough {
  readonly workspace: Workspace;
  readonly definitions: readonly AnyDefinition[];
}

self.onmessage = ({ data: { workspace, definitions } }: MessageEvent<LookedThrough>): void => {
  self.postMessage(circlesIn(new Compiled(new Catalogue(workspace, definitions)), Date.now()));
};
