import {
  Catalogue,
  clauseOf,
  describe as sentenceOf,
  isGroup,
  joinedParts,
  lineText,
  normalise,
  orThrow,
  parseCondition,
  read,
  said,
  type AnyDefinition,
  type Condition,
  type Group,
  type Leaf,
} from '../../index.ts';
import fc from 'fast-check';
import { DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';
import { catalogue, companyConditions, conditions } from '../../testing/world.ts';

const parsed = (written: unknown) => orThrow(parseCondition(written, catalogue)).condition;

describe('a line in words', () => {
  it.each<[string, object]>([
    ['the text field is oak', { kind: 'field', field: 'f-0', op: 'is', value: 'oak' }],
    ['the text field contains any word of oak, ash', { kind: 'field', field: 'f-0', op: 'contains any word of', value: ['oak', 'ash'] }],
    ['the text field is empty', { kind: 'field', field: 'f-0', op: 'is empty' }],
    ['the number field between 1 and 2.5', { kind: 'field', field: 'f-1', op: 'between', value: [1, 2.5] }],
    ['the number field more than 3', { kind: 'field', field: 'f-1', op: '>', value: 3 }],
    ['the date field within the last 30 days', { kind: 'field', field: 'f-3', op: 'within the last', value: { n: 30, unit: 'days' } }],
    [
      'the date field has its anniversary within the next 7 days',
      { kind: 'field', field: 'f-3', op: 'anniversary within the next', value: { n: 7 } },
    ],
    ['the yes/no field is yes', { kind: 'field', field: 'f-5', op: 'is yes' }],
    ['the one choice field is one of "Apple green", "blue, dark"', { kind: 'field', field: 'f-6', op: 'is one of', value: ['a', 'b'] }],
    ['the several choices field includes none of Celadon', { kind: 'field', field: 'f-7', op: 'includes none of', value: ['c'] }],
    ["company's number at least 50", { kind: 'field', of: 'company', field: 'g-1', op: '>=', value: 50 }],
    ['lacks tag fam.one', { kind: 'tag', tag: 'fam.one', op: 'lacks' }],
    [
      'has tag fam.hours valued at least 4, came in the last 7 days',
      { kind: 'tag', tag: 'fam.hours', op: 'has', value: { op: '>=', value: 4 }, since: { last: 7, unit: 'days' } },
    ],
    ['had tag fam.one', { kind: 'tag', tag: 'fam.one', op: 'had' }],
    ['lost tag fam.one, went in the last 2 weeks', { kind: 'tag', tag: 'fam.one', op: 'lost', since: { last: 2, unit: 'weeks' } }],
    ['ordered at least once ever', { kind: 'signal', type: 'order.placed' }],
    [
      'ordered never in the last 45 days',
      { kind: 'signal', type: 'order.placed', count: { op: '=', value: 0 }, within: { last: 45, unit: 'days' } },
    ],
    [
      'ordered at least 2 times from 2026-01-01 until 2026-02-01',
      { kind: 'signal', type: 'order.placed', count: { op: '>=', value: 2 }, within: { from: '2026-01-01', to: '2026-02-01' } },
    ],
    ['ordered on at least 3 days ever', { kind: 'signal', type: 'order.placed', days: { op: '>=', value: 3 } }],
    [
      'ordered summing amount to more than 200 more than 1 month ago',
      { kind: 'signal', type: 'order.placed', sum: { path: 'amount', op: '>', value: 200 }, within: { olderThan: 1, unit: 'months' } },
    ],
    [
      'ordered where order is x only the first ever',
      { kind: 'signal', type: 'order.placed', pick: 'first', where: [{ path: 'order', op: 'is', value: 'x' }] },
    ],
    [
      'ordered where some items have (line is glaze and quantity at least 2) at least once ever',
      {
        kind: 'signal',
        type: 'order.placed',
        where: [
          {
            some: 'items',
            of: [
              { path: 'line', op: 'is', value: 'glaze' },
              { path: 'quantity', op: '>=', value: 2 },
            ],
          },
        ],
      },
    ],
    [
      'left the checkout not followed by ordered within 2 hours at least once ever',
      { kind: 'signal', type: 'checkout.left', then: { type: 'order.placed', happens: false, within: { n: 2, unit: 'hours' } } },
    ],
    [
      'opened a message or clicked in a message at least once in the last 30 days',
      { kind: 'signal', type: ['message.opened', 'message.clicked'], within: { last: 30, unit: 'days' } },
    ],
    [
      'did anything never in the last 45 days',
      { kind: 'signal', type: 'from them', count: { op: '=', value: 0 }, within: { last: 45, unit: 'days' } },
    ],
    [
      'stage changed from "heard of us", nothing to suited at least once in the last 1 month',
      { kind: 'change', what: 'stage', from: ['heard', null], to: ['suited'], within: { last: 1, unit: 'months' } },
    ],
    ['the one choice field changed to "Apple green" at least once ever', { kind: 'change', what: 'field', key: 'f-6', to: ['a'] }],
    [
      'Liking changed to top at least 2 times ever',
      { kind: 'change', what: 'band', key: 'card', to: ['top'], count: { op: '>=', value: 2 } },
    ],
    [
      'total amount of (ordered ever) more than 2 times the money field',
      { kind: 'compare', left: { type: 'order.placed', sum: { path: 'amount' } }, op: '>', right: { field: 'f-2' }, times: 2 },
    ],
    ['Liking at least 60', { kind: 'score', scorecard: 'card', op: '>=', value: 60 }],
    ['Liking is one of "in the middle", top', { kind: 'band', scorecard: 'card', op: 'is one of', value: ['mid', 'top'] }],
    [
      'Liking is top, crossed in the last 7 days',
      { kind: 'band', scorecard: 'card', op: 'is', value: 'top', since: { last: 7, unit: 'days' } },
    ],
    ['has left Some people, went in the last 7 days', { kind: 'audience', audience: 'aud', op: 'left', since: { last: 7, unit: 'days' } }],
    ['is not in Some people', { kind: 'audience', audience: 'aud', op: 'out' }],
    ['stage is at least suited', { kind: 'stage', op: 'is at least', value: 'suited' }],
    ['owner is empty', { kind: 'owner', op: 'is empty' }],
    ['owner is wren@fernhollow.example', { kind: 'owner', op: 'is', value: 'wren@fernhollow.example' }],
    ['consent to text is not withdrawn', { kind: 'consent', channel: 'text', op: 'is not', value: 'withdrawn' }],
    [
      'at least 2 deals where stage is agreed',
      { kind: 'deal', where: [{ path: 'stage', op: 'is', value: 'agreed' }], count: { op: '>=', value: 2 } },
    ],
  ])('%s', (words, written) => {
    const leaf = parsed(written) as Leaf;
    expect(lineText(leaf, catalogue)).toBe(words);
    // What is said can be typed, and is understood as it was meant.
    expect(orThrow(read(words, catalogue).leaf)).toEqual(normalise(leaf, catalogue));
  });
});

describe('conditions in one sentence', () => {
  const tag = (op: 'has' | 'lacks'): object => ({ kind: 'tag', tag: 'fam.one', op });
  const ordered = { kind: 'signal', type: 'order.placed', within: { last: 30, unit: 'days' } };
  it.each<[string, object]>([
    ['Everyone.', { match: 'all', of: [] }],
    ['No one: an empty list of alternatives.', { match: 'any', of: [] }],
    ['People who have the tag fam.one.', tag('has')],
    ['People who ordered in the last 30 days and who do not have the tag fam.one.', { match: 'all', of: [ordered, tag('lacks')] }],
    [
      'People who ordered in the last 30 days, except those who have the tag fam.one.',
      { match: 'all', of: [{ match: 'none', of: [tag('has')] }, ordered] },
    ],
    ['People who ordered in the last 30 days or who have the tag fam.one.', { match: 'any', of: [ordered, tag('has')] }],
  ])('%s', (words, written) => {
    expect(sentenceOf(parsed(written), catalogue)).toBe(words);
  });

  it('say of each group how its lines hold together, however deep', () => {
    const sentence = sentenceOf(
      parsed({ match: 'all', of: [ordered, { match: 'none', of: [tag('has'), { match: 'any', of: [ordered, tag('lacks')] }] }] }),
      catalogue,
    );
    expect(sentence).toMatch(/^People who ordered .*, except those who have/);
    expect(sentence.match(/fam\.one/g)).toHaveLength(2);
    expect(sentence.match(/ordered/g)).toHaveLength(2);
    expect(sentence).toContain(' or ');
  });

  it('speak of companies where companies are asked', () => {
    expect(sentenceOf(parsed(tag('has')), catalogue, 'Companies')).toBe('Companies that have the tag fam.one.');
    expect(sentenceOf(parsed({ match: 'all', of: [] }), catalogue, 'Companies')).toBe('Every company.');
    expect(sentenceOf(parsed({ match: 'any', of: [] }), catalogue, 'Companies')).toBe('No company: an empty list of alternatives.');
  });

  it('are groups of one line, where a line stands alone', () => {
    const group: Group = { match: 'all', of: [parsed(tag('has'))] };
    expect(isGroup(group)).toBe(true);
    expect(sentenceOf(group, catalogue)).toBe(sentenceOf(parsed(tag('has')), catalogue));
  });
});

/** Operators that ask for one of several, and what they are where there is only one. */
const OF_ONE: Readonly<Record<string, string>> = {
  'is one of': 'is',
  'is not one of': 'is not',
  'contains any of': 'contains',
  'contains any word of': 'contains the word',
  'includes all of': 'includes any of',
  'includes any of': 'includes any of',
};
/** Of one line all and any are the same, and nobody is out of nothing. */
const ungrouped = (group: Group): Condition => {
  const [only] = group.of;
  if (group.match === 'none') return group.of.length === 0 ? { match: 'all', of: [] } : group;
  return only && group.of.length === 1 ? (isGroup(only) ? ungrouped(only) : only) : group;
};
const canonical = (leaf: Leaf): string =>
  JSON.stringify(normalise(leaf, catalogue), (key, given: unknown) => {
    // All that is asked of details has to hold, in whatever order it stands.
    if (key === 'where' && Array.isArray(given))
      return [...(given as unknown[])].sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1));
    const value = typeof given === 'object' && given !== null && 'match' in given ? ungrouped(given as Group) : given;
    if (typeof value !== 'object' || value === null || !('op' in value)) return value;
    const { op, value: of } = value as { op: string; value?: unknown };
    const one = Array.isArray(of) && of.length === 1 ? OF_ONE[op] : undefined;
    if (one) return { ...value, op: one, value: (of as unknown[])[0] };
    return op === 'anniversary in' && (of as { n?: number }).n === 0 ? { ...value, op: 'anniversary today', value: undefined } : value;
  });

