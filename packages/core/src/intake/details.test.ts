import fc from 'fast-check';
import { builtInSignalTypes } from './signal-types.ts';
import { readDetails } from './details.ts';
import { compareSignals, type Signal } from './signal.ts';

const ZONE = 'Europe/Stockholm';
const money = {
  currency: 'SEK',
  ratesMillionths: new Map([
    ['EUR', 11_350_000],
    ['JPY', 70_000],
  ]),
};
const fieldsOf = (key: string) => builtInSignalTypes.find((type) => type.key === key)?.body.fields ?? [];
const read = (key: string, data: unknown) => readDetails(fieldsOf(key), data, ZONE, money);

describe('the details of a signal', () => {
  it('are folded text, whole numbers and lists of their own', () => {
    const { details, faults } = read('order.placed', {
      order: 'F-1',
      amount: '99.90',
      items: [{ product: 'Celadon GLAZE', line: 'Glaze', quantity: 2, amount: 48 }],
      extra: 'kept elsewhere',
    });
    expect(faults).toEqual([]);
    expect(details).toEqual({
      order: 'f-1',
      'order#words': ' f 1 ',
      amount: 9_990,
      items: [{ product: 'celadon glaze', line: 'glaze', quantity: 2_000_000, amount: 4_800 }],
    });
  });

  it('turn money into the currency of the workspace, in a list by its parent’s currency', () => {
    const { details } = read('order.placed', { order: '1', amount: 10, currency: 'eur', items: [{ product: 'x', amount: '0.01' }] });
    expect(details).toMatchObject({ amount: 11_350, items: [{ amount: 11 }] });
    expect(read('order.placed', { order: '1', amount: 100, currency: 'JPY' }).details).toMatchObject({ amount: 700 });
    expect(read('order.placed', { order: '1', amount: '1.5', currency: 'JPY' }).faults).toMatchObject([{ code: 'number.places' }]);
  });

  it('keep several answers as elements, and leave out what says nothing', () => {
    expect(read('form.answered', { form: 'ask', answers: { a: ['One', ' ', 'two'], b: '', c: null, d: true } }).details).toEqual({
      form: 'ask',
      answers: { a: [{ value: 'one' }, { value: 'two' }], d: 'yes' },
    });
  });

  it('report every fault with its place, and not only the first', () => {
    const { faults } = read('order.placed', { amount: 'lots', items: [{ quantity: 1 }, 'no object', { product: 1, quantity: 'two' }] });
    expect(faults.map((fault) => `${fault.path.join('.')} ${fault.code}`)).toEqual([
      'data.order data.missing',
      'data.items.0.product data.missing',
      'data.items.1 data.object',
      'data.items.2.quantity number.malformed',
      'data.amount number.malformed',
    ]);
    expect(read('event.attended', undefined).faults).toMatchObject([{ code: 'data.missing' }]);
    expect(read('page.visited', undefined).faults).toEqual([]);
  });

  it('never throw, whatever is sent', () => {
    fc.assert(
      fc.property(fc.constantFrom(...builtInSignalTypes.map((type) => type.key)), fc.anything(), (key, data) => {
        expect(Array.isArray(read(key, data).faults)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });
});

describe('the order of signals', () => {
  it('is by time, then by source, then by the sender’s id, and total', () => {
    const signals: fc.Arbitrary<Signal> = fc.record({
      id: fc.nat(),
      typeId: fc.constant(1),
      time: fc.constantFrom(1, 2),
      source: fc.constantFrom('a', 'b'),
      senderId: fc.constantFrom('1', '10', '2'),
      details: fc.constant({}),
      historic: fc.constant(false),
    });
    fc.assert(
      fc.property(signals, signals, signals, (a, b, c) => {
        expect(Math.sign(compareSignals(a, b))).toBe(-Math.sign(compareSignals(b, a)) + 0);
        if (compareSignals(a, b) <= 0 && compareSignals(b, c) <= 0) expect(compareSignals(a, c)).toBeLessThanOrEqual(0);
      }),
    );
    const at = (time: number, source: string, senderId: string): Signal => ({
      id: 0,
      typeId: 1,
      time,
      source,
      senderId,
      details: {},
      historic: false,
    });
    expect(
      [at(1, 'b', '1'), at(1, 'a', '2'), at(1, 'a', '10'), at(0, 'z', 'z')]
        .sort(compareSignals)
        .map((signal) => signal.source + signal.senderId),
    ).toEqual(['zz', 'a10', 'a2', 'b1']);
  });
});
