import fc from 'fast-check';
import { GOODS, goodsAndOthers, total, withAmount, withOneMore, withQuantity, type BasketItem } from './goods';

type Act = (basket: readonly BasketItem[]) => readonly BasketItem[];
const places = fc.nat({ max: 4 });
const acts: fc.Arbitrary<Act> = fc.oneof(
  fc.constantFrom(...GOODS).map(
    (good): Act =>
      (basket) =>
        withOneMore(basket, good),
  ),
  fc.tuple(places, fc.integer({ min: -2, max: 50 })).map(
    ([at, quantity]): Act =>
      (basket) =>
        withQuantity(basket, at, quantity),
  ),
  fc.tuple(places, fc.integer({ min: -100, max: 1_000_000 })).map(
    ([at, cents]): Act =>
      (basket) =>
        withAmount(basket, at, cents / 100),
  ),
);

describe('a basket', () => {
  it('holds whole numbers of goods, each once, at prices to the hundredth', () => {
    fc.assert(
      fc.property(fc.array(acts, { maxLength: 20 }), (done) => {
        const basket = done.reduce<readonly BasketItem[]>((before, act) => act(before), []);
        expect(new Set(basket.map(({ product }) => product)).size).toBe(basket.length);
        for (const { quantity, amount } of basket) {
          expect(Number.isInteger(quantity) && quantity >= 1).toBe(true);
          expect(amount).toBeGreaterThanOrEqual(0);
          expect(amount).toBe(Number(amount.toFixed(2)));
        }
        expect(total(basket)).toBeCloseTo(
          basket.reduce((sum, { amount }) => sum + amount, 0),
          2,
        );
      }),
    );
  });

  it('costs as many times the price as there are of them', () => {
    fc.assert(
      fc.property(fc.constantFrom(...GOODS), fc.integer({ min: 1, max: 500 }), (good, quantity) => {
        expect(withQuantity(withOneMore([], good), 0, quantity)).toEqual([
          { product: good.product, line: good.line, quantity, amount: (good.price ?? 0) * quantity },
        ]);
      }),
    );
  });

  it('is filled from the shelves, and from what was ordered before', () => {
    const goods = goodsAndOthers(['Kick wheel', 'Raku tongs']);
    expect(goods.slice(0, GOODS.length)).toEqual(GOODS);
    expect(goods.slice(GOODS.length)).toEqual([{ product: 'Raku tongs', line: '' }]);
  });
});
