import { passBack, readEntry, type Compiled, type Effect, type Stays, type TakenEntry } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { type Clock } from './clock';
import { commitPasses } from './commit';
import { OWN_SOURCE, senderOf } from './follow-ups';
import { ALL, loadStates } from './load-states';
import { runOverdue } from './turn';
import { type WorkedSubject } from './worked';
import { type LedgerIds } from './write-ledger';

/** For each contact and company concerned: what was taken back, what followed, and what stays. */
export interface TakenBack {
  /** signals that are here no more */
  readonly signals: number;
  readonly worked: readonly TakenSubject[];
  readonly stays: readonly Stays[];
  /** of all effects, once they are in the ledger */
  readonly ids?: LedgerIds;
}

/** A contact or company, and which of the effects on it take something back, or do it again. */
export type TakenSubject = WorkedSubject & { readonly done: readonly Effect[] };

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

const NOTHING: TakenBack = { signals: 0, worked: [], stays: [] };

/** Signals that are to be as if they had never come, by the contact that they are of. */
export type GoneSignals = ReadonlyMap<number, ReadonlySet<number>>;
const NO_SIGNALS: GoneSignals = new Map();

/**
 * Takes signals and effects back with all that came of them, on whomever, under the lanes of everyone concerned. Signals that another contact
 * has by now stay.
 *
 * @param sql a transaction that shares the epoch
 * @param roots ids in the ledger
 * @param by who takes them back, as causes name people and keys
 */
export async function takeBackIn(
  sql: Sql,
  store: DefinitionStore,
  clock: Clock,
  { roots, signals }: { readonly roots: readonly number[]; readonly signals: GoneSignals },
  by: string,
): Promise<TakenBack> {
  if (signals.size === 0) return inOneGo(sql, store, clock, roots, NO_SIGNALS, by);
  const all = await withOwn(sql, signals);
  return inOneGo(sql, store, clock, [...roots, ...(await effectsOfSignals(sql, all))], all, by);
}

async function inOneGo(
  sql: Sql,
  store: DefinitionStore,
  clock: Clock,
  roots: readonly number[],
  signals: GoneSignals,
  by: string,
): Promise<TakenBack> {
  const found = await effectsFrom(sql, roots);
  const holders = await holdersOf(sql, signals);
  if (found.length === 0 && holders.size === 0) return NOTHING;
  const lanes = [...new Set([...found.map((row) => row.lane), ...holders.values()])];
  await sql.query('select lane from lane where lane = any($1::smallint[]) order by lane for update', [lanes]);
  // Consequences that arrived while waiting for the lanes belong to it too: they are on the same contacts, or still in an inbox.
  const tree = (await effectsFrom(sql, roots)).filter((row) => lanes.includes(row.lane));
  const epoch = await store.current(sql);
  const now = clock.now();
  const taken = await taking(sql, epoch.compiled, { tree, signals, holders }, by, now, true);
  await forgetSignals(sql, signals, [...holders.keys()]);
  const { ids } = await commitPasses(sql, epoch, taken.worked, now, lanes);
  return { ...taken, ids };
}

/** What taking effects back would do, by the same passes. Locks and writes nothing. */
export async function rehearseTakeBack(
  sql: Sql,
  compiled: Compiled,
  roots: readonly number[],
  by: string,
  now: number,
): Promise<TakenBack> {
  return taking(sql, compiled, { tree: await effectsFrom(sql, roots), signals: NO_SIGNALS, holders: new Map() }, by, now, false);
}

/** What taking signals back would do. Locks and writes nothing. */
export async function rehearseSignalsBack(sql: Sql, compiled: Compiled, signals: GoneSignals, by: string, now: number): Promise<TakenBack> {
  const all = await withOwn(sql, signals);
  const tree = await effectsFrom(sql, await effectsOfSignals(sql, all));
  return taking(sql, compiled, { tree, signals: all, holders: await holdersOf(sql, all) }, by, now, false);
}

interface Going {
  readonly tree: readonly TreeRow[];
  readonly signals: GoneSignals;
  /** the contacts that have the signals, with their lanes */
  readonly holders: ReadonlyMap<number, number>;
}

