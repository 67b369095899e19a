import { passBack, readEntry, type Compiled, type Effect, type Stays, type TakenEntry } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { type Clock } from './clock';
import { commitPasses } from './commit';
import { MOVED } from './inbox';
import { ALL, loadStates } from './load-states';
import { runOverdue } from './turn';
import { type WorkedSubject } from './worked';

/** For each contact and company concerned: what was taken back, what followed, and what stays. */
export interface TakenBack {
  readonly worked: readonly (WorkedSubject & { readonly signals: number })[];
  readonly stays: readonly Stays[];
}

export interface TreeRow {
  readonly id: number;
  readonly contact_id: number;
  readonly lane: number;
  readonly at: Date;
  readonly kind: string;
  readonly verb: string;
  readonly definitionId: number | null;
  readonly channel: string | null;
  readonly before: unknown;
  readonly after: unknown;
}

const NOTHING: TakenBack = { worked: [], stays: [] };

/**
 * Takes effects back with all that came of them, on whomever, in one transaction and under the lanes of everyone concerned.
 *
 * @param roots ids in the ledger
 * @param by who takes them back, as causes name people and keys
 */
export async function takeBackEffects(
  database: Database,
  store: DefinitionStore,
  clock: Clock,
  roots: readonly number[],
  by: string,
): Promise<TakenBack> {
  const result = await database.sharedEpoch((sql) => inOneGo(sql, store, clock, roots, by));
  if (result.worked.length > 0) await database.query(`select pg_notify('${MOVED}', '')`);
  return result;
}

async function inOneGo(sql: Sql, store: DefinitionStore, clock: Clock, roots: readonly number[], by: string): Promise<TakenBack> {
  const found = await effectsFrom(sql, roots);
  if (found.length === 0) return NOTHING;
  const lanes = [...new Set(found.map((row) => row.lane))];
  await sql.query('select lane from lane where lane = any($1::smallint[]) order by lane for update', [lanes]);
  // Consequences that arrived while waiting for the lanes belong to it too: they are on the same contacts, or still in an inbox.
  const tree = (await effectsFrom(sql, roots)).filter((row) => lanes.includes(row.lane));
  const epoch = await store.current(sql);
  const now = clock.now();
  const taken = await taking(sql, epoch.compiled, tree, by, now, true);
  await commitPasses(sql, epoch, taken.worked, now, lanes);
  return taken;
}

/** What taking effects back would do, by the same passes. Locks and writes nothing. */
export async function rehearseTakeBack(
  sql: Sql,
  compiled: Compiled,
  roots: readonly number[],
  by: string,
  now: number,
): Promise<TakenBack> {
  return taking(sql, compiled, await effectsFrom(sql, roots), by, now, false);
}

async function taking(sql: Sql, compiled: Compiled, tree: readonly TreeRow[], by: string, now: number, lock: boolean): Promise<TakenBack> {
  const done = new Set(
    (
      await sql.query<{ ledger_id: number }>(
        'select ledger_id from task where ledger_id = any($1::bigint[]) and done_at is not null union all select ledger_id from notice where ledger_id = any($1::bigint[]) and read_at is not null',
        [tree.map((row) => row.id)],
      )
    ).map((row) => row.ledger_id),
  );
  const states = await loadStates(sql, compiled.catalogue, [...new Set(tree.map((row) => row.contact_id))], ALL, lock);
  const rowsOf = new Map<number, TreeRow[]>([...states.keys()].map((id) => [id, []]));
  for (const row of tree) if (!done.has(row.id)) rowsOf.get(row.contact_id)?.push(row);
  const stays: Stays[] = [...done].map((entry) => ({ entry, why: 'it has been seen to already' }));
  const worked: (WorkedSubject & { effects: Effect[]; signals: number })[] = [];
  for (const [id, state] of states) {
    const rows = rowsOf.get(id) ?? [];
    const subject = { state, lane: rows[0]?.lane ?? 0, effects: [] as Effect[], signals: 0 };
    runOverdue(compiled, subject, now, now);
    const back = passBack(compiled, state, rows.flatMap(takenOf), { kind: 'take back', ref: by }, now);
    subject.effects.push(...back.effects);
    stays.push(...back.stays);
    worked.push(subject);
  }
  return { worked, stays };
}

/** The effects and all their consequences, except those already taken back. */
export async function effectsFrom(sql: Sql, roots: readonly number[]): Promise<readonly TreeRow[]> {
  return sql.query<TreeRow>(
    `with recursive tree(id) as (
       select id from ledger where id = any($1::bigint[])
       union
       select l.id from ledger l join tree t on l.parent = t.id)
     select l.id, l.contact_id, coalesce(c.lane, k.lane) as lane, l.at, l.kind, l.verb, l.definition_id as "definitionId", l.channel,
            coalesce(v.before, l.before) as before, coalesce(v.after, l.after) as after
       from tree join ledger l using (id)
       left join contact c on c.id = l.contact_id left join company k on k.id = l.contact_id
       left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
      where l.reverses is null and coalesce(c.lane, k.lane) is not null
        and not exists (select from ledger r where r.reverses = l.id)
      order by l.id`,
    [roots],
  );
}

/** A row as it is taken back; nothing where it is none of a pass. */
export function takenOf(row: TreeRow): readonly TakenEntry[] {
  const entry = readEntry(row);
  return entry ? [{ ...entry, id: row.id, at: row.at.getTime() }] : [];
}
