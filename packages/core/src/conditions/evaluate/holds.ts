import { type Subject } from '../../contacts/subject.ts';
import { type RecordedChange } from '../../contacts/changes.ts';
import { type Moment } from '../../time/moment.ts';
import { boundsAt, isWithin, type PreparedWindow } from '../../time/window.ts';
import { type Instant } from '../../time/zone.ts';
import { type ByKind } from '../by-kind.ts';
import { POINT_SCALE, type ConditionNode, type LeafNode, type NodeOf } from '../node.ts';
import { detailsHold, passes } from './details.ts';
import { factOf } from './facts.ts';
import { comparisonHolds } from './measures.ts';
import { measuredFor } from './signals.ts';
import { tagHolds } from './tags.ts';

const withinSince = (since: PreparedWindow | undefined, at: Instant | undefined, moment: Moment): boolean =>
  !since || (at !== undefined && isWithin(since, at, moment));

function membershipHolds(node: NodeOf<'audience'>, subject: Subject, moment: Moment): boolean {
  const membership = subject.memberships.get(node.audience);
  if (node.op === 'out') return membership === undefined;
  if (node.op === 'in') return membership !== undefined && withinSince(node.since, membership.since, moment);
  const left = membership ? undefined : subject.leavings.get(node.audience);
  return left !== undefined && withinSince(node.since, left, moment);
}

/** The recorded changes that a line counts. */
export function countedChanges(node: NodeOf<'change'>, subject: Subject, moment: Moment): readonly RecordedChange[] {
  const { from, to } = boundsAt(node.window, moment);
  return (subject.changes.get(node.of) ?? []).filter(
    (change) =>
      change.at >= from &&
      change.at <= to &&
      (node.from === undefined || node.from.includes(change.from)) &&
      (node.to === undefined || node.to.includes(change.to)),
  );
}

export const dealsThatFit = (node: NodeOf<'deal'>, subject: Subject, moment: Moment): number =>
  [...subject.dealDetails.values()].filter((details) => detailsHold(node.where, details, moment)).length;

export const contactsThatFit = (node: NodeOf<'contacts'>, subject: Subject, moment: Moment): number =>
  subject.contacts.filter((contact) => holds(node.condition, contact, moment)).length;

/** Whether a condition holds for a subject at a moment. Total: every condition is true or false for every subject. */
export function holds(node: ConditionNode, subject: Subject, moment: Moment): boolean {
  if (node.kind !== 'group') return leafHolds(node, subject, moment);
  switch (node.match) {
    case 'all':
      return node.of.every((each) => holds(each, subject, moment));
    case 'any':
      return node.of.some((each) => holds(each, subject, moment));
    case 'none':
      return !node.of.some((each) => holds(each, subject, moment));
  }
}

type Holds = (node: LeafNode, subject: Subject, moment: Moment) => boolean;

/** Whether a line of each kind holds. */
const LEAF_HOLDS: ByKind<LeafNode, [Subject, Moment], boolean> = {
  field: (node, subject, moment) => passes(node.test, factOf(node.of, node.field, subject), moment),
  tag: (node, subject, moment) => tagHolds(node, subject, moment),
  signal: (node, subject, moment) => passes(node.test, measuredFor(node, subject, moment), moment),
  change: (node, subject, moment) => passes(node.test, countedChanges(node, subject, moment).length, moment),
  compare: (node, subject, moment) => comparisonHolds(node, subject, moment),
  score: (node, subject, moment) => passes(node.test, (subject.scores.get(node.scorecard)?.points ?? 0) * POINT_SCALE, moment),
  band: (node, subject, moment) => {
    const score = subject.scores.get(node.scorecard);
    const inBand = score?.band !== undefined && node.bands.includes(score.band) && withinSince(node.since, score.bandSince, moment);
    return inBand !== node.negated;
  },
  audience: (node, subject, moment) => membershipHolds(node, subject, moment),
  stage: (node, subject, moment) => {
    const { stage } = subject;
    return stage !== undefined && node.stages.includes(stage.id) && withinSince(node.since, stage.since, moment);
  },
  owner: (node, subject) => {
    if (node.ask !== 'one of') return (subject.owner === undefined) === (node.ask === 'empty');
    return subject.owner !== undefined && node.owners.includes(subject.owner);
  },
  consent: (node, subject) => ((subject.consent.get(node.channel)?.state ?? 'unknown') === node.state) !== node.negated,
  deal: (node, subject, moment) => passes(node.test, dealsThatFit(node, subject, moment), moment),
  contacts: (node, subject, moment) => passes(node.test, contactsThatFit(node, subject, moment), moment),
};

export const leafHolds: Holds = (node, subject, moment) => (LEAF_HOLDS[node.kind] as Holds)(node, subject, moment);
