import { type PastTag, type Subject } from '../../contacts/subject.ts';
import { type Moment } from '../../time/moment.ts';
import { isWithin, nextCrossing } from '../../time/window.ts';
import { type Instant } from '../../time/zone.ts';
import { type NodeOf } from '../node.ts';
import { NEVER, nextOfTest, passes } from './details.ts';

type TagNode = NodeOf<'tag'>;

/** The values that the line tests: for `had`, every value the tag ever had. */
function candidates(node: TagNode, subject: Subject): readonly { readonly at: Instant; readonly value?: number | undefined }[] {
  const held = subject.tags.get(node.tag);
  const past = subject.pastTags.get(node.tag) ?? [];
  switch (node.op) {
    case 'has':
    case 'lacks':
      return held ? [{ at: held.since, value: held.value }] : [];
    case 'had':
      return [...(held ? [{ at: held.since, value: held.value }] : []), ...past.map((each) => ({ at: each.until, value: each.value }))];
    case 'lost': {
      const going = held ? undefined : lastGoing(past);
      return going ? [{ at: going.until, value: going.value }] : [];
    }
  }
}

const lastGoing = (past: readonly PastTag[]): PastTag | undefined => past.findLast((each) => each.went);

export function tagHolds(node: TagNode, subject: Subject, moment: Moment): boolean {
  const found = candidates(node, subject).some(
    ({ at, value }) => (!node.since || isWithin(node.since, at, moment)) && (!node.value || passes(node.value, value, moment)),
  );
  return found !== (node.op === 'lacks');
}

export function nextOfTag(node: TagNode, subject: Subject, moment: Moment): Instant {
  let next = NEVER;
  for (const { at, value } of candidates(node, subject)) {
    if (node.since) next = Math.min(next, nextCrossing(node.since, at, moment));
    if (node.value) next = Math.min(next, nextOfTest(node.value, value, moment));
  }
  return next;
}
