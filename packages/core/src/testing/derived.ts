import fc from 'fast-check';
import { Catalogue, Compiled, type AnyDefinition, type Condition, type SubjectState } from '../index.ts';
import { groundCompanyConditions, groundConditions } from './conditions.ts';
import { BANDS, DAY, definition, DEFINITIONS, NOW, typeId, WORKSPACE } from './definitions.ts';

const activity = [
  { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 8, counts: 'every time', keeps: { dropAfter: 30 } },
  {
    key: 'opens',
    kind: 'activity',
    type: typeId('message.opened'),
    points: 12,
    counts: { upTo: 1, per: 'week' },
    keeps: { halveEvery: 7 },
  },
];
const fact = (key: string, condition: Condition, points: number, stands: string) => ({ key, kind: 'fact', condition, points, stands });

/** Scorecards and audiences with generated conditions, of contacts (40, 41) and of companies (43, 44), as the small world names them. */
export const derivedDefinitions: fc.Arbitrary<readonly AnyDefinition[]> = fc
  .record({
    line: groundConditions,
    once: groundConditions,
    ground: groundConditions,
    over: fc.constantFrom('mid', 'top'),
    companyLine: groundCompanyConditions,
    companyGround: groundCompanyConditions,
    match: fc.constantFrom('all', 'any', 'none'),
  })
  .map(({ line, once, ground, over, companyLine, companyGround, match }) => {
    const card = (id: number, key: string, of: string, lines: readonly unknown[]) =>
      definition(id, 'scorecard', key, key === 'card' ? 'Liking' : 'Fit', { of, min: 0, max: 30, bands: BANDS, lines });
    const audience = (id: number, key: string, of: string, condition: unknown) =>
      definition(id, 'audience', key, key === 'aud' ? 'Some people' : 'Some firms', { kind: 'live', of, condition });
    const band = { kind: 'band', scorecard: 40, op: 'is', value: over };
    return [
      card(40, 'card', 'contact', [fact('while', line, 10, 'while'), fact('once', once, 5, 'once held'), ...activity]),
      audience(41, 'aud', 'contact', { match, of: [ground, band] }),
      card(43, 'fit', 'company', [fact('while', companyLine, 10, 'while'), ...activity]),
      audience(44, 'firms', 'company', { match: 'any', of: [companyGround, { kind: 'score', scorecard: 43, op: '>', value: 15 }] }),
    ];
  });

const DERIVED = new Set([40, 41, 43, 44]);
export const compiledOf = (derived: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS.filter((each) => !DERIVED.has(each.id as number)), ...derived]));

/** What rules and people gave, now and then, beside the facts of a generated contact. */
export const given = fc.record({
  mark: fc.option(fc.constantFrom(NOW - 3 * DAY, NOW + 3 * DAY), { nil: undefined }),
  points: fc.option(fc.constantFrom(NOW - 20 * DAY, NOW - DAY, NOW + 2 * DAY), { nil: undefined }),
  pin: fc.option(fc.record({ in: fc.boolean(), until: fc.constantFrom(undefined, NOW + 2 * DAY) }), { nil: undefined, freq: 2 }),
});
export type Given = typeof given extends fc.Arbitrary<infer Value> ? Value : never;

export function give(state: SubjectState, { mark, points, pin }: Given): void {
  if (mark !== undefined) state.latchedLines.set('40:once', mark);
  if (points !== undefined) state.points.set('70/1/0', { scorecard: 40, rule: 70, points: 6_000, at: points, keeps: { dropAfter: 10 } });
  if (pin) state.pins.set(41, { ...pin, reason: 'a test', since: NOW - DAY, by: 'ada@test.example' });
}
