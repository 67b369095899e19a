import { passBack, passMerge, type Compiled, type Effect, type SubjectState, type TakenOver } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { conflict, notFound } from '../http/problem';
import { type DefinitionStore } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { commitPasses } from './commit';
import { MOVED } from './inbox';
import { ALL, loadStates } from './load-states';
import { holdCompanies } from './queries/hold-companies';
import { countSignalsAnew, effectsFrom, takenOf } from './take-back';
import { runOverdue } from './turn';

interface Row {
  readonly id: number;
  readonly uid: string;
  readonly lane: number;
  readonly merged_into: number | null;
  readonly epoch: number;
}

interface Subject {
  readonly state: SubjectState;
  readonly lane: number;
  readonly effects: Effect[];
}

/** What the other contact had before the merge and gets back when the two are parted. */
interface Kept {
  readonly memberships: readonly { definition_id: number; since: string; ledger_id: number | null }[];
  readonly scores: readonly Record<string, unknown>[];
  readonly deals: readonly { id: number; company_id: number | null }[];
  readonly tasks: readonly number[];
  /** whoever led to it, since they were merged into it or it was known by another address before; they go along with it */
  readonly led?: readonly number[];
}

/**
 * Merges another contact into one, under the lanes of both: everything is taken over, the other is left as a tombstone that leads here,
 * and nothing is set off. Signals and rows to come for the other go here.
 *
 * @param by who merges, as causes name people and keys
 * @returns the id of the merge, by which the two can be parted again
 */
export async function mergeContacts(
  database: Database,
  store: DefinitionStore,
  clock: Clock,
  into: string,
  other: string,
  by: string,
): Promise<number> {
  const id = await database.sharedEpoch(async (sql) => {
    const rows = await lockBoth(sql, 'uid = any($1::uuid[])', [into, other]);
    const [one, two] = [rows.find((row) => row.uid === into), rows.find((row) => row.uid === other)];
    if (!one || !two) throw notFound('contact');
    if (one.id === two.id) throw conflict('contact.same', 'That is one contact already.');
    if (one.merged_into !== null || two.merged_into !== null) throw conflict('contact.merged', 'One of them has been merged already.');
    const epoch = await store.current(sql);
    const { compiled } = epoch;
    const now = clock.now();
    const subjects = await load(sql, compiled, [one, two], now);
    const [here, there] = [subjects.get(one.id), subjects.get(two.id)];
    if (!here || !there || here.state.isNew || there.state.isNew)
      throw conflict('contact.waiting', 'One of them has not been worked yet. Try again in a moment.');
    const { effects, taken } = passMerge(compiled, here.state, there.state, { kind: 'merge', ref: by }, now);
    here.effects.push(...effects);
    const kept = await keptOf(sql, two.id);
    const { ids } = await commitPasses(sql, epoch, [there, here], now);
    const root = effects.find((effect) => effect.kind === 'contact' && effect.verb === 'merged');
    await moveSignals(sql, two.id, one.id, taken);
    await leaveTombstone(sql, two, one);
    const [merge] = await sql.query<{ id: number }>(
      'insert into contact_merge (into_id, other_id, at, by, ledger_id, taken, kept) values ($1, $2, $3, $4, $5, $6::jsonb, $7::jsonb) returning id',
      [one.id, two.id, iso(now), by, root && ids.get(root), JSON.stringify(taken), JSON.stringify(kept)],
    );
    return merge?.id ?? 0;
  });
  await database.query(`select pg_notify('${MOVED}', '')`);
  return id;
}

/** Undoes a merge: each contact gets back what it had; what happened since stays with the surviving contact. */
export async function partContacts(database: Database, store: DefinitionStore, clock: Clock, id: number, by: string): Promise<void> {
  await database.sharedEpoch(async (sql) => {
    const [merge] = await sql.query<{
      into_id: number;
      other_id: number;
      ledger_id: number;
      taken: TakenOver;
      kept: Kept;
      parted_at: Date | null;
    }>('select into_id, other_id, ledger_id, taken, kept, parted_at from contact_merge where id = $1 for update', [id]);
    if (!merge) throw notFound('merge');
    if (merge.parted_at) throw conflict('merge.parted', 'They have been parted already.');
    const rows = await lockBoth(sql, 'id = any($1::bigint[])', [merge.into_id, merge.other_id]);
    const [one, two] = [rows.find((row) => row.id === merge.into_id), rows.find((row) => row.id === merge.other_id)];
    if (!one || !two || one.merged_into !== null)
      throw conflict('merge.merged', 'It has been merged into another since: part that merge first.');
    const epoch = await store.current(sql);
    const { compiled } = epoch;
    const now = clock.now();
    // Lock both at once: one after the other could deadlock with a worker that holds the second.
    await holdCompanies(sql, [one.id, two.id]);
    const here = (await load(sql, compiled, [one], now)).get(one.id) as Subject;
    const tree = (await effectsFrom(sql, [merge.ledger_id])).filter((row) => row.contact_id === one.id);
    const cause = { kind: 'take back' as const, ref: by };
    here.effects.push(...passBack(compiled, here.state, tree.flatMap(takenOf), cause, now, { parted: merge.taken }).effects);
    // Mark them as moving to the other contact, so that dropping them here does not delete them.
    await sql.query('update deal set next_holder_id = $2 where id = any($1::bigint[])', [merge.taken.deals, two.id]);
    await commitPasses(sql, epoch, [here], now);
    await moveSignals(sql, one.id, two.id, merge.taken);
    await raise(sql, two, merge.kept);
    const there = (await load(sql, compiled, [two], now)).get(two.id) as Subject;
    // No build has come to it since it was merged.
    there.state.epoch = two.epoch;
    there.effects.push(...passBack(compiled, there.state, [], cause, now).effects);
    await commitPasses(sql, epoch, [there], now);
    await sql.query('update contact_merge set parted_at = $2 where id = $1', [id, iso(now)]);
  });
  await database.query(`select pg_notify('${MOVED}', '')`);
}

