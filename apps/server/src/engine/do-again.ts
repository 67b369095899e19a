import { passAgain, type Compiled, type Effect, type GoneEntry, type Stays } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { type Clock } from './clock';
import { commitPasses } from './commit';
import { ALL, loadStates } from './load-states';
import { takenOf, type TakenBack, type TakenSubject, type TreeRow } from './take-back';
import { runOverdue } from './turn';

/** An effect that was taken back, beside what took it back. */
interface GoneRow extends TreeRow {
  readonly parent: number | null;
  readonly rule_id: number | null;
  readonly rule_version: number | null;
  readonly back: Pick<TreeRow, 'id' | 'kind' | 'verb' | 'definitionId' | 'channel' | 'before' | 'after'> & { readonly at: string };
}

/**
 * Does again what was taken back, on whomever, under the lanes of everyone concerned.
 *
 * @param sql a transaction that shares the epoch
 * @param backs ids in the ledger of what took it back
 * @param by who does it again, as causes name people and keys
 */
export async function doAgainIn(sql: Sql, store: DefinitionStore, clock: Clock, backs: readonly number[], by: string): Promise<TakenBack> {
  const lanes = [...new Set((await goneRows(sql, backs)).map((row) => row.lane))];
  await sql.query('select lane from lane where lane = any($1::smallint[]) order by lane for update', [lanes]);
  const rows = (await goneRows(sql, backs)).filter((row) => lanes.includes(row.lane));
  const epoch = await store.current(sql);
  const now = clock.now();
  const done = await doing(sql, epoch.compiled, rows, by, now, true);
  const { ids } = await commitPasses(sql, epoch, done.worked, now, lanes);
  return { ...done, ids };
}

/** What doing it again would do, by the same passes. Locks and writes nothing. */
export async function rehearseAgain(sql: Sql, compiled: Compiled, backs: readonly number[], by: string, now: number): Promise<TakenBack> {
  return doing(sql, compiled, await goneRows(sql, backs), by, now, false);
}

async function doing(sql: Sql, compiled: Compiled, rows: readonly GoneRow[], by: string, now: number, lock: boolean): Promise<TakenBack> {
  const states = await loadStates(sql, compiled.catalogue, [...new Set(rows.map((row) => row.contact_id))], ALL, lock);
  const stays: Stays[] = [];
  const worked: TakenSubject[] = [];
  for (const [id, state] of states) {
    const own = rows.filter((row) => row.contact_id === id);
    const subject = { state, lane: own[0]?.lane ?? 0, effects: [] as Effect[] };
    runOverdue(compiled, subject, now, now);
    const again = passAgain(compiled, state, own.flatMap(entryOf), { kind: 'again', ref: by }, now);
    subject.effects.push(...again.effects);
    stays.push(...again.stays);
    worked.push({ ...subject, done: again.done });
  }
  return { signals: 0, worked, stays };
}

function entryOf(row: GoneRow): readonly GoneEntry[] {
  const [taken] = takenOf(row);
  const [back] = takenOf({ ...row, ...row.back, at: new Date(row.back.at) });
  if (!taken || !back) return [];
  const rule = row.rule_id === null ? undefined : { id: row.rule_id, version: row.rule_version ?? 0 };
  return [{ taken, back, rule, parent: row.parent ?? undefined }];
}

/** What these effects took back, of whoever is still here. */
async function goneRows(sql: Sql, backs: readonly number[]): Promise<readonly GoneRow[]> {
  return sql.query<GoneRow>(
    `select l.id, l.contact_id, coalesce(c.lane, k.lane) as lane, l.at, l.kind, l.verb, l.definition_id as "definitionId", l.channel,
            coalesce(v.before, l.before) as before, coalesce(v.after, l.after) as after, l.parent, l.rule_id, l.rule_version,
            jsonb_build_object('id', b.id, 'at', b.at, 'kind', b.kind, 'verb', b.verb, 'definitionId', b.definition_id, 'channel', b.channel,
                               'before', coalesce(w.before, b.before), 'after', coalesce(w.after, b.after)) as back
       from ledger b join ledger l on l.id = b.reverses
       left join contact c on c.id = l.contact_id left join company k on k.id = l.contact_id
       left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
       left join ledger_value w on w.contact_id = b.contact_id and w.ledger_id = b.id
      where b.id = any($1::bigint[]) and coalesce(c.lane, k.lane) is not null
      order by l.id`,
    [backs],
  );
}
