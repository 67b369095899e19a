import { type Compiled, type SubjectState } from '@eager-sieve/core';
import { type Database } from '../src/database/database';
import { KeptStates } from '../src/engine/kept-states';
import { loadStates } from '../src/engine/load-states';

interface Seen {
  compiled: Compiled | undefined;
  readonly revisions: Map<number, number>;
  readonly laneOf: Map<number, number>;
}
/** What was handed to each of them, so that it can be asked for all that it keeps. */
const seen = new Map<KeptStates, Seen>();
const { begin, keep } = KeptStates.prototype;
const of = (kept: KeptStates): Seen => {
  const known = seen.get(kept) ?? { compiled: undefined, revisions: new Map(), laneOf: new Map() };
  seen.set(kept, known);
  return known;
};
KeptStates.prototype.begin = function (compiled, lanes) {
  of(this).compiled = compiled;
  begin.call(this, compiled, lanes);
};
KeptStates.prototype.keep = function (contacts, revisions) {
  const { laneOf, revisions: known } = of(this);
  for (const { state, lane } of contacts) laneOf.set(state.id, lane);
  for (const [lane, revision] of revisions) known.set(lane, revision);
  keep.call(this, contacts, revisions);
};

/** Another server is another database. */
export const nothingKept = (): void => seen.clear();

/**
 * Every contact that a worker keeps, and that nobody has changed since, has to be as a load brings it.
 *
 * @param current the definitions of the database as they stand, by which its workers are known from those of others
 * @returns what is otherwise
 */
export async function keptOtherwise(database: Database, current: Compiled): Promise<readonly object[]> {
  const wrong: object[] = [];
  for (const [kept, { compiled, revisions, laneOf }] of seen) {
    if (compiled !== current) continue;
    const held = new Map<number, { readonly lane: number; readonly held: Held }>();
    for (const [id, lane] of laneOf) {
      const state = kept.take(id);
      if (!state) continue;
      held.set(id, { lane, held: plain(state) });
      keep.call(kept, [{ state, lane }], new Map([[lane, revisions.get(lane) ?? -1]]));
    }
    if (held.size === 0) continue;
    await database.snapshot(async (sql) => {
      const lanes = await sql.query<{ lane: number; revision: number }>(
        'select lane, revision from lane where lane = any($1::smallint[])',
        [[...revisions.keys()]],
      );
      const standing = new Set(lanes.filter(({ lane, revision }) => revisions.get(lane) === revision).map(({ lane }) => lane));
      const ids = [...held].filter(([, { lane }]) => standing.has(lane)).map(([id]) => id);
      for (const [id, state] of await loadStates(sql, compiled.catalogue, ids, compiled.needs)) {
        for (const [name, expected] of Object.entries(plain(state))) {
          const is = held.get(id)?.held[name];
          if (is !== expected) wrong.push({ id, name, is, expected });
        }
      }
    });
  }
  return wrong;
}

const KEYED = [
  'facts',
  'shown',
  'tags',
  'pastTags',
  'consent',
  'signals',
  'scores',
  'memberships',
  'pins',
  'leavings',
  'firings',
  'latchedLines',
  'suspendedRules',
  'points',
  'dealScores',
  'changes',
] as const;

/** Everything of a contact that is not asked for anew at each turn, in one order. */
type Held = Readonly<Record<string, string>>;
const plain = (state: SubjectState): Held => ({
  links: JSON.stringify([state.lastNow, state.stage, state.owner, state.company]),
  ...Object.fromEntries(
    KEYED.map((name) => [
      name,
      JSON.stringify(
        [...(state[name] as ReadonlyMap<unknown, unknown>)]
          .filter(([, value]) => !Array.isArray(value) || value.length > 0)
          .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1)),
        inOrder,
      ),
    ]),
  ),
});

/** Properties by their names, reasons by what they say. */
const inOrder = (key: string, value: unknown): unknown => {
  if (key === 'reasons') return (value as object[]).map((reason) => JSON.stringify(reason, inOrder)).sort();
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
};
