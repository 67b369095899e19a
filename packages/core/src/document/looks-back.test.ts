import { Catalogue, lookingFurtherBack } from '../index.ts';
import { definition, DEFINITIONS, typeId, WORKSPACE } from '../testing/world.ts';

const ordered = typeId('order.placed');
const audience = (id: number, condition: unknown) =>
  definition(id, 'audience', `a-${id}`, `A ${id}`, { kind: 'live', of: 'contact', condition });
const signal = (more: object = {}) => ({ kind: 'signal', type: ordered, ...more });
const last = (n: number, unit = 'days') => ({ within: { last: n, unit } });
const line = (keeps: unknown) =>
  definition(160, 'scorecard', 's', 'S', {
    ...{ of: 'contact', min: 0, max: 9, bands: [] },
    lines: [{ key: 'k', kind: 'activity', type: ordered, points: 1, counts: 'every time', keeps }],
  });

describe('what looks further back than signals are kept', () => {
  const found = (more: ReturnType<typeof definition>, days = 60): boolean =>
    lookingFurtherBack(new Catalogue(WORKSPACE, [...DEFINITIONS, more]), ordered, days).some(({ id }) => id === more.id);

  it.each([
    [signal(), true],
    [signal(last(60)), false],
    [signal(last(61)), true],
    [signal(last(2, 'months')), true],
    [signal(last(8, 'weeks')), false],
    [signal({ within: { olderThan: 5, unit: 'days' } }), true],
    [signal({ type: 'from them' }), true],
    [{ kind: 'signal', type: typeId('page.visited') }, false],
    [{ match: 'any', of: [signal(last(3)), { match: 'none', of: [signal(last(1, 'years'))] }] }, true],
    [
      { kind: 'signal', type: typeId('page.visited'), then: { type: ordered, happens: true, within: { n: 9, unit: 'days' } }, ...last(30) },
      false,
    ],
    [{ kind: 'signal', type: typeId('page.visited'), then: { type: ordered, happens: true } }, true],
    [{ kind: 'compare', left: { type: ordered, ...last(90) }, op: '>', right: { type: ordered, ...last(30) } }, true],
  ])('is %j: %s', (condition, is) => {
    expect(found(audience(150, condition))).toBe(is);
  });

  it.each([
    ['forever', true],
    [{ dropAfter: 60 }, false],
    [{ dropAfter: 61 }, true],
    [{ halveEvery: 5 }, true],
  ])('is a scorecard whose points are kept %j: %s', (keeps, is) => {
    expect(found(line(keeps))).toBe(is);
  });

  it('is no rule that only begins with one', () => {
    const rule = (more: object) =>
      definition(161, 'rule', 'r', 'R', {
        of: 'contact',
        when: { kind: 'signal', type: ordered },
        then: [{ do: 'add tag', tag: 30 }],
        ...more,
      });
    expect(found(rule({}))).toBe(false);
    expect(found(rule({ if: signal({ count: { op: '>=', value: 2 } }) }))).toBe(true);
  });
});
