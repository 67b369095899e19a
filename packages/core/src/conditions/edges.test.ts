import { fold, holds, Moment, orThrow, parseCondition, type PastTag } from '../index.ts';
import { signalOf } from '../testing/engine.ts';
import { catalogue, DAY, NOBODY, NOW, stateOf, ZONE, type MadeContact } from '../testing/world.ts';

const HOUR = 3_600_000;
const moment = new Moment(NOW, ZONE);
const local = (iso: string): number => Date.parse(iso);
const dayOf = (iso: string): number => Date.parse(`${iso}T00:00:00Z`) / DAY;

const asked = (condition: unknown, contact: Partial<MadeContact>, now: Moment = moment): boolean =>
  holds(orThrow(parseCondition(condition, catalogue)).node, stateOf({ ...NOBODY, ...contact }), now);
const fact = (field: number, value: number | string | string[]): Partial<MadeContact> => ({ facts: [{ field, fact: value }] });
const orderAt = (time: number, data: object = { order: 'x' }): Partial<MadeContact> => ({
  signals: [signalOf('order.placed', data, time)],
});
const order = (more: object = {}): object => ({ kind: 'signal', type: 'order.placed', ...more });

describe('windows', () => {
  it.each<[string, object, number, boolean]>([
    ['the last 2 hours, both ends in: their first millisecond', { last: 2, unit: 'hours' }, NOW - 2 * HOUR, true],
    ['… and the one before', { last: 2, unit: 'hours' }, NOW - 2 * HOUR - 1, false],
    ['a signal exactly now', { last: 0, unit: 'days' }, NOW, true],
    ['nothing from the future', { last: 1, unit: 'years' }, NOW + 1, false],
    ['today begins with the day', { last: 0, unit: 'days' }, local('2026-03-30T00:00:00+02:00'), true],
    ['… and not before', { last: 0, unit: 'days' }, local('2026-03-30T00:00:00+02:00') - 1, false],
    ['the last day begins a day of 23 hours earlier', { last: 1, unit: 'days' }, local('2026-03-29T00:00:00+01:00'), true],
    ['the last month before 30 March begins on 28 February', { last: 1, unit: 'months' }, local('2026-02-28T00:00:00+01:00'), true],
    ['… and not on the 27th', { last: 1, unit: 'months' }, local('2026-02-28T00:00:00+01:00') - 1, false],
    ['older than 2 hours is the exact rest', { olderThan: 2, unit: 'hours' }, NOW - 2 * HOUR - 1, true],
    ['… without its last millisecond', { olderThan: 2, unit: 'hours' }, NOW - 2 * HOUR, false],
    ['from a bare day, included', { from: '2026-03-20' }, local('2026-03-20T00:00:00+01:00'), true],
    ['to a bare day, left out', { to: '2026-03-20' }, local('2026-03-20T00:00:00+01:00'), false],
    ['… up to its last millisecond before', { to: '2026-03-20' }, local('2026-03-20T00:00:00+01:00') - 1, true],
    [
      'from and to without an offset are local',
      { from: '2026-03-20T10:00', to: '2026-03-20T11:00' },
      local('2026-03-20T10:00:00+01:00'),
      true,
    ],
  ])('%s', (_what, within, time, truth) => {
    expect(asked(order({ within }), orderAt(time))).toBe(truth);
  });

  it('"never in that window" is true of those who never did anything, and of those who did it at another time', () => {
    const never = order({ count: { op: '=', value: 0 }, within: { last: 7, unit: 'days' } });
    expect([asked(never, {}), asked(never, orderAt(NOW - 30 * DAY)), asked(never, orderAt(NOW - DAY))]).toEqual([true, true, false]);
  });

  it('what never happened is not older than anything', () => {
    expect(asked(order({ within: { olderThan: 1, unit: 'days' } }), {})).toBe(false);
  });
});

