import { type Subject } from '../../contacts/subject.ts';
import { Moment } from '../../time/moment.ts';
import { nextCrossing, type PreparedWindow } from '../../time/window.ts';
import { type Instant } from '../../time/zone.ts';
import { type ByKind } from '../by-kind.ts';
import { type ConditionNode, type LeafNode } from '../node.ts';
import { NEVER, nextOfDetails, nextOfTest } from './details.ts';
import { factOf } from './facts.ts';
import { holds } from './holds.ts';
import { nextOfComparison } from './measures.ts';
import { nextOfMeasure } from './signals.ts';
import { nextOfTag } from './tags.ts';

/** At most this many changes of single lines are followed to find the one that changes the whole condition. */
const STEPS = 8;

const crossing = (window: PreparedWindow | undefined, at: Instant | undefined, moment: Moment): Instant =>
  window === undefined || at === undefined ? NEVER : nextCrossing(window, at, moment);

const least = (instants: Iterable<Instant>): Instant => {
  let next = NEVER;
  for (const instant of instants) next = Math.min(next, instant);
  return next;
};

const never = (): Instant => NEVER;

type NextOf = (node: LeafNode, subject: Subject, moment: Moment) => Instant;

/** A lower bound of the next instant at which a line of each kind changes by itself. */
const NEXT_OF: ByKind<LeafNode, [Subject, Moment], Instant> = {
  field: (node, subject, moment) => nextOfTest(node.test, factOf(node.of, node.field, subject), moment),
  tag: (node, subject, moment) => nextOfTag(node, subject, moment),
  signal: (node, subject, moment) => nextOfMeasure(node.set, node.measure, subject, moment),
  change: (node, subject, moment) =>
    least((subject.changes.get(node.of) ?? []).map((change) => nextCrossing(node.window, change.at, moment))),
  compare: (node, subject, moment) => nextOfComparison(node, subject, moment),
  score: (node, subject) => subject.lookThrough?.nextOfScore(node.scorecard) ?? NEVER,
  band: (node, subject, moment) =>
    Math.min(
      subject.lookThrough?.nextOfScore(node.scorecard) ?? NEVER,
      crossing(node.since, subject.scores.get(node.scorecard)?.bandSince, moment),
    ),
  audience: (node, subject, moment) =>
    Math.min(
      subject.lookThrough?.nextOfAudience(node.audience) ?? NEVER,
      crossing(node.since, subject.memberships.get(node.audience)?.since, moment),
      crossing(node.since, subject.leavings.get(node.audience), moment),
    ),
  stage: (node, subject, moment) => crossing(node.since, subject.stage?.since, moment),
  deal: (node, subject, moment) =>
    node.clock ? least([...subject.dealDetails.values()].map((details) => nextOfDetails(node.where, details, moment))) : NEVER,
  contacts: (node, subject, moment) => least(subject.contacts.map((contact) => nextLineChange(node.condition, contact, moment))),
  owner: never,
  consent: never,
};

const nextOfLine: NextOf = (node, subject, moment) => (NEXT_OF[node.kind] as NextOf)(node, subject, moment);

/**
 * A lower bound of the next instant at which any line of a condition changes by itself. All lines are asked, also where a group is settled
 * already.
 */
export function nextLineChange(node: ConditionNode, subject: Subject, moment: Moment): Instant {
  if (node.kind !== 'group') return nextOfLine(node, subject, moment);
  return least(node.of.map((each) => nextLineChange(each, subject, moment)));
}

/**
 * A lower bound of the next instant at which the truth of a condition changes by itself: it is constant on [moment, changesAt).
 * Infinity where time alone never changes it.
 */
export function changesAt(node: ConditionNode, subject: Subject, moment: Moment): Instant {
  const truth = holds(node, subject, moment);
  let next = nextLineChange(node, subject, moment);
  for (let step = 1; step < STEPS && next !== NEVER; step += 1) {
    const then = new Moment(next, moment.zone);
    const there = subject.lookThrough?.at(then) ?? subject;
    if (holds(node, there, then) !== truth) return next;
    next = nextLineChange(node, there, then);
  }
  return next;
}
