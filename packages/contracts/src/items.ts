import { faultsOf, unfitIn, type Fault } from '@eager-sieve/core';
import { z } from 'zod';

/** An item of a list whose items are read one by one, so that what is wrong with one refuses that one alone. */
export type Item<Value> =
  { readonly value: Value; readonly faults?: undefined } | { readonly value?: undefined; readonly faults: readonly Fault[] };

const ITEMS = new WeakMap<object, z.ZodType>();
/** The schema of the items of such a list. */
export const itemSchemaOf = (list: object): z.ZodType | undefined => ITEMS.get(list);

/** A list whose items are read one by one. */
export function itemsOf<Schema extends z.ZodType>(item: Schema, most: number): z.ZodType<Item<z.output<Schema>>[], z.input<Schema>[]> {
  const read = (given: unknown): Item<z.output<Schema>> => {
    const unfit = unfitIn(given);
    if (unfit.length > 0) return { faults: unfit };
    const checked = item.safeParse(given);
    return checked.success ? { value: checked.data } : { faults: faultsOf(checked.error) };
  };
  const list = z.array(z.unknown().transform(read)).min(1).max(most);
  ITEMS.set(list, item);
  return list as unknown as z.ZodType<Item<z.output<Schema>>[], z.input<Schema>[]>;
}
