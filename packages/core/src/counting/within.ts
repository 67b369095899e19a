import { type Moment } from '../time/moment.ts';
import { boundsAt, nextCrossing, type PreparedWindow } from '../time/window.ts';
import { localDay, startOfDay, type Day, type Instant } from '../time/zone.ts';

const NEVER = Number.POSITIVE_INFINITY;
const DAY_MS = 86_400_000;
/** Crossings are worked out once for instants that are so near to each other. */
const GRAIN_MS = 900_000;

/** A lower bound of when something of an instant crosses a window: of all within some minutes the first. */
export function crossings(window: PreparedWindow, moment: Moment): (instant: Instant) => Instant {
  const known = new Map<number, Instant>();
  return (instant) => {
    if (instant > moment.instant || window.kind === 'ever' || window.kind === 'between') return nextCrossing(window, instant, moment);
    if (instant < moment.lastStart(window.n, window.unit)) return NEVER;
    const grain = Math.floor(instant / GRAIN_MS);
    let crossing = known.get(grain);
    if (crossing === undefined) known.set(grain, (crossing = moment.leavesLast(grain * GRAIN_MS, window.n, window.unit)));
    return crossing > moment.instant ? crossing : nextCrossing(window, instant, moment);
  };
}

/** Whether an instant lies in a window, and when that changes. Without a window it always does. */
export function within(
  window: PreparedWindow | undefined,
  moment: Moment,
): { readonly is: (at: Instant) => boolean; readonly next: (at: Instant) => Instant } {
  if (!window) return { is: () => true, next: () => NEVER };
  const { from, to } = boundsAt(window, moment);
  return { is: (at) => at >= from && at <= to, next: crossings(window, moment) };
}

/** The day of an instant. Its bounds are worked out once. */
export function daysIn(zone: string): (instant: Instant) => Day {
  const known = new Map<number, { readonly day: Day; readonly from: Instant; readonly to: Instant }>();
  return (instant) => {
    const near = Math.floor(instant / DAY_MS);
    const found = known.get(near);
    if (found && instant >= found.from && instant < found.to) return found.day;
    const day = localDay(instant, zone);
    known.set(near, { day, from: startOfDay(day, zone), to: startOfDay(day + 1, zone) });
    return day;
  };
}
