import { type Moment } from '../time/moment.ts';
import { localDay, startOfDay, type Instant } from '../time/zone.ts';
import { type Keeps } from '../contacts/points.ts';

const NEVER = Number.POSITIVE_INFINITY;
/** After so many halvings nothing is left of any points. */
const MOST_HALVINGS = 52;

export interface KeptPoints {
  /** thousandths */
  readonly worth: number;
  /** the first instant at which they are worth something else */
  readonly changesAt: Instant;
}

/**
 * What is left at a moment of points dated an instant: dropped once they are no longer within the last N days, halved (towards zero)
 * at every N-th midnight after.
 */
export function keptPoints(points: number, keeps: Keeps, time: Instant, moment: Moment): KeptPoints {
  if (keeps === 'forever') return { worth: points, changesAt: NEVER };
  if ('dropAfter' in keeps) {
    const drops = moment.leavesLast(time, keeps.dropAfter, 'days');
    return drops > moment.instant ? { worth: points, changesAt: drops } : { worth: 0, changesAt: NEVER };
  }
  const { halveEvery } = keeps;
  const day = localDay(time, moment.zone);
  const halvings = Math.floor((moment.today - day) / halveEvery);
  const worth = halvings > MOST_HALVINGS ? 0 : Math.trunc(points / 2 ** halvings);
  // `|| 0` since a small negative number halves to -0.
  return { worth: worth || 0, changesAt: worth === 0 ? NEVER : startOfDay(day + halveEvery * (halvings + 1), moment.zone) };
}
