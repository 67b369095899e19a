import { Catalogue, changesAt, fold, holds, Moment, opposite, orThrow, parseCondition, read, lineText, type Leaf } from '../index.ts';
import {
  catalogue,
  DAY,
  definition,
  detailsOf,
  NOBODY,
  NOW,
  stateOf,
  typeId,
  WORKSPACE,
  ZONE,
  type MadeContact,
} from '../testing/world.ts';

const node = (condition: unknown) => orThrow(parseCondition(condition, catalogue)).node;
const moment = new Moment(NOW, ZONE);
const at = (iso: string): Moment => new Moment(Date.parse(iso), ZONE);
let made = 0;
const signal = (type: string, time: number, data: unknown = {}) => {
  made += 1;
  return { id: made, typeId: typeId(type), time, source: 's', senderId: String(made), details: detailsOf(type, data), historic: false };
};
const asked = (condition: unknown, contact: Partial<MadeContact>, now = moment): boolean =>
  holds(node(condition), stateOf({ ...NOBODY, ...contact }), now);

describe('conditions', () => {
  it('find the word fire, and not sapphire', () => {
    const condition = node({ kind: 'field', field: 'f-0', op: 'contains the word', value: 'Fire' });
    const withText = (text: string) => holds(condition, stateOf({ ...NOBODY, facts: [{ field: 10, fact: fold(text) }] }), moment);
    expect([withText('fire'), withText('the fire!'), withText('sapphire')]).toEqual([true, true, false]);
  });

  it.each([
    ['an unknown field', { kind: 'field', field: 'nope', op: 'is', value: 'x' }, 'field.unknown'],
    ['an operator of another type', { kind: 'field', field: 'f-7', op: 'is', value: 'a' }, 'operator.unknown'],
    ['a value that is no choice', { kind: 'field', field: 'f-6', op: 'is', value: 'z' }, 'value.choice'],
    ['free text of one letter', { kind: 'field', field: 'f-0', op: 'contains', value: ' A ' }, 'value.short'],
    ['reversed ends', { kind: 'field', field: 'f-1', op: 'between', value: [3, 2] }, 'value.reversed'],
    ['hours on a day', { kind: 'field', field: 'f-3', op: 'within the last', value: { n: 1, unit: 'hours' } }, 'value.duration'],
    [
      'a bare path into a list',
      { kind: 'signal', type: 'order.placed', where: [{ path: 'items', op: 'is', value: 'x' }] },
      'detail.bare-list',
    ],
    ['a window of a tag that one lacks', { kind: 'tag', tag: 'fam.one', op: 'lacks', since: { last: 1, unit: 'days' } }, 'since.operator'],
    ['a value of a plain tag', { kind: 'tag', tag: 'fam.one', op: 'has', value: { op: '=', value: 1 } }, 'tag.plain'],
    ['a count beside a pick', { kind: 'signal', type: 'order.placed', pick: 'first', count: { op: '>=', value: 2 } }, 'signal.measure'],
    ['a sum of what is no number', { kind: 'signal', type: 'order.placed', sum: { path: 'order', op: '>', value: 1 } }, 'sum.path'],
    ['how many contacts a contact has', { kind: 'contacts', condition: { match: 'all', of: [] } }, 'condition.subject'],
    ['a field of companies as one of contacts', { kind: 'field', field: 'g-0', op: 'is', value: 'x' }, 'field.subject'],
    ['a scorecard of companies', { kind: 'score', scorecard: 'fit', op: '>', value: 1 }, 'scorecard.subject'],
    ['two stages where one is meant', { kind: 'stage', op: 'is', value: ['heard', 'suited'] }, 'stage.one'],
    ['"from" of a field of several choices', { kind: 'change', what: 'field', key: 'f-7', from: ['a'] }, 'change.choices'],
    ['a change of no field', { kind: 'change', what: 'field' }, 'change.key'],
    [
      'the anniversary of a detail',
      { kind: 'signal', type: 'plan.started', where: [{ path: 'until', op: 'anniversary today' }] },
      'detail.anniversary',
    ],
    ['too many places', { kind: 'field', field: 'f-1', op: '=', value: '0.1234567' }, 'number.places'],
    ['a number that is too large', { kind: 'field', field: 'f-1', op: '=', value: 2_000_000_000 }, 'number.range'],
    ['an operator from the prototype', { kind: 'field', field: 'f-0', op: 'constructor', value: 'x' }, 'operator.unknown'],
    [
      'groups nine deep',
      Array.from({ length: 9 }).reduce<unknown>((inner) => ({ match: 'all', of: [inner] }), { kind: 'tag', tag: 'fam.one', op: 'has' }),
      'condition.depth',
    ],
  ])('refuse %s', (_what, condition, code) => {
    const parsed = parseCondition(condition, catalogue);
    expect(parsed.ok ? [] : parsed.faults.map((fault) => fault.code)).toContain(code);
  });

  it('cannot ask types together of a detail that they keep differently', () => {
    const own = (id: number, key: string, type: string) =>
      definition(id, 'signalType', key, key, { direction: 'from them', verb: key, fields: [{ key: 'size', type }] });
    const mixed = new Catalogue(WORKSPACE, [
      own(1, 'wheel.rented', 'number'),
      own(2, 'apron.lent', 'text'),
      own(3, 'bench.lent', 'number'),
    ]);
    const asked = (type: string[]) => parseCondition({ kind: 'signal', type, where: [{ path: 'size', op: '>=', value: 3 }] }, mixed);
    expect(asked(['wheel.rented', 'bench.lent'])).toMatchObject({ ok: true });
    expect(asked(['wheel.rented', 'apron.lent'])).toMatchObject({ ok: false, faults: [{ code: 'detail.unknown' }] });
  });

  it('say what could come next while they are typed', () => {
    const offers = (text: string): string[] => read(text, catalogue).completions.offers.map((offer) => offer.text);
    expect(offers('has t')).toContain('has the tag');
    expect(offers('has the tag fam')).toEqual(['fam.one', 'fam.two', 'fam.hours', 'fam.renews', 'fam.club']);
    expect(offers('ordered an item whose li')).toEqual(['line']);
    expect(offers('the number field is m')).toEqual(['is more than']);
    expect(offers('has tag fam')).toEqual(['fam.one', 'fam.two', 'fam.hours', 'fam.renews', 'fam.club']);
    expect(offers('has tag fam.hours val')).toEqual(['valued']);
    expect(offers('stage is at ')).toContain('is at least');
    expect(offers('left the checkout not fol')).toEqual(['not followed by']);
    expect(offers('ordered at least 2 times in the la')).toContain('in the last');
    expect(offers('Liking is ')).toEqual(expect.arrayContaining(['in the middle', 'low', 'top']));
  });

  it('read what people type, with its opposite by a first !', () => {
    expect(read('ordered where some items have (line is glaze) at least 2 times in the last 30 days', catalogue).leaf).toEqual({
      ok: true,
      value: {
        kind: 'signal',
        type: typeId('order.placed'),
        where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }],
        count: { op: '>=', value: 2 },
        within: { last: 30, unit: 'days' },
      },
    });
    expect(read('!has tag fam.one', catalogue).leaf).toEqual({ ok: true, value: { kind: 'tag', tag: 30, op: 'lacks' } });
  });

  it('without an exact opposite are not turned quietly, but refused', () => {
    const had: Leaf = { kind: 'tag', tag: 30, op: 'had' };
    expect(opposite(had)).toBeUndefined();
    expect(read('!had tag fam.one', catalogue).leaf).toMatchObject({ ok: false, faults: [{ code: 'line.no-opposite' }] });
  });

  it('of one kind of thing by one name go by their keys', () => {
    expect(lineText({ kind: 'score', scorecard: 40, op: '>=', value: 20 }, catalogue)).toBe('Liking at least 20');
    expect(read('#card at least 20', catalogue).leaf).toMatchObject({ ok: true, value: { kind: 'score', scorecard: 40 } });
  });
});

