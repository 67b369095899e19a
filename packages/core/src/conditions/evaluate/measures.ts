import { type Subject } from '../../contacts/subject.ts';
import { type Moment } from '../../time/moment.ts';
import { type Instant } from '../../time/zone.ts';
import { type MeasureNode, type NodeOf } from '../node.ts';
import { factOf } from './facts.ts';
import { NEVER } from './details.ts';
import { measureOf, nextOfMeasure } from './signals.ts';

/** One number of a subject, in units of 1 / `perUnit`; undefined where it has none. */
export function valueOf(measure: MeasureNode, subject: Subject, moment: Moment): number | undefined {
  switch (measure.kind) {
    case 'field': {
      const fact = factOf(measure.of, measure.field, subject);
      return typeof fact === 'number' ? fact : undefined;
    }
    case 'score':
      return subject.scores.get(measure.scorecard)?.points ?? 0;
    case 'signals':
      return measureOf(measure.set, measure.measure, subject, moment);
  }
}

/** Both sides of a comparison as they are, for an explanation. */
export const sidesOf = (node: NodeOf<'compare'>, subject: Subject, moment: Moment): readonly [number | undefined, number | undefined] => [
  valueOf(node.left, subject, moment),
  valueOf(node.right, subject, moment),
];

/** An empty side makes a comparison false, and its opposite `!=` true. Both sides are brought to one unit, exactly. */
export function comparisonHolds(node: NodeOf<'compare'>, subject: Subject, moment: Moment): boolean {
  const [left, right] = sidesOf(node, subject, moment);
  if (left === undefined || right === undefined) return node.op === '!=';
  const a = BigInt(left) * BigInt(node.right.perUnit) * 1_000_000n;
  const b = BigInt(right) * BigInt(node.left.perUnit) * BigInt(node.timesMillionths);
  switch (node.op) {
    case '=':
      return a === b;
    case '!=':
      return a !== b;
    case '>':
      return a > b;
    case '>=':
      return a >= b;
    case '<':
      return a < b;
    case '<=':
      return a <= b;
  }
}

export function nextOfComparison(node: NodeOf<'compare'>, subject: Subject, moment: Moment): Instant {
  const next = (measure: MeasureNode): Instant =>
    measure.kind === 'signals'
      ? nextOfMeasure(measure.set, measure.measure, subject, moment)
      : measure.kind === 'score'
        ? (subject.lookThrough?.nextOfScore(measure.scorecard) ?? NEVER)
        : NEVER;
  return Math.min(next(node.left), next(node.right));
}
