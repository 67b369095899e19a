import { detailsWatchTheClock } from '../conditions/dependencies.ts';
import { changesAt, detailsHold, holds, nextOfDetails } from '../conditions/evaluate.ts';
import { type ConditionNode, type DetailNode } from '../conditions/node.ts';
import { prepare, prepareWhere } from '../conditions/prepare.ts';
import { type Subject } from '../contacts/subject.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { type Signal } from '../intake/signal.ts';
import { scaled } from '../numbers/decimal.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type ScorecardId, type SignalTypeId } from '../settings/ids.ts';
import { type Moment } from '../time/moment.ts';
import { localDay, monthOf, startOfDay, weekOf, type Day, type Instant } from '../time/zone.ts';
import { type Counts, type Keeps, type ScorecardBody } from './definition.ts';

/** Points are kept in integer thousandths. */
const POINT_PLACES = 3;
const NEVER = Number.POSITIVE_INFINITY;

export type PreparedLine =
  | { readonly kind: 'fact'; readonly key: string; readonly node: ConditionNode; readonly points: number; readonly onceHeld: boolean }
  | {
      readonly kind: 'activity';
      readonly key: string;
      readonly type: SignalTypeId;
      readonly where: readonly DetailNode[];
      readonly points: number;
      readonly counts: Counts;
      readonly keeps: Keeps;
    };

export interface PreparedCard {
  readonly id: ScorecardId;
  readonly min: number;
  readonly max: number;
  readonly bands: readonly { readonly key: string; readonly from: number }[];
  readonly lines: readonly PreparedLine[];
}

/** Makes a scorecard ready to count, or says everything that is wrong with it. */
export function prepareCard(id: ScorecardId, body: ScorecardBody, catalogue: Catalogue): Checked<PreparedCard> {
  const faults: Fault[] = [];
  const points = (value: number, path: readonly (string | number)[]): number => {
    const read = scaled(value, POINT_PLACES, path);
    if (read.ok) return read.value;
    faults.push(...read.faults);
    return 0;
  };
  const lines = body.lines.flatMap((line, index): PreparedLine[] => {
    const path = ['lines', index];
    const worth = points(line.points, [...path, 'points']);
    if (line.kind === 'fact') {
      const node = prepare(line.condition, catalogue);
      if (node.ok) return [{ kind: 'fact', key: line.key, node: node.value, points: worth, onceHeld: line.stands === 'once held' }];
      faults.push(...node.faults.map((fault) => ({ ...fault, path: [...path, 'condition', ...fault.path] })));
      return [];
    }
    const type = catalogue.get('signalType', line.type);
    if (!type || type.retired) {
      faults.push({ path: [...path, 'type'], code: 'signal-type.unknown', expected: 'a type of signal that exists' });
      return [];
    }
    const where = prepareWhere([type.id], line.where, catalogue, [...path, 'where']);
    if (where.ok)
      return [
        { kind: 'activity', key: line.key, type: type.id, where: where.value, points: worth, counts: line.counts, keeps: line.keeps },
      ];
    faults.push(...where.faults);
    return [];
  });
  const card: PreparedCard = {
    id,
    min: points(body.min, ['min']),
    max: points(body.max, ['max']),
    bands: body.bands.map((band, index) => ({ key: band.key, from: points(band.from, ['bands', index, 'from']) })),
    lines,
  };
  return faults.length > 0 ? bad(...faults) : good(card);
}

/** What one line adds, and for an activity line the signals that it counts at this moment. */
export interface LinePoints {
  readonly key: string;
  readonly points: number;
  readonly signals?: readonly { readonly id: number; readonly time: Instant; readonly points: number }[];
  /** signals of its type that the line does not count, since it counts only so many */
  readonly passedOver?: number;
}

export interface Score {
  /** thousandths, between the card's lowest and highest */
  readonly points: number;
  readonly band: string;
  /** until when the total is exact */
  readonly changesAt: Instant;
  readonly lines: readonly LinePoints[];
}

