import { Catalogue, compileRule, type Definition, type RuleBody } from '../index.ts';
import { ruleOf } from '../testing/engine.ts';
import { catalogue, definition, DEFINITIONS, typeId, WORKSPACE } from '../testing/world.ts';

const onOrder = { kind: 'signal', type: typeId('order.placed') } as const;
const compile = (body: Parameters<typeof ruleOf>[1], under = catalogue) =>
  compileRule(ruleOf(101, body) as unknown as Definition<'rule'>, under);
const faults = (body: Parameters<typeof ruleOf>[1], under?: Catalogue): unknown => {
  const checked = compile(body, under);
  return checked.ok ? [] : checked.faults.map(({ path, code }) => `${path.join('.')} ${code}`);
};
const then: RuleBody['then'] = [{ do: 'add tag', tag: 30 }];

describe('a rule that cannot work is refused with where and why', () => {
  it.each<[string, Parameters<typeof ruleOf>[1], unknown]>([
    [
      'a signal type that is not there',
      { when: { kind: 'signal', type: 9_999 }, then },
      expect.arrayContaining(['when.type signalType.unknown']),
    ],
    [
      'a detail that the type does not have',
      { when: { ...onOrder, where: [{ path: 'colour', op: 'is', value: 'x' }] }, then },
      [expect.stringMatching(/^when\.where/)],
    ],
    ['a date that is a number', { when: { kind: 'date', field: 11, days: 0, yearly: false, hour: 9 }, then }, ['when.field date.field']],
    ['a tag without a date', { when: { kind: 'date', tag: 30, days: 0, yearly: false, hour: 9 }, then }, ['when.tag date.tag']],
    ['a tag that is not there', { when: onOrder, then: [{ do: 'add tag', tag: 9_999 }] }, ['then.0.tag tag.unknown']],
    [
      'a field of the company set on the contact',
      { when: onOrder, then: [{ do: 'set field', field: 20, value: 'x' }] },
      [expect.stringMatching(/^then\.0/)],
    ],
    [
      'a text that is no number',
      { when: onOrder, then: [{ do: 'set field', field: 11, value: 'many' }] },
      [expect.stringMatching(/^then\.0/)],
    ],
    [
      'a condition on what is not there',
      { when: onOrder, if: { kind: 'tag', tag: 9_999, op: 'has' }, then },
      [expect.stringMatching(/^if/)],
    ],
  ])('%s', (_what, body, expected) => {
    expect(faults(body)).toEqual(expected);
  });

  it('says everything that is wrong at once', () => {
    expect(
      faults({
        when: { kind: 'date', tag: 30, days: 0, yearly: false, hour: 9 },
        then: [
          { do: 'add tag', tag: 9_999 },
          { do: 'remove tag', tag: 9_998 },
        ],
      }),
    ).toHaveLength(3);
  });
});

describe('a rule that can', () => {
  it('has its bundles laid out in place, each step under its own condition', () => {
    const greet = definition(92, 'bundle', 'greet', 'Greet', {
      then: [{ action: { do: 'add tag', tag: 31 } }, { if: { kind: 'tag', tag: 30, op: 'has' }, action: { do: 'clear field', field: 10 } }],
    });
    const under = new Catalogue(WORKSPACE, [...DEFINITIONS, greet]);
    const checked = compile(
      {
        when: onOrder,
        then: [
          { do: 'run bundle', bundle: 92 },
          { do: 'add tag', tag: 30 },
        ],
      },
      under,
    );
    if (!checked.ok) throw new Error('it should compile');
    expect(checked.value.steps.map(({ action }) => action.do)).toEqual(['add tag', 'clear field', 'add tag']);
    expect(checked.value.reads.on.has('tag:30')).toBe(true);

    const nested = definition(93, 'bundle', 'outer', 'Outer', { then: [{ action: { do: 'run bundle', bundle: 92 } }] });
    expect(
      faults({ when: onOrder, then: [{ do: 'run bundle', bundle: 93 }] }, new Catalogue(WORKSPACE, [...DEFINITIONS, greet, nested])),
    ).toEqual(['then.0.bundle.0.action bundle.nested']);
  });

  it('says whether it takes values from the signal as it was sent', () => {
    const takes = (body: Parameters<typeof ruleOf>[1]): boolean | undefined => {
      const checked = compile(body);
      return checked.ok ? checked.value.takesDetails : undefined;
    };
    expect(takes({ when: onOrder, then: [{ do: 'set field', field: 10, value: { detail: 'order' } }] })).toBe(true);
    expect(takes({ when: onOrder, then: [{ do: 'set field', field: 10, value: 'order' }] })).toBe(false);
  });
});
