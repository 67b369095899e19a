import { readEntry, type Effect, type SubjectState, type TakenEntry } from '../index.ts';

/** The effects of one pass as rows of a ledger: a root and all that came of it. */
export function treeOf(effects: readonly Effect[], root: Effect, first = 1): readonly TakenEntry[] {
  const inside = new Set<Effect>([root]);
  for (const effect of effects) if (typeof effect.parent === 'object' && inside.has(effect.parent)) inside.add(effect);
  return effects.flatMap((effect, index) => {
    if (!inside.has(effect)) return [];
    const { kind, verb, definitionId, channel, before, after, at } = effect;
    const entry = readEntry({ kind, verb, definitionId, channel, before, after });
    return entry ? [{ ...entry, id: first + index, at }] : [];
  });
}

const sorted = <Key, Value>(map: ReadonlyMap<Key, Value>): unknown => [...map].sort(([a], [b]) => String(a).localeCompare(String(b)));
const nonEmpty = <Key, Value>(map: ReadonlyMap<Key, readonly Value[]>): unknown =>
  sorted(new Map([...map].filter(([, list]) => list.length > 0)));

/** Everything that is recorded and worked out, but for since when memberships and bands are: going back is a movement of its own. */
export const standing = (state: SubjectState): unknown => ({
  facts: sorted(state.facts),
  tags: sorted(state.tags),
  past: nonEmpty(state.pastTags),
  consent: sorted(state.consent),
  signals: nonEmpty(new Map([...state.signals].map(([type, list]) => [type, list.map((signal) => signal.id)]))),
  deals: [...state.deals.keys()].sort((a, b) => a - b),
  stage: state.stage,
  owner: state.owner,
  company: state.company,
  points: sorted(state.points),
  firings: sorted(state.firings),
  marks: [...state.latchedLines.keys()].sort(),
  members: [...state.memberships.keys()].sort((a, b) => a - b),
  scores: [...state.scores].map(([id, { points, band }]) => [id, points, band]),
  changes: nonEmpty(new Map([...state.changes].filter(([of]) => !of.startsWith('band')))),
});
