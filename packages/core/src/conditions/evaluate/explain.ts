import { type Fact } from '../../contacts/facts.ts';
import { type Subject } from '../../contacts/subject.ts';
import { type Moment } from '../../time/moment.ts';
import { boundsAt } from '../../time/window.ts';
import { type Instant } from '../../time/zone.ts';
import { byKind } from '../by-kind.ts';
import { type ConditionNode, type LeafNode, type MeasureNode, type NodeOf } from '../node.ts';
import { factOf } from './facts.ts';
import { contactsThatFit, countedChanges, dealsThatFit, holds, leafHolds } from './holds.ts';
import { sidesOf } from './measures.ts';
import { countedSignals, measureOf } from './signals.ts';

/** Why a condition holds or does not: the same tree, with the truth of each line and the value that was seen. */
export interface Explanation {
  readonly holds: boolean;
  /** leads to the line in the condition: the index of each step down */
  readonly path: readonly number[];
  readonly of?: readonly Explanation[];
  readonly seen?: Seen;
}
export type Seen =
  | { readonly kind: 'value'; readonly value: Fact | null }
  | {
      readonly kind: 'signals';
      readonly count: number;
      /** what was measured of them, where that is not their number: days, or a sum in its smallest unit */
      readonly measured: number | null;
      readonly since: Instant | null;
      readonly latest: readonly { readonly id: number; readonly time: Instant }[];
    }
  | { readonly kind: 'changes'; readonly count: number; readonly latest: Instant | null }
  | { readonly kind: 'compared'; readonly left: number | null; readonly right: number | null }
  | { readonly kind: 'points'; readonly points: number; readonly band: string | null; readonly since: Instant | null }
  | { readonly kind: 'has'; readonly has: boolean; readonly since: Instant | null; readonly value: number | null }
  | { readonly kind: 'count'; readonly count: number };

const SHOWN_SIGNALS = 20;

export function explain(node: ConditionNode, subject: Subject, moment: Moment, path: readonly number[] = []): Explanation {
  if (node.kind === 'group') {
    return {
      holds: holds(node, subject, moment),
      path,
      of: node.of.map((each, index) => explain(each, subject, moment, [...path, index])),
    };
  }
  return { holds: leafHolds(node, subject, moment), path, seen: seen(node, subject, moment) };
}

const pointsSeen = (node: NodeOf<'score'> | NodeOf<'band'>, subject: Subject): Seen => {
  const score = subject.scores.get(node.scorecard);
  return { kind: 'points', points: score?.points ?? 0, band: score?.band ?? null, since: score?.bandSince ?? null };
};

/** What was seen of the subject by a line of each kind. */
const seen = byKind<LeafNode, [Subject, Moment], Seen>({
  field: (node, subject) => ({ kind: 'value', value: factOf(node.of, node.field, subject) ?? null }),
  tag: (node, subject) => {
    const held = subject.tags.get(node.tag);
    const gone = subject.pastTags.get(node.tag)?.findLast((past) => past.went);
    return { kind: 'has', has: held !== undefined, since: held?.since ?? gone?.until ?? null, value: held?.value ?? gone?.value ?? null };
  },
  signal: (node, subject, moment) => {
    const counted = countedSignals(node.set, node.measure, subject, moment);
    const counts = node.measure.kind === 'count' || node.measure.kind === 'pick';
    return {
      kind: 'signals',
      count: counted.length,
      measured: counts ? null : measureOf(node.set, node.measure, subject, moment),
      since: node.set.window.kind === 'last' ? boundsAt(node.set.window, moment).from : null,
      latest: counted.slice(-SHOWN_SIGNALS).map(({ id, time }) => ({ id, time })),
    };
  },
  change: (node, subject, moment) => {
    const counted = countedChanges(node, subject, moment);
    return { kind: 'changes', count: counted.length, latest: counted.at(-1)?.at ?? null };
  },
  compare: (node, subject, moment) => {
    const [left, right] = sidesOf(node, subject, moment);
    const inUnits = (value: number | undefined, measure: MeasureNode): number | null =>
      value === undefined ? null : value / measure.perUnit;
    return { kind: 'compared', left: inUnits(left, node.left), right: inUnits(right, node.right) };
  },
  score: pointsSeen,
  band: pointsSeen,
  audience: (node, subject) => {
    const membership = subject.memberships.get(node.audience);
    const since = membership ? membership.since : subject.leavings.get(node.audience);
    return { kind: 'has', has: membership !== undefined, since: since ?? null, value: null };
  },
  stage: (node, subject, moment) => ({
    kind: 'has',
    has: leafHolds(node, subject, moment),
    since: subject.stage?.since ?? null,
    value: subject.stage?.id ?? null,
  }),
  owner: (_node, subject) => ({ kind: 'value', value: subject.owner ?? null }),
  consent: (node, subject) => ({ kind: 'value', value: subject.consent.get(node.channel)?.state ?? 'unknown' }),
  deal: (node, subject, moment) => ({ kind: 'count', count: dealsThatFit(node, subject, moment) }),
  contacts: (node, subject, moment) => ({ kind: 'count', count: contactsThatFit(node, subject, moment) }),
});
