import { type Subject } from '../../contacts/subject.ts';
import { type RecordedChange } from '../../contacts/changes.ts';
import { type Moment } from '../../time/moment.ts';
import { boundsAt, isWithin, type PreparedWindow } from '../../time/window.ts';
import { type Instant } from '../../time/zone.ts';
import { POINT_SCALE, type ConditionNode, type LeafNode, type NodeOf } from '../node.ts';
import { detailsHold, passes } from './details.ts';
import { factOf } from './facts.ts';
import { comparisonHolds } from './measures.ts';
import { measuredFor } from './signals.ts';
import { tagHolds } from './tags.ts';

const withinSince = (since: PreparedWindow | undefined, at: Instant | undefined, moment: Moment): boolean =>
  !since || (at !== undefined && isWithin(since, at, moment));

export function leafHolds(node: LeafNode, subject: Subject, moment: Moment): boolean {
  switch (node.kind) {
    case 'field':
      return passes(node.test, factOf(node.of, node.field, subject), moment);
    case 'tag':
      return tagHolds(node, subject, moment);
    case 'signal':
      return passes(node.test, measuredFor(node, subject, moment), moment);
    case 'change':
      return passes(node.test, countedChanges(node, subject, moment).length, moment);
    case 'compare':
      return comparisonHolds(node, subject, moment);
    case 'score':
      return passes(node.test, (subject.scores.get(node.scorecard)?.points ?? 0) * POINT_SCALE, moment);
    case 'band': {
      const score = subject.scores.get(node.scorecard);
      const inBand = score?.band !== undefined && node.bands.includes(score.band) && withinSince(node.since, score.bandSince, moment);
      return inBand !== node.negated;
    }
    case 'audience':
      return membershipHolds(node, subject, moment);
    case 'stage': {
      const { stage } = subject;
      return stage !== undefined && node.stages.includes(stage.id) && withinSince(node.since, stage.since, moment);
    }
    case 'owner':
      if (node.ask !== 'one of') return (subject.owner === undefined) === (node.ask === 'empty');
      return subject.owner !== undefined && node.owners.includes(subject.owner);
    case 'consent':
      return ((subject.consent.get(node.channel)?.state ?? 'unknown') === node.state) !== node.negated;
    case 'deal':
      return passes(node.test, dealsThatFit(node, subject, moment), moment);
    case 'contacts':
      return passes(node.test, contactsThatFit(node, subject, moment), moment);
  }
}

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
