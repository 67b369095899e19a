import { byKind } from '../conditions/by-kind.ts';
import { type ConditionNode, type LeafNode, type NodeOf } from '../conditions/node.ts';
import { exactly, type ValueTest } from '../conditions/operators/index.ts';

/** What one top line of a condition lets through. Null where the question does not apply to the line. */
export interface SieveLine {
  readonly alone: number;
  readonly remain: number;
  readonly others: number;
  readonly onLimit: number | null;
  readonly empty: number | null;
  readonly never: number | null;
  readonly inner: readonly { readonly path: readonly number[]; readonly alone: number }[];
}

/** The lists of those whom a line is about besides those it lets through. */
export type SieveList = 'missed' | 'limit' | 'empty' | 'never';

type GroupNode = Extract<ConditionNode, { kind: 'group' }>;

const all = (...of: readonly ConditionNode[]): ConditionNode => ({ kind: 'group', match: 'all', of });
const none = (...of: readonly ConditionNode[]): ConditionNode => ({ kind: 'group', match: 'none', of });

/**
 * What decides a group: the lines in order, as places in the list of questions, and the truth of a line at which the group is decided whatever
 * the others are.
 */
export interface Deciding {
  readonly of: readonly number[];
  readonly at: boolean;
}

/**
 * Of everyone who was asked, which line decided first, and whether it was the only one. What is left after each line, and what all but one
 * let through, are sums of these: a sieve costs as much as its lines, and not as their square.
 */
export class Decided {
  /** by line; the last place counts those whom no line decided */
  readonly first: number[];
  readonly only: number[];

  constructor(lines: number) {
    this.first = Array.from({ length: lines + 1 }, () => 0);
    this.only = Array.from({ length: lines }, () => 0);
  }

  /** @param first the line that decided first; the number of lines where none did */
  add(first: number, isOnly: boolean, times = 1): void {
    this.first[first] = (this.first[first] ?? 0) + times;
    if (isOnly && first < this.only.length) this.only[first] = (this.only[first] ?? 0) + times;
  }

  /** Asks the lines about one subject, only as far as it takes to see whether one alone decided. */
  ask({ of, at }: Deciding, holds: (question: number) => boolean): void {
    const first = of.findIndex((question) => holds(question) === at);
    const isOnly = first >= 0 && !of.some((question, line) => line > first && holds(question) === at);
    this.add(first < 0 ? of.length : first, isOnly);
  }
}

/**
 * The questions that the sieve view asks of a condition, as conditions that are all counted in one run, and what decides it.
 * In a "none" group a line lets through whom it does not hold for; in an "any" group the lines add up instead of taking away.
 */
export function sieveTests(group: GroupNode): {
  readonly nodes: readonly ConditionNode[];
  readonly deciding: Deciding;
  readonly read: (count: (index: number) => number, decided: Decided) => readonly SieveLine[];
} {
  const nodes: ConditionNode[] = [];
  const ask = (node: ConditionNode | undefined): number | undefined => (node === undefined ? undefined : nodes.push(node) - 1);
  const lines = group.of.map((line) => ({
    alone: nodes.push(group.match === 'none' ? none(line) : line) - 1,
    onLimit: ask(line.kind === 'group' ? undefined : exactlyOnLimit(line)),
    empty: ask(line.kind === 'group' ? undefined : withoutValue(line)),
    never: ask(line.kind === 'signal' ? neverDidIt(line) : undefined),
    inner: line.kind === 'group' ? innerLines(line, []).map(({ node, path }) => ({ path, index: ask(node) })) : [],
  }));
  const optional = (index: number | undefined, count: (index: number) => number): number | null =>
    index === undefined ? null : count(index);
  const isAny = group.match === 'any';
  return {
    nodes,
    deciding: { of: lines.map((line) => line.alone), at: isAny },
    read: (count, { first, only }) => {
      const everyone = first.reduce((sum, n) => sum + n, 0);
      const undecided = first.at(-1) ?? 0;
      let decided = 0;
      return lines.map((line, index) => {
        decided += first[index] ?? 0;
        const alone = only[index] ?? 0;
        return {
          alone: count(line.alone),
          remain: isAny ? decided : everyone - decided,
          others: isAny ? everyone - undecided - alone : undecided + alone,
          onLimit: optional(line.onLimit, count),
          empty: optional(line.empty, count),
          never: optional(line.never, count),
          inner: line.inner.map(({ path, index: inner }) => ({ path, alone: optional(inner, count) ?? 0 })),
        };
      });
    },
  };
}