const linesOf = (condition: Condition): readonly Leaf[] => (isGroup(condition) ? condition.of.flatMap(linesOf) : [condition]);

/** The same definitions under names that run into each other, into the words of the language, and into its commas. */
const RENAMED: Readonly<Record<string, string>> = {
  'f-0': 'Liking',
  'f-1': 'number',
  'f-2': 'stage',
  'f-3': 'birthday',
  'f-5': 'has own kiln',
  'f-6': 'owner',
  'f-7': 'consent to email',
  'g-0': 'works by, or with',
  'g-1': 'number',
  'g-2': 'stage is',
  aud: 'stage',
  fit: 'Liking',
  suited: 'regular',
};
const running = new Catalogue(
  WORKSPACE,
  DEFINITIONS.map((each) => ({ ...each, name: RENAMED[each.key] ?? each.name }) as AnyDefinition),
);

describe.each([
  ['a line as it is said', catalogue],
  ['a line as it is said, where names run into each other,', running],
])('%s', (_, named) => {
  it.each([
    ['contact', conditions],
    ['company', companyConditions],
  ] as const)('is never said as another one is, and is read back, of a %s', (of, any) => {
    const meant = new Map<string, string>();
    for (const line of fc.sample(any, 2_000).flatMap(linesOf)) {
      const words = said(line, named, of);
      const [means, { leaf }] = [canonical(line), read(words, named, of)];
      expect([words, meant.get(words) ?? means]).toEqual([words, means]);
      meant.set(words, means);
      expect([words, leaf.ok ? said(leaf.value, named, of) : leaf]).toEqual([words, words]);
    }
    expect(meant.size).toBeGreaterThan(1_000);
  });
});

