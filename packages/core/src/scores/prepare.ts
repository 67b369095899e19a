import { detailsWatchTheClock } from '../conditions/dependencies.ts';
import { remembered, type Remembered } from '../conditions/remembered.ts';
import { type ConditionNode, type DetailNode } from '../conditions/node.ts';
import { prepare, prepareWhere } from '../conditions/prepare/prepare.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { scaled } from '../numbers/decimal.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type ScorecardId, type SignalTypeId } from '../settings/ids.ts';
import { type Counts, type ScorecardBody, type ScoreLine } from './definition.ts';
import { type Keeps } from '../contacts/points.ts';

/** Points are kept in integer thousandths. */
export const POINT_PLACES = 3;

export interface FactLine {
  readonly kind: 'fact';
  readonly key: string;
  readonly node: ConditionNode;
  readonly points: number;
  readonly onceHeld: boolean;
}
export interface ActivityLine {
  readonly kind: 'activity';
  readonly key: string;
  readonly type: SignalTypeId;
  readonly where: readonly DetailNode[];
  readonly remembered?: Remembered | undefined;
  readonly points: number;
  readonly counts: Exclude<Counts, { steps: unknown }> | undefined;
  /** points for reaching numbers, where it counts by steps */
  readonly steps: readonly { readonly at: number; readonly points: number }[];
  readonly keeps: Keeps;
}
export type PreparedLine = FactLine | ActivityLine;

export interface PreparedCard {
  readonly id: ScorecardId;
  readonly of: SubjectKind;
  readonly min: number;
  readonly max: number;
  readonly bands: readonly { readonly key: string; readonly from: number }[];
  readonly lines: readonly PreparedLine[];
}

type Path = readonly (string | number)[];

/** Compiles a scorecard, or returns all of its faults. */
export function prepareCard(id: ScorecardId, body: ScorecardBody, catalogue: Catalogue): Checked<PreparedCard> {
  const faults: Fault[] = [];
  const points = (value: number, path: Path): number => {
    const read = scaled(value, POINT_PLACES, path);
    if (read.ok) return read.value;
    faults.push(...read.faults);
    return 0;
  };
  const line = (each: ScoreLine, path: Path): PreparedLine[] => {
    const worth = points(each.points, [...path, 'points']);
    if (each.kind === 'fact') {
      const node = prepare(each.condition, catalogue, body.of);
      if (node.ok) return [{ kind: 'fact', key: each.key, node: node.value, points: worth, onceHeld: each.stands === 'once held' }];
      faults.push(...node.faults.map((fault) => ({ ...fault, path: [...path, 'condition', ...fault.path] })));
      return [];
    }
    if (!catalogue.get('signalType', each.type)) {
      faults.push({ path: [...path, 'type'], code: 'signalType.unknown', expected: 'a type of signal that exists' });
      return [];
    }
    const where = prepareWhere([each.type], each.where, catalogue, [...path, 'where']);
    if (!where.ok) {
      faults.push(...where.faults);
      return [];
    }
    const { counts } = each;
    const stepped = typeof counts === 'object' && 'steps' in counts;
    const steps = stepped
      ? counts.steps.map((step, at) => ({ at: step.at, points: points(step.points, [...path, 'counts', 'steps', at]) }))
      : [];
    return [
      {
        kind: 'activity',
        key: each.key,
        type: each.type,
        where: where.value,
        remembered: remembered(catalogue, [each.type], each.where, detailsWatchTheClock(where.value)),
        points: worth,
        counts: stepped ? undefined : counts,
        steps,
        keeps: each.keeps,
      },
    ];
  };
  const card: PreparedCard = {
    id,
    of: body.of,
    min: points(body.min, ['min']),
    max: points(body.max, ['max']),
    bands: body.bands.map((band, index) => ({ key: band.key, from: points(band.from, ['bands', index, 'from']) })),
    lines: body.lines.flatMap((each, index) => line(each, ['lines', index])),
  };
  return faults.length > 0 ? bad(...faults) : good(card);
}
