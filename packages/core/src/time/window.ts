import { z } from 'zod';
import { bad, good, type Checked } from '../faults.ts';
import { Moment } from './moment.ts';
import { EARLIEST_INSTANT, LATEST_INSTANT, readDay, readInstant, startOfDay, type Instant, type Unit } from './zone.ts';

export const unitSchema = z.enum(['minutes', 'hours', 'days', 'weeks', 'months', 'years']);
const amount = z.int().min(0).max(36_500);

/** When a signal must have happened. Left out means ever; every window ends at *now*. */
export const windowSchema = z.union([
  z.literal('ever'),
  z.strictObject({ last: amount, unit: unitSchema }),
  z.strictObject({ olderThan: amount, unit: unitSchema }),
  z
    .looseObject({ from: z.string().optional(), to: z.string().optional() })
    // Not strict, since a union takes the one member that only has more than it should for the one that was meant.
    .refine((window) => Object.keys(window).every((key) => key === 'from' || key === 'to'), {
      abort: true,
      message: 'ever, or "last", "olderThan", or "from" and "to"',
    }) as unknown as z.ZodType<{ from?: string | undefined; to?: string | undefined }>,
]);
export type Window = z.infer<typeof windowSchema>;

/** A window in which every bound that does not move with *now* has been worked out. */
export type PreparedWindow =
  | { readonly kind: 'ever' }
  | { readonly kind: 'last' | 'olderThan'; readonly n: number; readonly unit: Unit }
  | { readonly kind: 'between'; readonly from: Instant; readonly to: Instant };

/** Both ends in, in whole milliseconds. */
export interface Bounds {
  readonly from: Instant;
  readonly to: Instant;
}

export function prepareWindow(window: Window | undefined, zone: string, path: readonly (string | number)[]): Checked<PreparedWindow> {
  if (window === undefined || window === 'ever') return good({ kind: 'ever' });
  if ('last' in window) return good({ kind: 'last', n: window.last, unit: window.unit });
  if ('olderThan' in window) return good({ kind: 'olderThan', n: window.olderThan, unit: window.unit });
  const read = (text: string): Instant | undefined => {
    const day = readDay(text);
    return day === undefined ? readInstant(text, zone) : startOfDay(day, zone);
  };
  const from = window.from === undefined ? EARLIEST_INSTANT : read(window.from);
  const to = window.to === undefined ? LATEST_INSTANT : read(window.to);
  if (from === undefined || to === undefined) {
    return bad({
      path: [...path, from === undefined ? 'from' : 'to'],
      code: 'window.time',
      expected: 'a day or date-time like 2026-11-25 or 2026-11-25T14:00',
    });
  }
  if (from > to) return bad({ path, code: 'window.reversed', expected: 'a start that is not after the end' });
  return good({ kind: 'between', from, to: to - 1 });
}

/** The stretch of time that a window spans at a moment. Nothing from the future counts. */
export function boundsAt(window: PreparedWindow, moment: Moment): Bounds {
  switch (window.kind) {
    case 'ever':
      return { from: EARLIEST_INSTANT, to: moment.instant };
    case 'last':
      return { from: moment.lastStart(window.n, window.unit), to: moment.instant };
    case 'olderThan':
      return { from: EARLIEST_INSTANT, to: moment.lastStart(window.n, window.unit) - 1 };
    case 'between':
      return { from: window.from, to: Math.min(window.to, moment.instant) };
  }
}

/** Whether an instant lies in a window at a moment. */
export function isWithin(window: PreparedWindow, instant: Instant, moment: Moment): boolean {
  const { from, to } = boundsAt(window, moment);
  return instant >= from && instant <= to;
}

/** The first instant after the moment at which something of `instant` goes into or out of the window, or infinity. */
export function nextCrossing(window: PreparedWindow, instant: Instant, moment: Moment): Instant {
  const arrives = instant > moment.instant ? instant : Number.POSITIVE_INFINITY;
  if (window.kind === 'ever') return arrives;
  if (window.kind === 'between') return instant >= window.from && instant <= window.to ? arrives : Number.POSITIVE_INFINITY;
  // What has crossed already does not come back; most of what is asked has, and this spares the arithmetic of calendars.
  if (instant < moment.lastStart(window.n, window.unit)) return arrives;
  const crosses = moment.leavesLast(instant, window.n, window.unit);
  return Math.min(arrives, crosses > moment.instant ? crosses : Number.POSITIVE_INFINITY);
}