async function taking(
  sql: Sql,
  compiled: Compiled,
  { tree, signals, holders }: Going,
  by: string,
  now: number,
  lock: boolean,
): Promise<TakenBack> {
  const done = new Set(
    (
      await sql.query<{ ledger_id: number }>(
        'select ledger_id from task where ledger_id = any($1::bigint[]) and done_at is not null union all select ledger_id from notice where ledger_id = any($1::bigint[]) and read_at is not null',
        [tree.map((row) => row.id)],
      )
    ).map((row) => row.ledger_id),
  );
  const subjects = [...new Set([...tree.map((row) => row.contact_id), ...holders.keys()])];
  const states = await loadStates(sql, compiled.catalogue, subjects, ALL, lock);
  const rowsOf = new Map<number, TreeRow[]>([...states.keys()].map((id) => [id, []]));
  for (const row of tree) if (!done.has(row.id)) rowsOf.get(row.contact_id)?.push(row);
  const stays: Stays[] = [...done].map((entry) => ({ entry, why: 'it has been seen to already' }));
  const worked: TakenSubject[] = [];
  let gone = 0;
  for (const [id, state] of states) {
    const rows = rowsOf.get(id) ?? [];
    const subject = { state, lane: holders.get(id) ?? rows[0]?.lane ?? 0, effects: [] as Effect[] };
    runOverdue(compiled, subject, now, now);
    const also = holders.has(id) ? { signals: signals.get(id) ?? new Set<number>() } : {};
    const back = passBack(compiled, state, rows.flatMap(takenOf), { kind: 'take back', ref: by }, now, also);
    gone += back.effects.filter(({ kind, verb }) => kind === 'signal' && verb === 'taken back').length;
    subject.effects.push(...back.effects);
    stays.push(...back.stays);
    worked.push({ ...subject, done: back.effects.filter((effect) => effect.reverses !== undefined) });
  }
  return { signals: gone, worked, stays };
}

/** The contacts that still have these signals, with their lanes. */
async function holdersOf(sql: Sql, signals: GoneSignals): Promise<ReadonlyMap<number, number>> {
  if (signals.size === 0) return new Map();
  const rows = await sql.query<{ id: number; lane: number }>(
    `select distinct c.id, c.lane from contact c join signal s on s.contact_id = c.id
      where c.id = any($1::bigint[]) and s.id = any($2::bigint[])`,
    [[...signals.keys()], idsIn(signals)],
  );
  return new Map(rows.map(({ id, lane }) => [id, lane]));
}

/** Signals, with those that the product sent itself because of them: of a plan that they began and that lapsed, of what a rule did. */
async function withOwn(sql: Sql, signals: GoneSignals): Promise<GoneSignals> {
  const all = new Map([...signals].map(([contact, ids]): [number, Set<number>] => [contact, new Set(ids)]));
  let last: GoneSignals = signals;
  while (last.size > 0) {
    const tree = await effectsFrom(sql, await effectsOfSignals(sql, last));
    const sent = [
      ...[...last].flatMap(([contact, ids]) => [...ids].map((id) => senderOf({ contact, lapse: id }))),
      ...tree.map(({ id }) => senderOf({ effect: id })),
    ];
    const rows = await sql.query<{ id: number; contact_id: number }>(
      `select id, contact_id from signal
        where contact_id = any($1::bigint[]) and sender_id = any($2::text[]) and source_id = (select id from source where name = $3)`,
      [[...new Set([...last.keys(), ...tree.map((row) => row.contact_id)])], sent, OWN_SOURCE],
    );
    const found = new Map<number, Set<number>>();
    for (const { id, contact_id } of rows) {
      if (all.get(contact_id)?.has(id)) continue;
      found.set(contact_id, (found.get(contact_id) ?? new Set()).add(id));
      all.set(contact_id, (all.get(contact_id) ?? new Set()).add(id));
    }
    last = found;
  }
  return all;
}

const idsIn = (signals: GoneSignals): readonly number[] => [...signals.values()].flatMap((ids) => [...ids]);

/** What signals did in the passes that took them in, on the contacts that they are of. */
async function effectsOfSignals(sql: Sql, signals: GoneSignals): Promise<readonly number[]> {
  const rows = await sql.query<{ id: number }>(
    `select id from ledger where cause_kind = 'signal' and cause_ref = any($1::text[]) and parent is null and reverses is null and contact_id is not null`,
    [idsIn(signals).map(String)],
  );
  return rows.map(({ id }) => id);
}

/** Signals are here no more, and can be sent again. */
async function forgetSignals(sql: Sql, signals: GoneSignals, holders: readonly number[]): Promise<void> {
  if (holders.length === 0) return;
  await sql.query(
    `with gone as (delete from signal where contact_id = any($1::bigint[]) and id = any($2::bigint[]) returning source_id, sender_id)
     delete from signal_key k using gone where k.source_id = gone.source_id and k.key_hash = sha256(convert_to(gone.sender_id, 'UTF8'))`,
    [holders, idsIn(signals)],
  );
  await countSignalsAnew(sql, holders);
}

/** Counts the signals of contacts by type from the signals themselves. */
export async function countSignalsAnew(sql: Sql, contacts: readonly number[]): Promise<void> {
  await sql.query('delete from signal_sum where contact_id = any($1::bigint[])', [contacts]);
  await sql.query(
    `insert into signal_sum (contact_id, type_id, n, first, last)
     select contact_id, type_id, count(*), min(time), max(time) from signal where contact_id = any($1::bigint[]) group by 1, 2`,
    [contacts],
  );
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
