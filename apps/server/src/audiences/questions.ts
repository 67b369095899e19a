import {
  parseCondition,
  orThrow,
  isGroup,
  sieveList,
  sieveTests,
  within,
  type Compiled,
  type Decided,
  type Deciding,
  type ConditionNode,
  type Group,
  type SieveList,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type CountAnswer } from '@eager-sieve/contracts';

export type GroupNode = Extract<ConditionNode, { kind: 'group' }>;

export const NO_ONE: ConditionNode = { kind: 'group', match: 'any', of: [] };
const EVERYONE: ConditionNode = { kind: 'group', match: 'all', of: [] };
const REACHABLE: ConditionNode = { kind: 'consent', channel: 'email', state: 'given', negated: false };

/** A condition as a group, as the sieve sees it: a single line stands in one by itself. */
export function readGroup(
  written: WrittenCondition,
  { catalogue, whyBroken }: Compiled,
  of: 'contact' | 'company',
  people?: ReadonlySet<string>,
): { readonly condition: Group; readonly node: GroupNode } {
  const { condition, node } = orThrow(
    within(['condition'], parseCondition(written, people ? catalogue.withPeople(people) : catalogue, of, whyBroken)),
  );
  return {
    condition: isGroup(condition) ? condition : { match: 'all', of: [condition] },
    node: node.kind === 'group' ? node : { kind: 'group', match: 'all', of: [node] },
  };
}

/** Everything that a count asks, to be counted together, and how the answer is read from those counts. */
export interface Questions {
  readonly nodes: readonly ConditionNode[];
  /** which of them decide the condition; none where no sieve is asked for */
  readonly deciding: Deciding;
  readonly read: (counts: (index: number) => number, decided: Decided, asOf: string) => CountAnswer;
}

/** @param sieve also what each line lets through */
export function questionsOf(node: GroupNode, of: 'contact' | 'company', sieve: boolean): Questions {
  // Companies are not written to.
  const reachable: ConditionNode = of === 'company' ? NO_ONE : { kind: 'group', match: 'all', of: [node, REACHABLE] };
  const tests = sieve ? sieveTests(node) : undefined;
  const first = [node, EVERYONE, reachable];
  return {
    nodes: [...first, ...(tests?.nodes ?? [])],
    deciding: { of: tests?.deciding.of.map((index) => index + first.length) ?? [], at: tests?.deciding.at ?? false },
    read: (count, decided, asOf) => ({
      count: count(0),
      of: count(1),
      reachable: count(2),
      asOf,
      ...(tests
        ? {
            lines: tests
              .read((index) => count(index + first.length), decided)
              .map((line) => ({ ...line, inner: line.inner.map((inner) => ({ path: [...inner.path], alone: inner.alone })) })),
          }
        : {}),
    }),
  };
}

/** Which of the lists beside a condition is asked for; the condition's own where nothing is said. */
export interface WhichList {
  readonly missedBy?: number | undefined;
  readonly beside?: { readonly line: number; readonly list: Exclude<SieveList, 'missed'> } | undefined;
}

export function listed(node: GroupNode, { missedBy, beside }: WhichList): ConditionNode {
  if (missedBy !== undefined) return sieveList(node, missedBy, 'missed') ?? NO_ONE;
  if (beside) return sieveList(node, beside.line, beside.list) ?? NO_ONE;
  return node;
}
