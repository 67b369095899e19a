import { type SubjectState } from './state.ts';

/** What is counted of a contact beside its signals and its links, part by part. What few have (deals, pins, given points, lines that held once) is one part. */
export const COUNTED_PARTS = ['facts', 'tags', 'pastTags', 'consent', 'scores', 'memberships', 'leavings', 'changes', 'extras'] as const;
export type CountedPart = (typeof COUNTED_PARTS)[number];

const HAS_CHANGED: Readonly<Record<CountedPart, (state: SubjectState) => boolean>> = {
  facts: ({ changed }) => changed.facts.size > 0,
  tags: ({ changed }) => changed.tags.size > 0,
  pastTags: ({ fresh, forgotten }) => fresh.pastTags.length + forgotten.pastTags.length > 0,
  consent: ({ changed }) => changed.consent.size > 0,
  scores: ({ changed }) => changed.scores.size > 0,
  memberships: ({ changed }) => changed.memberships.size > 0,
  leavings: ({ fresh, forgotten }) => fresh.stays.length + forgotten.stays.length > 0,
  changes: ({ fresh, forgotten }) => fresh.changes.length + forgotten.changes.length > 0,
  extras: ({ changed }) => changed.deals.size + changed.latchedLines.size + changed.points.size + changed.pins.size > 0,
};

/**
 * Which parts of a contact have changed since it was last written down. Signals that came in are not told.
 *
 * @returns undefined where anything may have: of companies, of whoever has another company now, of whom signals were taken
 */
export const changedParts = (state: SubjectState): readonly CountedPart[] | undefined =>
  state.kind === 'company' || state.hasLostSignals || state.changedLinks.has('company')
    ? undefined
    : COUNTED_PARTS.filter((part) => HAS_CHANGED[part](state));
