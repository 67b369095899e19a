import { type Fact } from '../../contacts/facts.ts';
import { type Details } from '../../intake/details.ts';
import { type Moment } from '../../time/moment.ts';
import { type Instant } from '../../time/zone.ts';
import { type DetailNode } from '../node.ts';
import { type ValueTest } from '../operators/index.ts';

export const NEVER = Number.POSITIVE_INFINITY;

/** Whether a value (undefined: empty) passes a test. */
export function passes(test: ValueTest, value: Fact | undefined, moment: Moment): boolean {
  if (test.ask === 'empty') return value === undefined;
  if (test.ask === 'filled') return value !== undefined;
  return (value !== undefined && test.positive.holds(value, test.operand, moment)) !== test.negated;
}

/** The first instant after the moment at which a value can pass a test otherwise, with no one touching it. */
export function nextOfTest(test: ValueTest, value: Fact | undefined, moment: Moment): Instant {
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

export const numberAt = (details: Details, path: readonly string[]): number => {
  const value = at(details, path);
  return typeof value === 'number' ? value : 0;
};

export function elementsAt(details: Details, path: readonly string[]): readonly Details[] {
  const elements = at(details, path);
  return Array.isArray(elements) ? (elements as readonly Details[]) : [];
}

export function detailsHold(nodes: readonly DetailNode[], details: Details, moment: Moment): boolean {
  for (const node of nodes) {
    if (node.kind === 'detail') {
      if (!passes(node.test, scalar(at(details, node.path)), moment)) return false;
    } else if (elementsAt(details, node.path).some((element) => detailsHold(node.of, element, moment)) !== node.some) return false;
  }
  return true;
}

/** Whether the answer can change with time alone, because a detail is compared relative to *now*. */
export function nextOfDetails(nodes: readonly DetailNode[], details: Details, moment: Moment): Instant {
  let next = NEVER;
  for (const node of nodes) {
    if (node.kind === 'detail') next = Math.min(next, nextOfTest(node.test, scalar(at(details, node.path)), moment));
    else for (const element of elementsAt(details, node.path)) next = Math.min(next, nextOfDetails(node.of, element, moment));
  }
  return next;
}