describe('the anniversary of 29 February', () => {
  const born = { facts: [{ field: 13, fact: Date.parse('2024-02-29T00:00:00Z') / DAY }] };
  const today = { kind: 'field', field: 'f-3', op: 'anniversary today' };

  it('falls on 28 February in common years, and on itself in leap years', () => {
    expect(asked(today, born, at('2026-02-28T12:00:00Z'))).toBe(true);
    expect(asked(today, born, at('2026-03-01T12:00:00Z'))).toBe(false);
    expect(asked(today, born, at('2028-02-28T12:00:00Z'))).toBe(false);
    expect(asked(today, born, at('2028-02-29T12:00:00Z'))).toBe(true);
  });

  it('is seen coming, over the end of the year too', () => {
    const newYear = { facts: [{ field: 13, fact: Date.parse('1990-01-02T00:00:00Z') / DAY }] };
    const next = { kind: 'field', field: 'f-3', op: 'anniversary within the next', value: { n: 7 } };
    expect(asked(next, newYear, at('2026-12-26T12:00:00Z'))).toBe(true);
    expect(asked(next, newYear, at('2026-12-25T12:00:00Z'))).toBe(false);
    expect(changesAt(node(next), stateOf({ ...NOBODY, ...newYear }), at('2026-12-25T12:00:00Z'))).toBe(Date.parse('2026-12-25T23:00:00Z'));
  });
});

