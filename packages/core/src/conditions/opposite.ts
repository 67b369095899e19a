import { type Count, type Leaf, type LeafOf } from './schema.ts';

const OPPOSITES: readonly (readonly [string, string])[] = [
  ['is', 'is not'],
  ['is one of', 'is not one of'],
  ['contains', 'does not contain'],
  ['includes any of', 'includes none of'],
  ['=', '!='],
  ['is empty', 'is filled'],
  ['has', 'lacks'],
  ['in', 'out'],
];
const COMPLEMENT = { '>=': '<', '<': '>=', '>': '<=', '<=': '>', '=': '!=', '!=': '=' } as const;

/** The exact opposite of a line as one line; undefined if only a "none of these" group can express it. */
export function opposite(leaf: Leaf): Leaf | undefined {
  const turn = TURNS[leaf.kind] as Turn<Leaf>;
  return turn(leaf);
}

type Turn<L extends Leaf> = (leaf: L) => Leaf | undefined;

const turnedCount = <L extends Leaf & { count?: Count | undefined }>(leaf: L): L | undefined => withCount(leaf, complement(leaf.count));
const turnedNow = (leaf: LeafOf<'tag'> | LeafOf<'band'> | LeafOf<'audience'>): Leaf | undefined =>
  leaf.since === undefined && leaf.op !== 'had' && leaf.op !== 'lost' && leaf.op !== 'left' ? turned(leaf) : undefined;

/** The opposite of each kind of line. */
const TURNS: { readonly [Kind in Leaf['kind']]: Turn<LeafOf<Kind>> } = {
  field: (leaf) => turned(leaf),
  consent: (leaf) => turned(leaf),
  tag: turnedNow,
  band: turnedNow,
  audience: turnedNow,
  signal: (leaf) => oppositeSignal(leaf),
  deal: turnedCount,
  contacts: turnedCount,
  change: turnedCount,
  score: (leaf) => (leaf.op === 'between' ? undefined : { ...leaf, op: COMPLEMENT[leaf.op] }),
  // An empty side makes every comparison false but "!=": only these two are each other's opposite.
  compare: (leaf) => (leaf.op === '=' || leaf.op === '!=' ? { ...leaf, op: COMPLEMENT[leaf.op] } : undefined),
  stage: () => undefined,
  owner: (leaf) => (leaf.op === 'is empty' || leaf.op === 'is filled' ? turned(leaf) : undefined),
};

function turned<L extends Leaf & { op: string }>(leaf: L): L | undefined {
  const pair = OPPOSITES.find((each) => each.includes(leaf.op));
  return pair && ({ ...leaf, op: pair[0] === leaf.op ? pair[1] : pair[0] } as L);
}

function oppositeSignal(leaf: LeafOf<'signal'>): Leaf | undefined {
  if (leaf.pick) return undefined;
  if (leaf.sum) return leaf.sum.op === 'between' ? undefined : { ...leaf, sum: { ...leaf.sum, op: COMPLEMENT[leaf.sum.op] } };
  if (leaf.days) return leaf.days.op === 'between' ? undefined : { ...leaf, days: { ...leaf.days, op: COMPLEMENT[leaf.days.op] } };
  return withCount(leaf, complement(leaf.count));
}

/** The complement of a count; `null` is "at least once", which is left out. */
function complement(count: Count | undefined): Count | null | undefined {
  if (!count || (count.op === '>=' && count.value === 1)) return { op: '=', value: 0 };
  if (count.op === '=' && count.value === 0) return null;
  return count.op === 'between' ? undefined : { op: COMPLEMENT[count.op], value: count.value };
}

function withCount<L extends Leaf & { count?: Count | undefined }>(leaf: L, count: Count | null | undefined): L | undefined {
  if (count === undefined) return undefined;
  const { count: _count, ...rest } = leaf;
  return (count === null ? rest : { ...rest, count }) as L;
}

/** Whether `opposite` has something to turn. */
export const canTurn = (leaf: Leaf): boolean => opposite(leaf) !== undefined;
