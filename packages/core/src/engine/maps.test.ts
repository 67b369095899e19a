import { type Definition } from '../index.ts';
import { arrive, compiledWith, newcomer, send, signalOf } from '../testing/engine.ts';
import { catalogue, DAY, definition, NOW, typeId } from '../testing/world.ts';
import { compileMap } from './maps.ts';

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