async function lockBoth(sql: Sql, where: string, ids: readonly unknown[]): Promise<readonly Row[]> {
  const rows = await sql.query<Row>(`select id, uid, lane, merged_into, epoch from contact where ${where}`, [ids]);
  await sql.query('select lane from lane where lane = any($1::smallint[]) order by lane for update', [rows.map((row) => row.lane)]);
  return sql.query<Row>(`select id, uid, lane, merged_into, epoch from contact where ${where}`, [ids]);
}

async function load(sql: Sql, compiled: Compiled, rows: readonly Row[], now: number): Promise<Map<number, Subject>> {
  const states = await loadStates(
    sql,
    compiled.catalogue,
    rows.map((row) => row.id),
    ALL,
    true,
  );
  const subjects = new Map<number, Subject>();
  for (const [id, state] of states) {
    const subject = { state, lane: rows.find((row) => row.id === id)?.lane ?? 0, effects: [] };
    runOverdue(compiled, subject, now, now);
    subjects.set(id, subject);
  }
  return subjects;
}

async function moveSignals(sql: Sql, from: number, to: number, { signals }: TakenOver): Promise<void> {
  await sql.query('update signal set contact_id = $2 where contact_id = $1 and id = any($3::bigint[])', [from, to, signals]);
  await countSignalsAnew(sql, [from, to]);
}

async function keptOf(sql: Sql, id: number): Promise<Kept> {
  const memberships = await sql.query<Kept['memberships'][number]>(
    'select definition_id, since, ledger_id from membership where contact_id = $1',
    [id],
  );
  const scores = await sql.query<Record<string, unknown>>(
    'select scorecard_id, points, band, band_since, exact_until from contact_score where contact_id = $1',
    [id],
  );
  const deals = await sql.query<Kept['deals'][number]>('select id, company_id from deal where holder_id = $1', [id]);
  const tasks = await sql.query<{ id: number }>('select id from task where contact_id = $1', [id]);
  const led = await sql.query<{ id: number }>('select id from contact where merged_into = $1', [id]);
  return { memberships, scores, deals, tasks: tasks.map((task) => task.id), led: led.map((contact) => contact.id) };
}

/** The other contact becomes a tombstone that leads here; its waiting inbox rows are worked here. */
async function leaveTombstone(sql: Sql, other: Row, into: Row): Promise<void> {
  await sql.query('update contact set merged_into = $2 where id = $1 or merged_into = $1', [other.id, into.id]);
  for (const waiting of ['inbox', 'set_aside'])
    await sql.query(`update ${waiting} set contact_id = $2, lane = $3 where contact_id = $1`, [other.id, into.id, into.lane]);
  await sql.query('update task set contact_id = $2 where contact_id = $1', [other.id, into.id]);
  for (const table of ['membership', 'contact_score', 'due']) await sql.query(`delete from ${table} where contact_id = $1`, [other.id]);
  await sql.query('delete from deal_score where holder_id = $1', [other.id]);
}

async function raise(sql: Sql, other: Row, kept: Kept): Promise<void> {
  await sql.query('update contact set merged_into = null where id = $1', [other.id]);
  await sql.query('update contact set merged_into = $1 where id = any($2::bigint[])', [other.id, kept.led ?? []]);
  await sql.query('update task set contact_id = $1 where id = any($2::bigint[])', [other.id, kept.tasks]);
  await sql.query(
    `insert into membership (contact_id, definition_id, since, ledger_id)
     select $1, r.definition_id, r.since, r.ledger_id from jsonb_to_recordset($2::jsonb) as r(definition_id int, since timestamptz, ledger_id bigint)
       join definition d on d.id = r.definition_id and not d.deleted on conflict do nothing`,
    [other.id, JSON.stringify(kept.memberships)],
  );
  await sql.query(
    `insert into contact_score (contact_id, scorecard_id, points, band, band_since, exact_until)
     select $1, r.* from jsonb_to_recordset($2::jsonb) as r(scorecard_id int, points bigint, band text, band_since timestamptz, exact_until timestamptz) on conflict do nothing`,
    [other.id, JSON.stringify(kept.scores)],
  );
  await sql.query(
    `update deal d set holder_id = $1, next_holder_id = null, contact_id = $1, company_id = r.company_id
       from jsonb_to_recordset($2::jsonb) as r(id bigint, company_id bigint) where d.id = r.id`,
    [other.id, JSON.stringify(kept.deals)],
  );
}
