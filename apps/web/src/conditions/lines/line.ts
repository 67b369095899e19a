import { type Catalogue, type Leaf, type LeafKind, type LeafOf } from '@eager-sieve/core';

/** What the editor of every kind of line is given. */
export interface LineProps<Kind extends LeafKind> {
  readonly leaf: LeafOf<Kind>;
  readonly catalogue: Catalogue;
  readonly onChange: (leaf: Leaf) => void;
}

/** The line with a part put in, or left out where it says nothing. */
export function withPart<L extends Leaf>(leaf: L, part: string, value: unknown): L {
  const next: Record<string, unknown> = { ...leaf };
  if (value === undefined || value === 'ever' || (Array.isArray(value) && value.length === 0)) delete next[part];
  else next[part] = value;
  return next as L;
}
