import { Catalogue, usesOfTag, type AnyDefinition } from '../index.ts';
import { BARE, ruleOf } from '../testing/engine.ts';
import { definition, typeId, WORKSPACE } from '../testing/world.ts';

const has = { kind: 'tag', tag: 30, op: 'has' } as const;
const onOrder = { kind: 'signal', type: typeId('order.placed') } as const;
const uses = (...more: readonly AnyDefinition[]): { givenBy: string[]; reliedOnIn: string[] } => {
  const { givenBy, reliedOnIn } = usesOfTag(new Catalogue(WORKSPACE, [...BARE, ...more]), 30);
  return { givenBy: givenBy.map((each) => `${each.kind} ${each.key}`), reliedOnIn: reliedOnIn.map((each) => `${each.kind} ${each.key}`) };
};

describe('what has to do with a tag', () => {
  it.each<[string, AnyDefinition]>([
    ['rule rule-101', ruleOf(101, { when: onOrder, then: [{ do: 'add tag', tag: 30 }] })],
    ['bundle greet', definition(92, 'bundle', 'greet', 'Greet', { then: [{ action: { do: 'add tag', tag: 30 } }] })],
    [
      'form find',
      definition(93, 'form', 'find', 'Find', {
        intro: '',
        thanks: '',
        published: true,
        questions: [{ key: 'q', label: 'Q', type: 'one choice', required: false, options: [{ key: 'a', name: 'A', add: [30] }] }],
      }),
    ],
    [
      'map products',
      definition(95, 'map', 'products', 'Products', {
        on: true,
        path: 'plan',
        reason: 'plan',
        adds: [],
        takes: [],
        rows: [{ value: 'x', add: [30], remove: [] }],
      }),
    ],
    ['message hello', definition(96, 'message', 'hello', 'Hello', { links: [{ key: 'yes', tag: 30 }] })],
  ])('gives it: %s', (who, each) => {
    expect(uses(each)).toEqual({ givenBy: [who], reliedOnIn: [] });
  });

  it.each<[string, AnyDefinition]>([
    ['audience some', definition(90, 'audience', 'some', 'Some', { kind: 'live', of: 'contact', condition: { match: 'none', of: [has] } })],
    [
      'scorecard card',
      definition(40, 'scorecard', 'card', 'Card', {
        of: 'contact',
        min: 0,
        max: 1,
        bands: [],
        lines: [{ key: 'l', kind: 'fact', condition: has, points: 1, stands: 'while' }],
      }),
    ],
    ['rule rule-101', ruleOf(101, { when: { kind: 'becomes', condition: has }, then: [{ do: 'clear field', field: 10 }] })],
    ['rule rule-102', ruleOf(102, { when: onOrder, if: has, then: [{ do: 'clear field', field: 10 }] })],
    ['routing desk', definition(91, 'routing', 'desk', 'Desk', { rows: [{ key: 'r', if: has, owners: ['a@test.example'] }] })],
    ['bundle greet', definition(92, 'bundle', 'greet', 'Greet', { then: [{ if: has, action: { do: 'clear field', field: 10 } }] })],
    ['stage met', definition(93, 'stage', 'met', 'Met', { position: 9, needs: has })],
  ])('relies on it: %s', (who, each) => {
    expect(uses(each)).toEqual({ givenBy: [], reliedOnIn: [who] });
  });

  it('is neither what takes it away nor what names another whose id begins the same', () => {
    expect(
      uses(
        ruleOf(101, { when: onOrder, then: [{ do: 'remove tag', tag: 30 }] }),
        definition(90, 'audience', 'other', 'Other', { kind: 'live', of: 'contact', condition: { kind: 'tag', tag: 300, op: 'has' } }),
      ),
    ).toEqual({ givenBy: [], reliedOnIn: [] });
  });

  it('says of a rule or a map that it is off', () => {
    const off = ruleOf(101, { when: onOrder, then: [{ do: 'add tag', tag: 30 }], on: false });
    expect(usesOfTag(new Catalogue(WORKSPACE, [...BARE, off]), 30).givenBy).toMatchObject([{ key: 'rule-101', on: false }]);
  });
});
