import {
  Catalogue,
  Compiled,
  dealView,
  Moment,
  NOTHING_RECORDED,
  orThrow,
  pass,
  prepareCard,
  scoreOf,
  strongestFirst,
  SubjectState,
  type ScorecardBody,
  type Signal,
} from '../index.ts';
import { catalogue, DAY, definition, DEFINITIONS, NOW, typeId, WORKSPACE, ZONE } from '../testing/world.ts';

const moment = new Moment(NOW, ZONE);
const BANDS = [
  { key: 'low', name: 'low', from: 0 },
  { key: 'high', name: 'high', from: 10 },
];
const order = (id: number, daysAgo: number): Signal => ({
  id,
  typeId: typeId('order.placed'),
  time: NOW - daysAgo * DAY,
  source: 's',
  senderId: String(id),
  details: {},
  historic: false,
});
const contact = (id: number, ...orders: readonly number[]): SubjectState => {
  const state = new SubjectState({ id, isNew: false, lastNow: 0, dueAt: undefined });
  orders.forEach((daysAgo, index) => state.addSignal(order(id * 100 + index, daysAgo)));
  return state;
};
const prepared = (body: Partial<ScorecardBody> & Pick<ScorecardBody, 'of' | 'lines'>) =>
  orThrow(prepareCard(1, { min: 0, max: 100, bands: BANDS, ...body }, catalogue));

describe('a score by steps', () => {
  const steps = prepared({
    of: 'contact',
    lines: [
      {
        key: 'steps',
        kind: 'activity',
        type: typeId('order.placed'),
        points: 0,
        counts: {
          steps: [
            { at: 2, points: 5 },
            { at: 4, points: 20 },
          ],
        },
        keeps: { dropAfter: 30 },
      },
    ],
  });
  const points = (...orders: readonly number[]): number => scoreOf(steps, contact(1, ...orders), NOTHING_RECORDED, moment).points / 1_000;

  it('adds up, each step dated by the signal that reached it', () => {
    expect(points(3)).toBe(0);
    expect(points(5, 3)).toBe(5);
    expect(points(9, 7, 5, 3)).toBe(25);
    // The second order, which reached the first step, is too long ago; the fourth is not.
    expect(points(60, 40, 5, 3)).toBe(20);
  });
});

describe('a score of companies', () => {
  it('adds up what the company is and what its contacts do, strongest first', () => {
    const card = prepared({
      of: 'company',
      lines: [
        { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 4, counts: { upTo: 3, per: 'all' }, keeps: 'forever' },
        {
          key: 'large',
          kind: 'fact',
          condition: { kind: 'field', of: 'company', field: 21, op: '>=', value: 10 },
          points: 30,
          stands: 'while',
        },
        {
          key: 'two',
          kind: 'fact',
          condition: { kind: 'contacts', condition: { kind: 'signal', type: typeId('order.placed') }, count: { op: '>=', value: 2 } },
          points: -6,
          stands: 'while',
        },
      ],
    });
    const company = new SubjectState({ id: 9, kind: 'company', isNew: false, lastNow: 0, dueAt: undefined });
    company.facts.set(21, 12_000_000);
    company.contacts = [contact(1, 1, 2), contact(2, 3, 4), contact(3)];
    for (const [index, daysAgo] of [1, 2, 3, 4].entries()) company.addSignal(order(900 + index, daysAgo));
    const score = scoreOf(card, company, NOTHING_RECORDED, moment);
    expect(score).toMatchObject({ points: 36_000, band: 'high' });
    expect(strongestFirst(score.lines).map((line) => [line.key, line.points])).toEqual([
      ['large', 30_000],
      ['orders', 12_000],
      ['two', -6_000],
    ]);
  });
});

describe('a score of deals', () => {
  it('is of each deal by itself, and follows it', () => {
    const card = definition(70, 'scorecard', 'weight', 'Weight', {
      of: 'deal',
      min: 0,
      max: 100,
      bands: BANDS,
      lines: [
        {
          key: 'won',
          kind: 'fact',
          condition: { kind: 'deal', where: [{ path: 'stage', op: 'is', value: 'agreed' }] },
          points: 20,
          stands: 'while',
        },
        { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 3, counts: 'every time', keeps: 'forever' },
      ],
    });
    const compiled = new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, card]));
    const state = contact(1, 1);
    const put = (id: number, stage: string) =>
      pass(
        compiled,
        state,
        {
          kind: 'edit',
          changes: [{ kind: 'deal', deal: { id, outsideId: `d${id}`, pipeline: 38, stage, facts: new Map() } }],
          cause: { kind: 'api', ref: 'test' },
        },
        NOW,
      );
    put(1, 'enquiry');
    put(2, 'agreed');
    expect(state.dealScores.get('1:70')).toMatchObject({ points: 3_000, band: 'low' });
    expect(state.dealScores.get('2:70')).toMatchObject({ points: 23_000, band: 'high' });
    const effects = put(1, 'agreed');
    expect(state.dealScores.get('1:70')).toMatchObject({ points: 23_000 });
    // That a deal was won is something that happened, which the server sends.
    expect(effects.find((effect) => effect.kind === 'deal')?.sends).toMatchObject({ type: 'deal.won' });
    expect(dealView(state, 1).scores.get(70)).toMatchObject({ points: 23_000 });
  });
});
