import { type ConditionNode, type LeafNode } from '../conditions/node.ts';
import { exactly } from '../conditions/operators/index.ts';

/** What one top line of a condition lets through. A number is null where the question makes no sense of the line. */
export interface SieveLine {
  readonly alone: number;
  readonly remain: number;
  readonly others: number;
  readonly onLimit: number | null;
  readonly empty: number | null;
  readonly never: number | null;
  readonly inner: readonly { readonly path: readonly number[]; readonly alone: number }[];
}

type GroupNode = Extract<ConditionNode, { kind: 'group' }>;

const all = (...of: readonly ConditionNode[]): ConditionNode => ({ kind: 'group', match: 'all', of });
const none = (...of: readonly ConditionNode[]): ConditionNode => ({ kind: 'group', match: 'none', of });

/**
 * The questions that the sieve view asks of a condition, as conditions that are all counted in one statement.
 * In a "none" group a line lets through whom it does not hold for; in an "any" group the lines add up instead of taking away.
 */
export function sieveTests(group: GroupNode): {
  readonly nodes: readonly ConditionNode[];
  readonly read: (count: (index: number) => number) => readonly SieveLine[];
} {
  const nodes: ConditionNode[] = [];
  const ask = (node: ConditionNode | undefined): number | undefined => (node === undefined ? undefined : nodes.push(node) - 1);
  const passing = group.of.map((line) => (group.match === 'none' ? none(line) : line));
  const lines = group.of.map((line, index) => {
    const pass = passing[index] as ConditionNode;
    const upToHere = passing.slice(0, index + 1);
    const rest = passing.filter((_, at) => at !== index);
    return {
      alone: ask(pass),
      remain: ask(group.match === 'any' ? { kind: 'group', match: 'any', of: upToHere } : all(...upToHere)),
      others: ask(group.match === 'any' ? { kind: 'group', match: 'any', of: rest } : all(...rest)),
      onLimit: ask(line.kind === 'group' ? undefined : exactlyOnLimit(line)),
      empty: ask(line.kind === 'group' ? undefined : withoutValue(line)),
      never: ask(line.kind === 'signal' ? { ...line, window: { kind: 'ever' }, count: exactly(0) } : undefined),
      inner: line.kind === 'group' ? innerLines(line, []).map(({ node, path }) => ({ path, index: ask(node) })) : [],
    };
  });
  const optional = (index: number | undefined, count: (index: number) => number): number | null =>
    index === undefined ? null : count(index);
  return {
    nodes,
    read: (count) =>
      lines.map((line) => ({
        alone: optional(line.alone, count) ?? 0,
        remain: optional(line.remain, count) ?? 0,
        others: optional(line.others, count) ?? 0,
        onLimit: optional(line.onLimit, count),
        empty: optional(line.empty, count),
        never: optional(line.never, count),
        inner: line.inner.map(({ path, index }) => ({ path, alone: optional(index, count) ?? 0 })),
      })),
  };
}

function innerLines(group: GroupNode, path: readonly number[]): { node: ConditionNode; path: number[] }[] {
  return group.of.flatMap((node, index) => {
    const here = [...path, index];
    return [{ node, path: here }, ...(node.kind === 'group' ? innerLines(node, here) : [])];
  });
}

/** Those who stand exactly on the limit of a line: the ones that "more than" and "at least" disagree about. */
function exactlyOnLimit(line: LeafNode): ConditionNode | undefined {
  const test = line.kind === 'signal' ? line.count : line.kind === 'field' || line.kind === 'score' ? line.test : undefined;
  if (test?.ask !== 'operator' || !test.positive.limit) return undefined;
  const limit = test.positive.limit(test.operand);
  if (line.kind === 'signal') return limit >= 1 ? { ...line, count: exactly(limit) } : undefined;
  return { ...line, test: exactly(limit) } as ConditionNode;
}

function withoutValue(line: LeafNode): ConditionNode | undefined {
  return line.kind === 'field' ? { kind: 'field', field: line.field, test: { ask: 'empty', storage: line.test.storage } } : undefined;
}
