import {
  NOTHING_RECORDED,
  SubjectState,
  Moment,
  orThrow,
  prepareCard,
  scoreOf,
  type Counts,
  type Keeps,
  type ScorecardBody,
} from '../index.ts';
import { catalogue, NOW, typeId, ZONE } from '../testing/world.ts';

const DAY = 86_400_000;
const card = (line: { points: number; counts?: Counts; keeps?: Keeps }, more: Partial<ScorecardBody> = {}) =>
  orThrow(
    prepareCard(
      1,
      {
        of: 'contact',
        min: -100,
        max: 100,
        bands: [
          { key: 'low', name: 'low', from: -100 },
          { key: 'high', name: 'high', from: 10 },
        ],
        lines: [
          {
            key: 'line',
            kind: 'activity',
            type: typeId('order.placed'),
            points: line.points,
            counts: line.counts ?? 'every time',
            keeps: line.keeps ?? 'forever',
          },
        ],
        ...more,
      },
      catalogue,
    ),
  );

function stateWith(...daysAgo: readonly number[]): SubjectState {
  const state = new SubjectState({ id: 1, isNew: false, lastNow: 0, dueAt: undefined });
  daysAgo.forEach((days, index) =>
    state.addSignal({
      id: index + 1,
      typeId: typeId('order.placed'),
      time: NOW - days * DAY,
      source: 's',
      senderId: String(index),
      details: {},
      historic: false,
    }),
  );
  return state;
}
const points = (prepared: ReturnType<typeof card>, state: SubjectState, now = NOW): number =>
  scoreOf(prepared, state, NOTHING_RECORDED, new Moment(now, ZONE)).points / 1_000;

describe('a score', () => {
  it('counts every time, once, and up to so many a day, a week, a month', () => {
    const state = stateWith(0, 0, 1, 8, 40);
    expect(points(card({ points: 10 }), state)).toBe(50);
    expect(points(card({ points: 10, counts: 'once' }), state)).toBe(10);
    expect(points(card({ points: 10, counts: { upTo: 1, per: 'day' } }), state)).toBe(40);
    expect(points(card({ points: 10, counts: { upTo: 2, per: 'all' } }), state)).toBe(20);
    expect(points(card({ points: 10, counts: { upTo: 1, per: 'month' } }), state)).toBe(20);
  });

  it('drops points after so many days, and never lets a later signal take the place of the first', () => {
    expect(points(card({ points: 10, keeps: { dropAfter: 30 } }), stateWith(30, 31))).toBe(10);
    expect(points(card({ points: 10, counts: 'once', keeps: { dropAfter: 30 } }), stateWith(31, 1))).toBe(0);
  });

  it('halves points at midnight, exactly, towards zero', () => {
    const halving = (value: number, days: number): number => points(card({ points: value, keeps: { halveEvery: 7 } }), stateWith(days));
    expect([0, 6, 7, 14, 21].map((days) => halving(5, days))).toEqual([5, 5, 2.5, 1.25, 0.625]);
    expect(halving(0.001, 7)).toBe(0);
    expect(halving(-0.003, 7)).toBe(-0.001);
    expect(halving(9_999.999, 1_000)).toBe(0);
  });

  it('is clamped, stands in the band whose edge it has reached, and says until when it is exact', () => {
    const state = stateWith(0, 0, 0);
    expect(points(card({ points: 60 }), state)).toBe(100);
    const score = scoreOf(card({ points: 5, keeps: { dropAfter: 1 } }), stateWith(1, 0), NOTHING_RECORDED, new Moment(NOW, ZONE));
    expect(score).toMatchObject({ points: 10_000, band: 'high', changesAt: Date.UTC(2026, 2, 30, 22) });
    expect(score.lines).toMatchObject([{ key: 'line', points: 10_000, passedOver: 0 }]);
  });

  it('does not count what is dated ahead until its time has come', () => {
    const state = stateWith(-0.001);
    expect(points(card({ points: 5 }), state)).toBe(0);
    expect(points(card({ points: 5 }), state, NOW + DAY)).toBe(5);
  });

  it('lets a fact line stand while it holds, or for good once it has held', () => {
    const fact = (stands: 'while' | 'once held') =>
      card({ points: 0 }, { lines: [{ key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 7, stands }] });
    const tagged = stateWith();
    tagged.tags.set(30, { since: NOW, reasons: [{ kind: 'hand', ref: 'x' }] });
    expect(points(fact('while'), tagged)).toBe(7);
    expect(scoreOf(fact('once held'), stateWith(), { onceHeld: () => true, given: [] }, new Moment(NOW, ZONE)).points).toBe(7_000);
    expect(scoreOf(fact('while'), stateWith(), { onceHeld: () => true, given: [] }, new Moment(NOW, ZONE)).points).toBe(0);
  });
});
