import { type ConditionNode } from '../conditions/node.ts';
import { detailsWatchTheClock } from '../conditions/dependencies.ts';
import { changesAt } from '../conditions/evaluate/changes-at.ts';
import { nextOfDetails } from '../conditions/evaluate/details.ts';
import { holds } from '../conditions/evaluate/holds.ts';
import { signalHolds } from '../conditions/evaluate/remembered.ts';
import { type Subject } from '../contacts/subject.ts';
import { type Signal } from '../intake/signal.ts';
import { type Moment } from '../time/moment.ts';
import { localDay, monthOf, weekOf, type Day, type Instant } from '../time/zone.ts';
import { type Keeps } from '../contacts/points.ts';
import { keptPoints } from './kept.ts';
import { type ActivityLine, type PreparedCard } from './prepare.ts';

const NEVER = Number.POSITIVE_INFINITY;

/** The points of one line, and for an activity line the signals it counts now. */
export interface LinePoints {
  /** the key of the line, or `rule:` and the id of a rule that gave points */
  readonly key: string;
  readonly points: number;
  readonly signals?: readonly { readonly id: number; readonly time: Instant; readonly points: number }[];
  /** signals of its type beyond the number that the line counts */
  readonly passedOver?: number;
  /** the next instant at which the line is worth something else */
  readonly changesAt: Instant;
}

export interface Score {
  /** thousandths, between the card's lowest and highest */
  readonly points: number;
  readonly band: string;
  /** until when the total is exact */
  readonly changesAt: Instant;
  readonly lines: readonly LinePoints[];
}

/** The recorded part of a score: latched lines, and points given by rules. */
export interface Recorded {
  readonly onceHeld: (line: string) => boolean;
  readonly given: Iterable<{ readonly rule: number; readonly points: number; readonly at: Instant; readonly keeps: Keeps }>;
}
export const NOTHING_RECORDED: Recorded = { onceHeld: () => false, given: [] };

/** A band includes its own lower edge and excludes the next band's; the last band has no upper edge. */
export function bandOf(card: Pick<PreparedCard, 'bands'>, points: number): string {
  let band = card.bands[0]?.key ?? '';
  for (const each of card.bands) if (points >= each.from) band = each.key;
  return band;
}

/**
 * The score of a subject at a moment: clamp(fact lines that stand + activity lines + points from rules), exact.
 *
 * @param next says of a fact line when its truth can change next
 */
export function scoreOf(
  card: PreparedCard,
  subject: Subject,
  recorded: Recorded,
  moment: Moment,
  next: (node: ConditionNode, subject: Subject, moment: Moment) => Instant = changesAt,
): Score {
  const lines = card.lines.map((line): LinePoints => {
    if (line.kind === 'activity') return activityPoints(line, subject.signals.get(line.type) ?? [], moment);
    const marked = line.onceHeld && recorded.onceHeld(line.key);
    return {
      key: line.key,
      points: marked || holds(line.node, subject, moment) ? line.points : 0,
      changesAt: marked ? NEVER : next(line.node, subject, moment),
    };
  });
  lines.push(...givenPoints(recorded, moment));
  const total = lines.reduce((sum, line) => sum + line.points, 0);
  const points = Math.min(card.max, Math.max(card.min, total));
  return { points, band: bandOf(card, points), changesAt: lines.reduce((next, line) => Math.min(next, line.changesAt), NEVER), lines };
}

/** Points given by rules, one line for each rule. Points dated in the future do not count yet. */
function givenPoints({ given }: Recorded, moment: Moment): readonly LinePoints[] {
  const byRule = new Map<number, LinePoints>();
  for (const each of given) {
    const kept = each.at > moment.instant ? { worth: 0, changesAt: each.at } : keptPoints(each.points, each.keeps, each.at, moment);
    const line = byRule.get(each.rule);
    byRule.set(each.rule, {
      key: `rule:${each.rule}`,
      points: (line?.points ?? 0) + kept.worth,
      changesAt: Math.min(line?.changesAt ?? NEVER, kept.changesAt),
    });
  }
  return [...byRule.values()];
}

function activityPoints(line: ActivityLine, signals: readonly Signal[], moment: Moment): LinePoints {
  let next = NEVER;
  let points = 0;
  let passedOver = 0;
  let reached = 0;
  const taken = new Map<number, number>();
  const watchesClock = detailsWatchTheClock(line.where);
  const counted: { id: number; time: Instant; points: number }[] = [];
  for (const signal of signals) {
    if (signal.time > moment.instant) {
      next = Math.min(next, signal.time);
      break;
    }
    if (watchesClock) next = Math.min(next, nextOfDetails(line.where, signal.details, moment));
    if (!signalHolds(line, signal, moment)) continue;
    reached += 1;
    // The earliest signals take the places and keep them after their points expire: a later one never moves up.
    const worthNew = pointsOf(line, signal, reached, taken, moment.zone);
    if (worthNew === undefined) {
      passedOver += 1;
      continue;
    }
    const { worth, changesAt: changes } = keptPoints(worthNew, line.keeps, signal.time, moment);
    next = Math.min(next, changes);
    points += worth;
    if (worth !== 0) counted.push({ id: signal.id, time: signal.time, points: worth });
  }
  return { key: line.key, points, signals: counted, passedOver, changesAt: next };
}

/** The points that a signal earns, or undefined where the line does not count it. */
function pointsOf(line: ActivityLine, signal: Signal, reached: number, taken: Map<number, number>, zone: string): number | undefined {
  if (line.counts === undefined) return line.steps.find((step) => step.at === reached)?.points;
  return takesPlace(line.counts, localDay(signal.time, zone), taken) ? line.points : undefined;
}

function takesPlace(counts: NonNullable<ActivityLine['counts']>, day: Day, taken: Map<number, number>): boolean {
  if (counts === 'every time') return true;
  const { upTo, per } = counts === 'once' ? { upTo: 1, per: 'all' as const } : counts;
  const period = per === 'all' ? 0 : per === 'day' ? day : per === 'week' ? weekOf(day) : monthOf(day);
  const already = taken.get(period) ?? 0;
  if (already >= upTo) return false;
  taken.set(period, already + 1);
  return true;
}

/** The lines that count for something, strongest first. */
export const strongestFirst = (lines: readonly LinePoints[]): readonly LinePoints[] =>
  lines.filter((line) => line.points !== 0).sort((a, b) => Math.abs(b.points) - Math.abs(a.points));