describe('empty values', () => {
  it.each([
    ['text', 'f-0', 'is', 'is not', 'oak'],
    ['text', 'f-0', 'contains', 'does not contain', 'oak'],
    ['text', 'f-0', 'is one of', 'is not one of', ['oak']],
    ['number', 'f-1', '=', '!=', 3],
    ['one choice', 'f-6', 'is', 'is not', 'a'],
    ['several choices', 'f-7', 'includes any of', 'includes none of', ['a']],
  ])('of %s (%s): "%s" is false and its opposite "%s" is true', (_type, field, positive, negative, value) => {
    expect(asked({ kind: 'field', field, op: positive, value }, {})).toBe(false);
    expect(asked({ kind: 'field', field, op: negative, value }, {})).toBe(true);
  });

  it('of yes/no are neither yes nor no', () => {
    for (const op of ['is yes', 'is no']) expect(asked({ kind: 'field', field: 'f-5', op }, {})).toBe(false);
    expect(asked({ kind: 'field', field: 'f-5', op: 'is no' }, fact(15, 0))).toBe(true);
  });

  it('includes all of is false where there is nothing, and text that is nothing but spaces is empty', () => {
    expect(asked({ kind: 'field', field: 'f-7', op: 'includes all of', value: ['a'] }, {})).toBe(false);
    expect(fold(' \u3000 ')).toBe('');
  });

  it('of a company that is not there are all empty', () => {
    expect(asked({ kind: 'field', of: 'company', field: 'g-0', op: 'is empty' }, {})).toBe(true);
    expect(asked({ kind: 'field', of: 'company', field: 'g-1', op: '>=', value: 0 }, {})).toBe(false);
  });
});

describe('numbers and text', () => {
  it('between includes both ends', () => {
    const between = { kind: 'field', field: 'f-1', op: 'between', value: [1, 2] };
    expect([1, 1.5, 2].map((n) => asked(between, fact(11, n * 1_000_000)))).toEqual([true, true, true]);
    expect([0.999999, 2.000001].map((n) => asked(between, fact(11, Math.round(n * 1_000_000))))).toEqual([false, false]);
  });

  it.each([
    ['Straße', 'STRASSE', true],
    ['ΣΊΓΜΑΣ', 'σίγμας', true],
    ['İstanbul', 'i̇stanbul', true],
    ['ﬁre', 'fire', true],
    [' oak ', 'oak', true],
    ['café', 'cafe', false],
  ])('%s and %s are the same: %s', (stored, wanted, same) => {
    expect(asked({ kind: 'field', field: 'f-0', op: 'is', value: wanted }, fact(10, fold(stored)))).toBe(same);
  });

  it.each([
    ['fire', 'sapphire', false],
    ['fire', 'the fire!', true],
    ['wood fire', 'a wood-fire kiln', true],
    ['wood fire', 'fire and wood', false],
    ['50%', '50 percent', true],
  ])('the word "%s" in "%s": %s', (word, text, truth) => {
    expect(asked({ kind: 'field', field: 'f-0', op: 'contains the word', value: word }, fact(10, fold(text)))).toBe(truth);
  });

  it('%, _ and \\ are ordinary', () => {
    for (const text of ['100%', 'a_b', 'a\\b']) {
      const contains = { kind: 'field', field: 'f-0', op: 'contains', value: text };
      expect([asked(contains, fact(10, fold(`x ${text} y`))), asked(contains, fact(10, 'x 100 axb y'))]).toEqual([true, false]);
    }
  });
});