describe('a change of which only is said when it was', () => {
  const within = { from: '2026-03-01', to: '2026-03-23' };
  const fields = running.all('field').filter(({ body }) => body.of !== 'deal');
  it.each(fields.map(({ id, name }) => [name, id] as const))('%s: is never one from a value', (_, key) => {
    const line: Leaf = { kind: 'change', what: 'field', key, within };
    for (const named of [catalogue, running])
      for (const words of [said(line, named), lineText(line, named)]) {
        const { leaf } = read(words, named);
        expect([words, leaf.ok && canonical(leaf.value)]).toEqual([words, canonical(line)]);
      }
  });
});

describe('a line as it is said', () => {
  it('is cut into parts that are the sentence together, one of which can be picked at least', () => {
    for (const line of fc.sample(conditions, 500).flatMap(linesOf)) {
      for (const number of ['one', 'many', 'company', 'companies'] as const) {
        const { parts, text } = clauseOf(line, catalogue, number);
        expect(joinedParts(parts)).toBe(text);
        expect(parts.filter((part) => part.text === '' || part.text !== part.text.trim())).toEqual([]);
        expect(parts.some((part) => part.isSlot)).toBe(true);
      }
      const named = clauseOf(line, catalogue, 'one').parts.filter((part) => part.names);
      if (line.kind === 'tag' || line.kind === 'audience') expect(named).toHaveLength(1);
    }
  });

  const last = (n: number, unit: string): object => ({ last: n, unit });
  const order = (more: object): object => ({ kind: 'signal', type: 'order.placed', ...more });
  it.each<[string, object]>([
    ['has not ordered in the last 45 days', order({ count: { op: '=', value: 0 }, within: last(45, 'days') })],
    ['has never ordered', order({ count: { op: '=', value: 0 } })],
    ['did nothing in the last 45 days', { kind: 'signal', type: 'from them', count: { op: '=', value: 0 }, within: last(45, 'days') }],
    [
      'heard nothing from us in the last 45 days',
      { kind: 'signal', type: 'from us', count: { op: '=', value: 0 }, within: last(45, 'days') },
    ],
    [
      'ordered an item whose line is glaze and quantity is at least 2, at least 3 times in the last 120 days',
      order({
        where: [
          {
            some: 'items',
            of: [
              { path: 'line', op: 'is', value: 'glaze' },
              { path: 'quantity', op: '>=', value: 2 },
            ],
          },
        ],
        count: { op: '>=', value: 3 },
        within: last(120, 'days'),
      }),
    ],
    ['spent more than 2,000 SEK in the last year', order({ sum: { path: 'amount', op: '>', value: 2_000 }, within: last(1, 'years') })],
    ['ordered on at least 3 days', order({ days: { op: '>=', value: 3 } })],
    [
      'ordered an item whose line is glaze and an item whose line is clay',
      order({ where: ['glaze', 'clay'].map((value) => ({ some: 'items', of: [{ path: 'line', op: 'is', value }] })) }),
    ],
    [
      'ordered (amount is at least 500 SEK) in the last week',
      order({ where: [{ path: 'amount', op: '>=', value: 500 }], within: last(1, 'weeks') }),
    ],
    ['ordered since 1 Jan 2026', order({ within: { from: '2026-01-01' } })],
    [
      'left the checkout in the last 7 days and had not ordered within 2 hours',
      {
        kind: 'signal',
        type: 'checkout.left',
        then: { type: 'order.placed', happens: false, within: { n: 2, unit: 'hours' } },
        within: last(7, 'days'),
      },
    ],
    ['answered Ask', { kind: 'signal', type: 'form.answered', where: [{ path: 'form', op: 'is', value: 'ask' }] }],
    [
      'answered Ask with “Celadon” to “Which?”',
      {
        kind: 'signal',
        type: 'form.answered',
        where: [
          { path: 'form', op: 'is', value: 'ask' },
          { some: 'answers.which', of: [{ path: 'value', op: 'is', value: 'c' }] },
        ],
      },
    ],
    ['Liking changed from low to in the middle or top', { kind: 'change', what: 'band', key: 'card', from: ['low'], to: ['mid', 'top'] }],
    ['stage is suited and became so in the last 30 days', { kind: 'stage', op: 'is', value: 'suited', since: last(30, 'days') }],
    [
      'Liking has been top for more than 30 days',
      { kind: 'band', scorecard: 'card', op: 'is', value: 'top', since: { olderThan: 30, unit: 'days' } },
    ],
    ['the one choice field is Apple green or Celadon', { kind: 'field', field: 'f-6', op: 'is one of', value: ['a', 'c'] }],
    ['the money field is at least 1,500 SEK', { kind: 'field', field: 'f-2', op: '>=', value: 1_500 }],
    ['the text field is not known', { kind: 'field', field: 'f-0', op: 'is empty' }],
    ['has the tag fam.one, got in the last week', { kind: 'tag', tag: 'fam.one', op: 'has', since: last(1, 'weeks') }],
    [
      'has no deals whose stage is agreed',
      { kind: 'deal', where: [{ path: 'stage', op: 'is', value: 'agreed' }], count: { op: '=', value: 0 } },
    ],
    ['consent to email is withdrawn', { kind: 'consent', channel: 'email', op: 'is', value: 'withdrawn' }],
  ])('%s', (words, written) => {
    expect(said(orThrow(parseCondition({ match: 'all', of: [written] }, catalogue)).condition, catalogue)).toBe(words);
  });
});
