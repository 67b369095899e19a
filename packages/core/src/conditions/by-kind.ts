interface OfAKind {
  readonly kind: string;
}

/** What to do with each kind of line: a kind that is left out does not compile. */
export type ByKind<Of extends OfAKind, Args extends readonly unknown[], Result> = {
  readonly [Kind in Of['kind']]: (one: Extract<Of, { readonly kind: Kind }>, ...args: Args) => Result;
};

/** Does with a line what the table says for its kind. */
export const byKind =
  <Of extends OfAKind, Args extends readonly unknown[], Result>(table: ByKind<Of, Args, Result>) =>
  (one: Of, ...args: Args): Result =>
    (table[one.kind as Of['kind']] as (one: Of, ...args: Args) => Result)(one, ...args);