describe('what follows', () => {
  const left = (hoursAgo: number) => signal('checkout.left', NOW - hoursAgo * 3_600_000);
  const bought = (hoursAgo: number) => signal('order.placed', NOW - hoursAgo * 3_600_000, { order: 'x' });
  const unbought = (within?: object) => ({
    kind: 'signal',
    type: 'checkout.left',
    then: { type: 'order.placed', happens: false, ...(within ? { within } : {}) },
  });

  it('tells those who left the checkout and bought nothing from those who did', () => {
    expect(asked(unbought(), { signals: [left(3)] })).toBe(true);
    expect(asked(unbought(), { signals: [left(3), bought(2)] })).toBe(false);
    expect(asked(unbought(), { signals: [bought(4), left(3)] })).toBe(true);
  });

  it('is only known once its time is over', () => {
    const two = unbought({ n: 2, unit: 'hours' });
    const contact = stateOf({ ...NOBODY, signals: [left(2)] });
    expect(holds(node(two), contact, moment)).toBe(false);
    expect(changesAt(node(two), contact, moment)).toBe(NOW + 1);
    expect(holds(node(two), contact, new Moment(NOW + 1, ZONE))).toBe(true);
  });

  it('counts to the end of a calendar day', () => {
    const day = unbought({ n: 1, unit: 'days' });
    const contact = stateOf({ ...NOBODY, signals: [signal('checkout.left', Date.parse('2026-03-28T09:00:00Z'))] });
    // The night of 29 March is an hour shorter in Stockholm.
    expect(holds(node(day), contact, at('2026-03-29T21:59:59.999Z'))).toBe(false);
    expect(holds(node(day), contact, at('2026-03-29T22:00:00Z'))).toBe(true);
  });
});

describe('measures of signals', () => {
  const orders = [
    signal('order.placed', NOW - 2 * DAY, {
      order: '1',
      amount: '99.90',
      items: [{ product: 'Celadon', line: 'glaze', quantity: 2, amount: 60 }],
    }),
    signal('order.placed', NOW - DAY, {
      order: '2',
      amount: 50,
      items: [
        { product: 'Ash', line: 'glaze', quantity: 1, amount: 20 },
        { product: 'Wire', line: 'tools', quantity: 1, amount: 30 },
      ],
    }),
    signal('order.placed', NOW - DAY + 60_000, { order: '3' }),
  ];
  const line = (more: object) => ({ kind: 'signal', type: 'order.placed', ...more });
  it.each([
    ['so many', { count: { op: '=', value: 3 } }, true],
    ['on so many days', { days: { op: '=', value: 2 } }, true],
    ['summing to so much, exactly', { sum: { path: 'amount', op: '=', value: '149.90' } }, true],
    [
      'a sum over a list, of the elements that fit',
      { where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }], sum: { path: 'items.amount', op: '=', value: 80 } },
      true,
    ],
    ['the first alone', { pick: 'first', where: [{ path: 'order', op: 'is', value: '1' }] }, true],
    ['the latest alone', { pick: 'latest', where: [{ path: 'order', op: 'is', value: '1' }] }, false],
  ])('count %s', (_what, more, truth) => {
    expect(asked(line(more), { signals: orders })).toBe(truth);
  });

  it('sum to nothing where there is nothing to add', () => {
    expect(asked(line({ sum: { path: 'amount', op: '=', value: 0 } }), {})).toBe(true);
  });

  it('are held against each other, with a factor', () => {
    const twice = {
      kind: 'compare',
      left: { type: 'order.placed', sum: { path: 'amount' } },
      op: '>',
      right: { field: 'f-2' },
      times: 2,
    };
    const budget = (minor: number) => ({ signals: orders, facts: [{ field: 12, fact: minor }] });
    expect(asked(twice, budget(7_494))).toBe(true);
    expect(asked(twice, budget(7_495))).toBe(false);
    expect(asked(twice, { signals: orders })).toBe(false);
    expect(asked({ ...twice, op: '!=' }, { signals: orders })).toBe(true);
  });
});

describe('tags that went', () => {
  const past = (value?: number) => ({ tag: 32, past: { since: NOW - 9 * DAY, until: NOW - 3 * DAY, value, went: true } });
  it('were had, and are lost until they come again', () => {
    const had = { kind: 'tag', tag: 'fam.hours', op: 'had' };
    const lost = { kind: 'tag', tag: 'fam.hours', op: 'lost', since: { last: 7, unit: 'days' } };
    expect([asked(had, { pastTags: [past()] }), asked(lost, { pastTags: [past()] })]).toEqual([true, true]);
    const again = { pastTags: [past()], tags: [{ tag: 32, since: NOW - DAY }] };
    expect([asked(had, again), asked(lost, again)]).toEqual([true, false]);
  });

  it('keep the values that they had', () => {
    const had = { kind: 'tag', tag: 'fam.hours', op: 'had', value: { op: '>=', value: 4 } };
    expect([asked(had, { pastTags: [past(4_000_000)] }), asked(had, { pastTags: [past(3_999_999)] })]).toEqual([true, false]);
  });
});