describe('dates', () => {
  const date = (op: string, value?: unknown): object => ({ kind: 'field', field: 'f-3', op, ...(value === undefined ? {} : { value }) });
  it.each<[string, object, string, boolean]>([
    ['on it', date('on', '2026-03-30'), '2026-03-30', true],
    ['before leaves it out', date('before', '2026-03-30'), '2026-03-30', false],
    ['after leaves it out', date('after', '2026-03-30'), '2026-03-30', false],
    ['the next 3 days run to the end of the third', date('within the next', { n: 3, unit: 'days' }), '2026-04-02', true],
    ['… from today', date('within the next', { n: 3, unit: 'days' }), '2026-03-30', true],
    ['… and no further', date('within the next', { n: 3, unit: 'days' }), '2026-04-03', false],
    ['a birthday today, whatever the year', date('anniversary today'), '1983-03-30', true],
    ['today counts in the next 7 days', date('anniversary within the next', { n: 7 }), '1983-03-30', true],
    ['… and in the last', date('anniversary within the last', { n: 7 }), '1983-03-30', true],
    ['over the end of the month', date('anniversary within the next', { n: 7 }), '1990-04-06', true],
    ['a day too far', date('anniversary within the next', { n: 7 }), '1990-04-07', false],
  ])('%s', (_what, condition, day, truth) => {
    expect(asked(condition, fact(13, dayOf(day)))).toBe(truth);
  });

  it('a date-time against a bare day is asked by its local day', () => {
    const on = { kind: 'field', field: 'f-4', op: 'on', value: '2026-03-30' };
    expect(asked(on, fact(14, local('2026-03-29T22:30:00Z')))).toBe(true);
    expect(asked(on, fact(14, local('2026-03-29T21:30:00Z')))).toBe(false);
  });
});

describe('signals', () => {
  it('of equal times go by their source and the sender’s id', () => {
    const at = (source: string, senderId: string, line: string) =>
      signalOf('order.placed', { order: line }, NOW - HOUR, { source, senderId });
    const latest = (...signals: ReturnType<typeof at>[]): boolean =>
      asked(order({ pick: 'latest', where: [{ path: 'order', op: 'is', value: 'b' }] }), { signals });
    expect(latest(at('till', '1', 'a'), at('web', '0', 'b'))).toBe(true);
    expect(latest(at('till', '2', 'a'), at('till', '10', 'b'))).toBe(false);
  });

  it('"pick" takes one of the window, and only then asks of it', () => {
    const orders = [
      signalOf('order.placed', { order: 'a' }, NOW - 40 * DAY),
      signalOf('order.placed', { order: 'b' }, NOW - 5 * DAY),
      signalOf('order.placed', { order: 'c' }, NOW - DAY),
    ];
    const first = (value: string): boolean =>
      asked(order({ pick: 'first', within: { last: 10, unit: 'days' }, where: [{ path: 'order', op: 'is', value }] }), { signals: orders });
    expect(['a', 'b', 'c'].map(first)).toEqual([false, true, false]);
  });

  it('days are local days', () => {
    const twoDays = order({ days: { op: '=', value: 2 } });
    const signals = [
      signalOf('order.placed', { order: '1' }, local('2026-03-27T22:30:00Z')),
      signalOf('order.placed', { order: '2' }, local('2026-03-27T23:30:00Z')),
    ];
    expect(asked(twoDays, { signals })).toBe(true);
  });

  it('"some" and "none" ask all of one element', () => {
    const items = (...lines: [string, number][]): Partial<MadeContact> =>
      orderAt(NOW - DAY, { order: 'x', items: lines.map(([line, quantity]) => ({ product: line, line, quantity, amount: 1 })) });
    const of = [
      { path: 'line', op: 'is', value: 'glaze' },
      { path: 'quantity', op: '>=', value: 2 },
    ];
    const some = order({ where: [{ some: 'items', of }] });
    const none = order({ where: [{ none: 'items', of }] });
    expect([asked(some, items(['glaze', 1], ['clay', 2])), asked(some, items(['glaze', 2]))]).toEqual([false, true]);
    expect([asked(none, items(['glaze', 1], ['clay', 2])), asked(none, items(['glaze', 2])), asked(none, items())]).toEqual([
      true,
      false,
      true,
    ]);
  });

  it('what follows is another signal, at the same instant only where it comes later in order', () => {
    const twice = order({ then: { type: 'order.placed', happens: true } });
    expect(asked(twice, orderAt(NOW - DAY))).toBe(false);
    const same = [
      signalOf('order.placed', { order: '1' }, NOW - DAY, { senderId: 'a' }),
      signalOf('order.placed', { order: '2' }, NOW - DAY, { senderId: 'b' }),
    ];
    expect(asked(twice, { signals: same })).toBe(true);
    expect(asked(order({ then: { type: 'order.placed', happens: true }, count: { op: '=', value: 2 } }), { signals: same })).toBe(false);
  });

  it('by direction takes every type of that direction, and no other', () => {
    const from = (type: string): object => ({ kind: 'signal', type });
    const opened = { signals: [signalOf('message.opened', { channel: 'email' }, NOW - DAY)] };
    const sent = { signals: [signalOf('message.sent', { channel: 'email' }, NOW - DAY)] };
    expect([asked(from('from them'), opened), asked(from('from us'), opened)]).toEqual([true, false]);
    expect([asked(from('from them'), sent), asked(from('from us'), sent)]).toEqual([false, true]);
  });
});