function innerLines(group: GroupNode, path: readonly number[]): { node: ConditionNode; path: number[] }[] {
  return group.of.flatMap((node, index) => {
    const here = [...path, index];
    return [{ node, path: here }, ...(node.kind === 'group' ? innerLines(node, here) : [])];
  });
}

/** Those exactly on the limit of a line: "more than" and "at least" disagree about them. */
function exactlyOnLimit(line: LeafNode): ConditionNode | undefined {
  const test = limitedTest(line);
  if (test?.ask !== 'operator' || !test.positive.limit) return undefined;
  const limit = test.positive.limit(test.operand);
  const counts = line.kind !== 'field' && line.kind !== 'score' && line.kind !== 'tag';
  if (counts && limit < 1) return undefined;
  if (line.kind === 'tag') return { ...line, op: 'has', value: exactly(limit, test.storage) };
  return { ...line, test: exactly(limit, test.storage) } as ConditionNode;
}

const noLimit = (): undefined => undefined;
const itsTest = ({ test }: { readonly test: ValueTest }): ValueTest => test;
/** The test of a line that sets a limit to a number, if it does. */
const limitedTest = byKind<LeafNode, [], ValueTest | undefined>({
  signal: ({ measure, test }) => (measure.kind === 'pick' ? undefined : test),
  tag: ({ op, value }) => (op === 'has' || op === 'lacks' ? value : undefined),
  field: itsTest,
  score: itsTest,
  change: itsTest,
  deal: itsTest,
  contacts: itsTest,
  compare: noLimit,
  band: noLimit,
  audience: noLimit,
  stage: noLimit,
  owner: noLimit,
  consent: noLimit,
});

/** Those of whom a line asks a value that they do not have. */
function withoutValue(line: LeafNode): ConditionNode | undefined {
  if (line.kind === 'field') return { ...line, test: { ask: 'empty', storage: line.test.storage } };
  if (line.kind !== 'compare') return undefined;
  const empty = [line.left, line.right].flatMap((side): readonly ConditionNode[] =>
    side.kind === 'field' ? [{ kind: 'field', of: side.of, field: side.field, test: { ask: 'empty', storage: 'number' } }] : [],
  );
  return empty.length > 0 ? { kind: 'group', match: 'any', of: empty } : undefined;
}

/** Those who never did it at all: a line like "not in 30 days" lets them through too. */
const neverDidIt = (line: NodeOf<'signal'>): ConditionNode => ({
  ...line,
  set: { ...line.set, window: { kind: 'ever' }, then: undefined },
  measure: { kind: 'count' },
  test: exactly(0, 'number'),
});

/**
 * Who stands in a list beside one top line: those whom it alone holds back, those exactly on its limit, those without a value, those who
 * never did it. The same conditions that the sieve counts; undefined where the question makes no sense of the line.
 */
export function sieveList(group: GroupNode, index: number, list: SieveList): ConditionNode | undefined {
  const line = group.of[index];
  if (!line) return undefined;
  if (list === 'missed') {
    const rest = group.of.filter((_, at) => at !== index);
    // An "any" group holds nobody back by one line; in "none" it is a line that holds that holds back.
    if (group.match === 'any') return undefined;
    return group.match === 'none' ? all(line, none(...rest)) : all(none(line), ...rest);
  }
  if (line.kind === 'group') return undefined;
  if (list === 'limit') return exactlyOnLimit(line);
  if (list === 'empty') return withoutValue(line);
  return line.kind === 'signal' ? neverDidIt(line) : undefined;
}
