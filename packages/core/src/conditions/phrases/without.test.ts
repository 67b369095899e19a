import fc from 'fast-check';
import { Catalogue, readPhrase, type Condition } from '../../index.ts';
import { DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';

const catalogue = new Catalogue(WORKSPACE, DEFINITIONS);
const NOW = Date.UTC(2026, 10, 28, 10);
const typeId = (key: string): number | undefined => catalogue.find('signalType', key)?.id;

const FIRST = [
  ['ordered', 'order.placed'],
  ['left a basket', 'checkout.left'],
  ['visited a page', 'page.visited'],
  ['opened a message', 'message.opened'],
  ['registered for an event', 'event.registered'],
  ['called us', 'call.received'],
] as const;
const SECOND = [
  ['ordering', 'order.placed'],
  ['buying anything', 'order.placed'],
  ['clicking', 'message.clicked'],
  ['replying', 'message.replied'],
  ['attending', 'event.attended'],
] as const;
const WINDOWS = fc.oneof(
  fc.constant(undefined),
  fc.record({ last: fc.integer({ min: 1, max: 90 }), unit: fc.constantFrom('days' as const, 'weeks' as const, 'months' as const) }),
);
const SPANS = fc.oneof(
  fc.constant(undefined),
  fc.record({ n: fc.integer({ min: 2, max: 60 }), unit: fc.constantFrom('days' as const, 'hours' as const) }),
);

const firstOf = (text: string): { readonly condition: Condition; readonly isWhole: boolean } | undefined => {
  const [first] = readPhrase(text, catalogue, { now: NOW }).readings;
  return first && { condition: first.condition, isWhole: first.unread.length === 0 };
};

describe('what did not come of something', () => {
  it('is said by “without”, wherever the times stand', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...FIRST),
        fc.constantFrom(...SECOND),
        WINDOWS,
        SPANS,
        ([said, first], [lacking, second], within, soon) => {
          fc.pre(first !== second);
          const when = within ? ` in the last ${within.last} ${within.unit}` : '';
          const text = `${said}${when} without ${lacking}${soon ? ` within ${soon.n} ${soon.unit}` : ''}`;
          expect([text, firstOf(text)]).toEqual([
            text,
            {
              condition: expect.objectContaining({
                kind: 'signal',
                type: typeId(first),
                ...(within ? { within } : {}),
                then: { type: typeId(second), happens: false, ...(soon ? { within: soon } : {}) },
              }),
              isWhole: true,
            },
          ]);
        },
      ),
    );
  });

  it('is said twice where it is counted, since each time had its own', () => {
    expect(firstOf('visited a page at least 3 times without ordering')?.condition).toEqual({
      match: 'all',
      of: [
        { kind: 'signal', type: typeId('page.visited'), count: { op: '>=', value: 3 } },
        { kind: 'signal', type: typeId('order.placed'), count: { op: '=', value: 0 } },
      ],
    });
  });
});

describe('what is said behind what happened', () => {
  const numbers = fc.integer({ min: 2, max: 40 });

  it('is how often, or when it did for the first or the last time', () => {
    fc.assert(
      fc.property(numbers, numbers, fc.constantFrom('first', 'last'), (times, days, which) => {
        const order = { kind: 'signal', type: typeId('order.placed') };
        const within = { last: days, unit: 'days' };
        expect(firstOf(`ordered in the last ${days} days, at least ${times} times`)?.condition).toEqual({
          ...order,
          count: { op: '>=', value: times },
          within,
        });
        expect(firstOf(`ordered at least ${times} times, the ${which} time in the last ${days} days`)?.condition).toEqual({
          match: 'all',
          of: [
            { ...order, count: { op: '>=', value: times } },
            { ...order, pick: which === 'first' ? 'first' : 'latest', within },
          ],
        });
      }),
    );
  });

  it('leaves out what came later, with the unit said once', () => {
    fc.assert(
      fc.property(numbers, numbers, fc.constantFrom('days', 'weeks', 'months'), (long, short, unit) => {
        fc.pre(long > short);
        const order = { kind: 'signal', type: typeId('order.placed') };
        expect(firstOf(`ordered in the last ${long} ${unit} but not in the last ${short}`)?.condition).toEqual({
          match: 'all',
          of: [
            { ...order, within: { last: long, unit } },
            { ...order, count: { op: '=', value: 0 }, within: { last: short, unit } },
          ],
        });
      }),
    );
  });

  it('is no number of times where it is not whole', () => {
    for (const text of ['opened half of our messages', 'ordered at least 2.5 times']) {
      const read = firstOf(text);
      expect([text, read?.isWhole === true && JSON.stringify(read.condition).includes('.5')]).toEqual([text, false]);
    }
  });
});
