import { useState } from 'react';
import { type Catalogue } from '@eager-sieve/core';
import { useKnown } from '../app/use-known';
import { Labelled } from '../ui/labelled';
import { type EnteredDetails } from './details-form';
import { goodsAndOthers, total, withAmount, withOneMore, withQuantity, type BasketItem } from './goods';

interface TillProps {
  readonly catalogue: Catalogue;
  readonly value: EnteredDetails;
  readonly onChange: (value: EnteredDetails) => void;
}

const amounts = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 2 });
export const basketOf = ({ items }: EnteredDetails): readonly BasketItem[] =>
  (Array.isArray(items) ? (items as Partial<BasketItem>[]) : []).filter((item): item is BasketItem => item.quantity !== undefined);

/** The shelves of the made-up shop on one side, and what somebody has taken from them on the other. */
export function Till({ catalogue, value, onChange }: TillProps) {
  const known = useKnown(catalogue);
  const [searched, setSearched] = useState('');
  const order = catalogue.find('signalType', 'order.placed');
  const goods = goodsAndOthers(order ? known.known.inDetail([order.id], 'items.product').map((each) => each.value) : []);
  const wanted = searched.trim().toLowerCase();
  const shown = goods.filter(({ product, line }) => `${product} ${line}`.toLowerCase().includes(wanted));
  const basket = basketOf(value);
  const { currency } = catalogue.workspace;
  const put = (items: readonly BasketItem[]): void =>
    onChange({ ...value, items, amount: items.length > 0 ? total(items) : undefined, currency });
  return (
    <div className="grid w-full gap-x-8 gap-y-4 md:grid-cols-2">
      <section aria-label="On the shelves" className="min-w-0">
        <div className="mb-1.5 flex min-h-8 items-center justify-between gap-3">
          <h3 className="font-semibold">On the shelves</h3>
          <input
            type="search"
            aria-label="Look for goods"
            placeholder="Look for goods"
            className="input input-sm w-40"
            value={searched}
            onChange={(event) => setSearched(event.target.value)}
          />
        </div>
        <ul className="max-h-80 overflow-y-auto">
          {shown.map((good) => (
            <li key={good.product} className="border-base-300 flex items-center justify-between gap-3 border-b py-1.5 last:border-b-0">
              <span className="min-w-0">
                <span className="font-medium break-words">{good.product}</span> <span className="quiet">{good.line}</span>
              </span>
              <span className="flex shrink-0 items-center gap-3">
                {good.price !== undefined && <span className="tabular-nums">{amounts.format(good.price)}</span>}
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Add ${good.product}`}
                  onClick={() => put(withOneMore(basket, good))}
                >
                  Add
                </button>
              </span>
            </li>
          ))}
          {shown.length === 0 && <li className="quiet py-1.5">Nothing on the shelves is called so.</li>}
        </ul>
      </section>
      <section aria-label="In the basket" className="min-w-0">
        <h3 className="mb-1.5 flex min-h-8 items-center font-semibold">In the basket</h3>
        {basket.length === 0 ? (
          <p className="quiet">Nothing yet. Add something from the shelves.</p>
        ) : (
          <ul>
            {basket.map((item, index) => (
              <li key={item.product} className="border-base-300 flex flex-wrap items-end gap-x-3 gap-y-1 border-b py-1.5">
                <span className="min-w-0 grow self-center font-medium break-words">{item.product}</span>
                <Labelled label="How many">
                  <input
                    type="number"
                    aria-label={`How many of ${item.product}`}
                    min={1}
                    step={1}
                    className="input input-sm w-20"
                    value={item.quantity}
                    onChange={(event) => put(withQuantity(basket, index, event.target.valueAsNumber))}
                  />
                </Labelled>
                <Labelled label="Price">
                  <input
                    type="number"
                    min={0}
                    step="any"
                    aria-label={`Price of ${item.product}`}
                    className="input input-sm w-28"
                    value={item.amount}
                    onChange={(event) => put(withAmount(basket, index, event.target.valueAsNumber))}
                  />
                </Labelled>
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Put ${item.product} back`}
                  onClick={() => put(basket.toSpliced(index, 1))}
                >
                  Put back
                </button>
              </li>
            ))}
          </ul>
        )}
        {basket.length > 0 && (
          <p className="mt-2 font-semibold tabular-nums" role="status">
            {amounts.format(total(basket))} {currency}
          </p>
        )}
      </section>
    </div>
  );
}