describe('tags, stages, bands and audiences', () => {
  const held = (since: number, value?: number): Partial<MadeContact> => ({ tags: [{ tag: 32, since, value }] });
  it('"lacks" with a value is the exact opposite of "has" with it', () => {
    const has = { kind: 'tag', tag: 'fam.hours', op: 'has', value: { op: '>=', value: 4 } };
    for (const contact of [{}, held(NOW), held(NOW, 3_000_000), held(NOW, 4_000_000)])
      expect(asked({ ...has, op: 'lacks' }, contact)).toBe(!asked(has, contact));
  });

  it('"lost" goes by the last going', () => {
    const gone = (until: number): { tag: number; past: PastTag } => ({
      tag: 32,
      past: { since: until - DAY, until, value: undefined, went: true },
    });
    const lost = { kind: 'tag', tag: 'fam.hours', op: 'lost', since: { last: 7, unit: 'days' } };
    expect(asked(lost, { pastTags: [gone(NOW - 20 * DAY), gone(NOW - 2 * DAY)] })).toBe(true);
    expect(asked(lost, { pastTags: [gone(NOW - 20 * DAY)] })).toBe(false);
  });

  it('with no stage, "is at least" and "is before" are both false', () => {
    for (const op of ['is at least', 'is before']) expect(asked({ kind: 'stage', op, value: 'suited' }, {})).toBe(false);
    const suited = { stage: { id: 36, since: NOW - 2 * DAY } };
    expect(asked({ kind: 'stage', op: 'is at least', value: 'suited' }, suited)).toBe(true);
    expect(asked({ kind: 'stage', op: 'is before', value: 'suited' }, suited)).toBe(false);
    expect(asked({ kind: 'stage', op: 'is', value: 'suited', since: { last: 1, unit: 'days' } }, suited)).toBe(false);
  });

  it('who was never in an audience has not left it', () => {
    const left = { kind: 'audience', audience: 'aud', op: 'left' };
    expect([asked(left, {}), asked(left, { leftAt: NOW - DAY }), asked(left, { leftAt: NOW - 3 * DAY, memberSince: NOW - DAY })]).toEqual([
      false,
      true,
      false,
    ]);
  });

  it('no consent recorded is unknown', () => {
    const is = (value: string): boolean => asked({ kind: 'consent', channel: 'text', op: 'is', value }, {});
    expect([is('unknown'), is('given'), is('withdrawn')]).toEqual([true, false, false]);
  });

  it('a comparison with an empty side is false, and only "!=" is true', () => {
    const compared = (op: string): boolean => asked({ kind: 'compare', left: { field: 'f-1' }, op, right: { type: 'order.placed' } }, {});
    expect(['=', '>', '>=', '<', '<=', '!='].map(compared)).toEqual([false, false, false, false, false, true]);
  });
});

describe('groups', () => {
  it('of nothing: all is true, any is false, none is true', () => {
    expect((['all', 'any', 'none'] as const).map((match) => asked({ match, of: [] }, {}))).toEqual([true, false, true]);
  });
});
