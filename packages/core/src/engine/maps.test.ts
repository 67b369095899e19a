import fc from 'fast-check';
import { pass, type Compiled, type Definition, type SubjectState } from '../index.ts';
import { arrive, compiledWith, newcomer, send, signalOf } from '../testing/engine.ts';
import { catalogue, DAY, definition, NOW, typeId } from '../testing/world.ts';
import { compileMap, rowsBy } from './maps.ts';

const body = (more: object = {}) => ({
  on: true,
  path: 'items.line',
  reason: 'order',
  adds: [typeId('order.placed')],
  takes: [typeId('order.refunded')],
  rows: [
    { value: 'Glaze', add: [30], remove: [31] },
    { value: 'clay', add: [31], remove: [], whenTaken: { add: [32], remove: [] } },
  ],
  ...more,
});
const mapOf = (more: object = {}) => definition(95, 'map', 'products', 'Products', body(more));
const compiled = compiledWith(mapOf());
const order = (name: string, ...lines: string[]): object => ({
  order: name,
  amount: 10,
  currency: 'SEK',
  items: lines.map((line) => ({ product: line, line, quantity: 1, amount: 10 })),
});
const tagsOf = (state: ReturnType<typeof newcomer>): number[] => [...state.tags.keys()].sort((a, b) => a - b);

describe('a signal map', () => {
  it('gives the tags of every row that fits some element, found folded, and takes away what the row says', () => {
    const state = newcomer();
    send(compiled, state, 'order.placed', order('1', 'CLAY'));
    expect(tagsOf(state)).toEqual([31]);
    send(compiled, state, 'order.placed', order('2', 'glaze', 'wood'));
    expect(tagsOf(state)).toEqual([30]);
  });

  it('keeps a tag while one order stands for it', () => {
    const state = newcomer();
    send(compiled, state, 'order.placed', order('1', 'glaze'));
    send(compiled, state, 'order.placed', order('2', 'glaze'));
    send(compiled, state, 'order.refunded', order('1', 'glaze'));
    expect(tagsOf(state)).toEqual([30]);
    expect(state.tags.get(30)?.reasons).toEqual([{ kind: 'map', ref: '95/2/glaze' }]);
    send(compiled, state, 'order.refunded', order('2', 'glaze'));
    expect(tagsOf(state)).toEqual([]);
  });

  it('finds a row by its pattern where none names the value', () => {
    const rowFor = rowsBy(['celadon glaze', 'cel*', '*glaze*fine*', '*'].map((value, index) => ({ value, add: [index], remove: [] })));
    const row = (value: string): number | undefined => rowFor(value)?.add[0];
    expect(['celadon glaze', 'celadon glaze fine', 'a glaze, fine', 'glazefine', 'glaze', 'fine glaze'].map(row)).toEqual([
      0, 1, 2, 2, 3, 3,
    ]);
    const one = rowsBy([{ value: 'ab*ba', add: [], remove: [] }]);
    expect(['aba', 'abba', 'abcba', 'abcb'].map((value) => one(value) !== undefined)).toEqual([false, true, true, false]);
  });

  it('applied to the past leaves what it would have left had it been on', () => {
    const rows = [
      { value: 'glaze', add: [30], remove: [] },
      { value: 'cl*', add: [31, 32], remove: [] },
    ];
    const [on, off] = [true, false].map((isOn) => compiledWith(mapOf({ rows, on: isOn })));
    const what = fc.record({
      type: fc.constantFrom('order.placed', 'order.placed', 'order.refunded'),
      order: fc.constantFrom('1', '2', '3'),
      lines: fc.subarray(['glaze', 'clay', 'cloth', 'wood'], { minLength: 1 }),
    });
    fc.assert(
      fc.property(fc.array(what, { maxLength: 8 }), (happened) => {
        const [lived, later] = [newcomer(), newcomer()];
        happened.forEach(({ type, order: name, lines }, index) => {
          const signal = signalOf(type, order(name, ...lines), NOW + index);
          arrive(on as Compiled, lived, signal);
          arrive(off as Compiled, later, signal);
        });
        expect(later.tags.size).toBe(0);
        const run = { kind: 'sweep', of: 95, cause: { kind: 'sweep', ref: '1' } } as const;
        pass(on as Compiled, later, run, NOW + DAY);
        const held = (state: SubjectState): unknown =>
          [...state.tags].map(([tag, { reasons }]) => [tag, reasons.map(({ ref }) => ref).sort()]).sort();
        expect(held(later)).toEqual(held(lived));
        expect(pass(on as Compiled, later, run, NOW + DAY)).toEqual([]);
      }),
    );
  });

  it('of a refund that came first gives nothing when the order comes after', () => {
    const state = newcomer();
    send(compiled, state, 'order.refunded', order('1', 'glaze'), NOW);
    send(compiled, state, 'order.placed', order('1', 'glaze'), NOW - DAY);
    expect(tagsOf(state)).toEqual([]);
    send(compiled, state, 'order.placed', order('2', 'glaze'), NOW - DAY);
    expect(tagsOf(state)).toEqual([30]);
  });

  it('does what a row says beside taking back', () => {
    const state = newcomer();
    send(compiled, state, 'order.placed', order('1', 'clay'));
    send(compiled, state, 'order.refunded', order('1', 'clay'));
    expect(tagsOf(state)).toEqual([32]);
  });

  it('does nothing of a historic signal, nor when it is off', () => {
    const state = newcomer();
    arrive(compiled, state, signalOf('order.placed', order('1', 'glaze'), NOW, { historic: true }));
    expect(tagsOf(state)).toEqual([]);
    const off = compiledWith(mapOf({ on: false }));
    send(off, state, 'order.placed', order('2', 'glaze'));
    expect(tagsOf(state)).toEqual([]);
  });

  it('by a detail of its own gives and takes with the plan as its reason', () => {
    const plans = compiledWith(
      mapOf({
        path: 'plan',
        reason: 'plan',
        adds: [typeId('plan.started')],
        takes: [typeId('plan.lapsed')],
        rows: [{ value: 'bench', add: [30], remove: [] }],
      }),
    );
    const state = newcomer();
    send(plans, state, 'plan.started', { plan: 'Bench' });
    expect(tagsOf(state)).toEqual([30]);
    send(plans, state, 'plan.lapsed', { plan: 'bench' }, NOW + DAY);
    expect(tagsOf(state)).toEqual([]);
  });

  it('that names what is not there is refused with where', () => {
    const faulty = compileMap(
      mapOf({ adds: [99_999], rows: [{ value: 'x', add: [88_888], remove: [] }] }) as unknown as Definition<'map'>,
      catalogue,
    );
    expect(faulty).toMatchObject({
      ok: false,
      faults: [
        { path: ['adds', 0], code: 'signalType.unknown' },
        { path: ['rows', 0], code: 'tag.unknown' },
      ],
    });
  });
});
