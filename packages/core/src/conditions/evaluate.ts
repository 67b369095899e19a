import { type Fact } from '../contacts/facts.ts';
import { type Subject } from '../contacts/subject.ts';
import { type Details } from '../intake/details.ts';
import { type Signal } from '../intake/signal.ts';
import { Moment } from '../time/moment.ts';
import { boundsAt, nextCrossing } from '../time/window.ts';
import { type Instant } from '../time/zone.ts';
import { POINT_SCALE, type ConditionNode, type DetailNode, type LeafNode } from './node.ts';
import { type ValueTest } from './operators/index.ts';

const NEVER = Number.POSITIVE_INFINITY;
/** So many changes of single lines are looked through for the one that turns the whole. */
const STEPS = 8;

/** Whether a value (undefined: empty) passes a test. */
export function passes(test: ValueTest, value: Fact | undefined, moment: Moment): boolean {
  if (test.ask === 'empty') return value === undefined;
  if (test.ask === 'filled') return value !== undefined;
  return (value !== undefined && test.positive.holds(value, test.operand, moment)) !== test.negated;
}

function nextOfTest(test: ValueTest, value: Fact | undefined, moment: Moment): Instant {
  if (test.ask !== 'operator' || value === undefined) return NEVER;
  return test.positive.next?.(value, test.operand, moment) ?? NEVER;
}

function at(details: Details, path: readonly string[]): unknown {
  let value: unknown = details;
  for (const segment of path) {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
    value = Object.hasOwn(value, segment) ? (value as Record<string, unknown>)[segment] : undefined;
  }
  return value;
}

const scalar = (value: unknown): Fact | undefined => (typeof value === 'string' || typeof value === 'number' ? value : undefined);

export function detailsHold(nodes: readonly DetailNode[], details: Details, moment: Moment): boolean {
  for (const node of nodes) {
    if (node.kind === 'detail') {
      if (!passes(node.test, scalar(at(details, node.path)), moment)) return false;
    } else {
      const elements = at(details, node.path);
      const found = Array.isArray(elements) && elements.some((element) => detailsHold(node.of, element as Details, moment));
      if (found !== node.some) return false;
    }
  }
  return true;
}

/** Details that are asked relative to *now* can change their answer with time alone. */
export function nextOfDetails(nodes: readonly DetailNode[], details: Details, moment: Moment): Instant {
  let next = NEVER;
  for (const node of nodes) {
    if (node.kind === 'detail') next = Math.min(next, nextOfTest(node.test, scalar(at(details, node.path)), moment));
    else {
      const elements = at(details, node.path);
      if (Array.isArray(elements))
        for (const element of elements) next = Math.min(next, nextOfDetails(node.of, element as Details, moment));
    }
  }
  return next;
}

type SignalNode = Extract<ConditionNode, { kind: 'signal' }>;

/** The signals that a signal condition counts, in order of time within each type. */
export function countedSignals(node: SignalNode, subject: Subject, moment: Moment): readonly Signal[] {
  const { from, to } = boundsAt(node.window, moment);
  const counted: Signal[] = [];
  for (const type of node.types) {
    for (const signal of subject.signals.get(type) ?? []) {
      if (signal.time < from) continue;
      if (signal.time > to) break;
      if (detailsHold(node.where, signal.details, moment)) counted.push(signal);
    }
  }
  return counted;
}

function countOf(node: SignalNode, subject: Subject, moment: Moment): number {
  const { from, to } = boundsAt(node.window, moment);
  let count = 0;
  for (const type of node.types) {
    for (const signal of subject.signals.get(type) ?? []) {
      if (signal.time < from) continue;
      if (signal.time > to) break;
      if (detailsHold(node.where, signal.details, moment)) count += 1;
    }
  }
  return count;
}

function leafHolds(node: LeafNode, subject: Subject, moment: Moment): boolean {
  switch (node.kind) {
    case 'field':
      return passes(node.test, subject.facts.get(node.field), moment);
    case 'tag':
      return subject.tags.has(node.tag) === node.has;
    case 'signal':
      return passes(node.count, countOf(node, subject, moment), moment);
    case 'score':
      return passes(node.test, (subject.scores.get(node.scorecard)?.points ?? 0) * POINT_SCALE, moment);
    case 'band': {
      const band = subject.scores.get(node.scorecard)?.band;
      return (band !== undefined && node.bands.includes(band)) !== node.negated;
    }
    case 'audience':
      return subject.memberships.has(node.audience) === node.isIn;
    case 'consent':
      return ((subject.consent.get(node.channel)?.state ?? 'unknown') === node.state) !== node.negated;
  }
}

/** Whether a condition holds for a contact at a moment. Total: every condition is true or false for every contact. */
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

/** A lower bound of the next instant at which any single line changes by itself. All lines are asked, also where a group is settled already. */
function nextLineChange(node: ConditionNode, subject: Subject, moment: Moment): Instant {
  if (node.kind === 'group') return node.of.reduce((next, each) => Math.min(next, nextLineChange(each, subject, moment)), NEVER);
  if (node.kind === 'field') return nextOfTest(node.test, subject.facts.get(node.field), moment);
  if (node.kind !== 'signal') return NEVER;
  let next = NEVER;
  for (const type of node.types) {
    let found = false;
    for (const signal of subject.signals.get(type) ?? []) {
      if (node.clock) next = Math.min(next, nextOfDetails(node.where, signal.details, moment));
      // Of what has happened, the earliest crosses first: once it is found, only what is dated ahead can come before it.
      if (found && signal.time <= moment.instant) continue;
      const crossing = nextCrossing(node.window, signal.time, moment);
      if (crossing === NEVER || !detailsHold(node.where, signal.details, moment)) continue;
      next = Math.min(next, crossing);
      found = true;
    }
  }
  return next;
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
    if (holds(node, subject, then) !== truth) return next;
    next = nextLineChange(node, subject, then);
  }
  return next;
}

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
      readonly since: Instant | null;
      readonly latest: readonly { readonly id: number; readonly time: Instant }[];
    }
  | { readonly kind: 'points'; readonly points: number; readonly band: string | null }
  | { readonly kind: 'has'; readonly has: boolean };

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

function seen(node: LeafNode, subject: Subject, moment: Moment): Seen {
  switch (node.kind) {
    case 'field':
      return { kind: 'value', value: subject.facts.get(node.field) ?? null };
    case 'tag':
      return { kind: 'has', has: subject.tags.has(node.tag) };
    case 'signal': {
      const counted = countedSignals(node, subject, moment);
      return {
        kind: 'signals',
        count: counted.length,
        since: node.window.kind === 'last' ? boundsAt(node.window, moment).from : null,
        latest: counted.slice(-SHOWN_SIGNALS).map(({ id, time }) => ({ id, time })),
      };
    }
    case 'score':
    case 'band': {
      const score = subject.scores.get(node.scorecard);
      return { kind: 'points', points: score?.points ?? 0, band: score?.band ?? null };
    }
    case 'audience':
      return { kind: 'has', has: subject.memberships.has(node.audience) };
    case 'consent':
      return { kind: 'value', value: subject.consent.get(node.channel)?.state ?? 'unknown' };
  }
}
