/** One thing that the made-up shop sells. */
export interface Good {
  readonly product: string;
  readonly line: string;
  /** of one of them, in the currency of the workspace; unknown for what was only ever seen in an order */
  readonly price?: number;
}

/** What stands on the shelves of the made-up shop. */
export const GOODS: readonly Good[] = [
  { product: 'Celadon glaze 1 l', line: 'glaze', price: 480 },
  { product: 'Celadon glaze 0.5 l', line: 'glaze', price: 260 },
  { product: 'Ash glaze 1 l', line: 'glaze', price: 520 },
  { product: 'Iron oxide', line: 'glaze', price: 140 },
  { product: 'Stoneware clay 10 kg', line: 'clay', price: 190 },
  { product: 'Porcelain 5 kg', line: 'clay', price: 240 },
  { product: 'Trimming tools', line: 'tools', price: 320 },
  { product: 'Sapphire slip kit', line: 'tools', price: 220 },
  { product: 'Kick wheel', line: 'wheels', price: 14_900 },
  { product: 'Evening class seat', line: 'class', price: 650 },
];

/** One line of a basket, as it goes out with an order: the amount is of all of them. */
export interface BasketItem {
  readonly product: string;
  readonly line?: string | undefined;
  readonly quantity: number;
  readonly amount: number;
}

const HUNDREDTHS = 100;
const rounded = (amount: number): number => Math.round(amount * HUNDREDTHS) / HUNDREDTHS;

/** One more of something. */
export function withOneMore(basket: readonly BasketItem[], { product, line, price = 0 }: Good): readonly BasketItem[] {
  const at = basket.findIndex((item) => item.product === product);
  const item = basket[at];
  return item ? withQuantity(basket, at, item.quantity + 1) : [...basket, { product, line, quantity: 1, amount: price }];
}

/** Another number of the same: what they cost together goes along. */
export function withQuantity(basket: readonly BasketItem[], at: number, quantity: number): readonly BasketItem[] {
  const item = basket[at];
  if (!item || !Number.isInteger(quantity) || quantity < 1) return basket;
  return basket.with(at, { ...item, quantity, amount: rounded((item.amount / item.quantity) * quantity) });
}

export const withAmount = (basket: readonly BasketItem[], at: number, amount: number): readonly BasketItem[] =>
  basket[at] && amount >= 0 ? basket.with(at, { ...basket[at], amount: rounded(amount) }) : basket;

export const total = (basket: readonly BasketItem[]): number => rounded(basket.reduce((sum, { amount }) => sum + amount, 0));

/** The shelves, and what else was ordered before. */
export function goodsAndOthers(known: readonly string[]): readonly Good[] {
  const own = new Set(GOODS.map(({ product }) => product));
  return [...GOODS, ...known.filter((product) => !own.has(product)).map((product) => ({ product, line: '' }))];
}
