import { type ConditionNode, type DetailNode } from './node.ts';

/** Names one thing that a definition reads or that a pass touches: `tag:12`, `signal:3`, `consent:email`. */
export type Dependency = `${'field' | 'tag' | 'signal' | 'score' | 'audience'}:${number}` | `consent:${string}`;

/** Everything that the truth of a condition rests on. `clock` says whether time alone can change it. */
export interface Dependencies {
  readonly on: ReadonlySet<Dependency>;
  readonly clock: boolean;
}

export function dependenciesOf(...nodes: readonly ConditionNode[]): Dependencies {
  const on = new Set<Dependency>();
  let clock = false;
  const visit = (node: ConditionNode): void => {
    switch (node.kind) {
      case 'group':
        return node.of.forEach(visit);
      case 'field':
        on.add(`field:${node.field}`);
        clock ||= node.test.ask === 'operator' && node.test.positive.next !== undefined;
        return;
      case 'tag':
        return void on.add(`tag:${node.tag}`);
      case 'signal':
        node.types.forEach((type) => on.add(`signal:${type}`));
        // Even "ever" waits for the instant of a signal that is dated a little ahead.
        clock = true;
        return;
      case 'score':
      case 'band':
        return void on.add(`score:${node.scorecard}`);
      case 'audience':
        return void on.add(`audience:${node.audience}`);
      case 'consent':
        return void on.add(`consent:${node.channel}`);
    }
  };
  nodes.forEach(visit);
  return { on, clock };
}

/** Whether the answer about a signal's details can change with time alone. */
export const detailsWatchTheClock = (nodes: readonly DetailNode[]): boolean =>
  nodes.some((node) =>
    node.kind === 'elements' ? detailsWatchTheClock(node.of) : node.test.ask === 'operator' && node.test.positive.next !== undefined,
  );