export function bandOf(card: Pick<PreparedCard, 'bands'>, points: number): string {
  let band = card.bands[0]?.key ?? '';
  for (const each of card.bands) if (points >= each.from) band = each.key;
  return band;
}

/**
 * The score of a contact at a moment: clamp(fact lines that stand + activity lines), exact.
 *
 * @param onceHeld the keys of the lines that held at some time and keep standing for it
 */
export function scoreOf(card: PreparedCard, subject: Subject, onceHeld: (line: string) => boolean, moment: Moment): Score {
  let next = NEVER;
  let total = 0;
  const lines = card.lines.map((line): LinePoints => {
    if (line.kind === 'activity') {
      const activity = activityPoints(line, subject.signals.get(line.type) ?? [], moment);
      next = Math.min(next, activity.changesAt);
      total += activity.points;
      return { key: line.key, points: activity.points, signals: activity.signals, passedOver: activity.passedOver };
    }
    const marked = line.onceHeld && onceHeld(line.key);
    if (!marked) next = Math.min(next, changesAt(line.node, subject, moment));
    const points = marked || holds(line.node, subject, moment) ? line.points : 0;
    total += points;
    return { key: line.key, points };
  });
  const points = Math.min(card.max, Math.max(card.min, total));
  return { points, band: bandOf(card, points), changesAt: next, lines };
}

type ActivityLine = Extract<PreparedLine, { kind: 'activity' }>;

function activityPoints(line: ActivityLine, signals: readonly Signal[], moment: Moment) {
  let next = NEVER;
  let points = 0;
  let passedOver = 0;
  const taken = new Map<number, number>();
  const watchesClock = detailsWatchTheClock(line.where);
  const counted: { id: number; time: Instant; points: number }[] = [];
  for (const signal of signals) {
    if (signal.time > moment.instant) {
      next = Math.min(next, signal.time);
      break;
    }
    if (watchesClock) next = Math.min(next, nextOfDetails(line.where, signal.details, moment));
    if (!detailsHold(line.where, signal.details, moment)) continue;
    const day = localDay(signal.time, moment.zone);
    // The earliest take the places, and keep them when their points have gone: a later one never moves up.
    if (!takesPlace(line.counts, day, taken)) {
      passedOver += 1;
      continue;
    }
    const { worth, changesAt: changes } = keptPoints(line, signal.time, day, moment);
    next = Math.min(next, changes);
    points += worth;
    if (worth !== 0) counted.push({ id: signal.id, time: signal.time, points: worth });
  }
  return { points, signals: counted, passedOver, changesAt: next };
}

function takesPlace(counts: Counts, day: Day, taken: Map<number, number>): boolean {
  if (counts === 'every time') return true;
  const { upTo, per } = counts === 'once' ? { upTo: 1, per: 'all' as const } : counts;
  const period = per === 'all' ? 0 : per === 'day' ? day : per === 'week' ? weekOf(day) : monthOf(day);
  const already = taken.get(period) ?? 0;
  if (already >= upTo) return false;
  taken.set(period, already + 1);
  return true;
}

function keptPoints(line: ActivityLine, time: Instant, day: Day, moment: Moment): { worth: number; changesAt: Instant } {
  if (line.keeps === 'forever') return { worth: line.points, changesAt: NEVER };
  if ('dropAfter' in line.keeps) {
    const drops = moment.leavesLast(time, line.keeps.dropAfter, 'days');
    return drops > moment.instant ? { worth: line.points, changesAt: drops } : { worth: 0, changesAt: NEVER };
  }
  const { halveEvery } = line.keeps;
  const halvings = Math.floor((moment.today - day) / halveEvery);
  const worth = halvings > 52 ? 0 : Math.trunc(line.points / 2 ** halvings);
  return { worth: worth || 0, changesAt: worth === 0 ? NEVER : startOfDay(day + halveEvery * (halvings + 1), moment.zone) };
}
