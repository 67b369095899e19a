import { pass, startOfDay, type Effect } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { commitPasses } from './commit';
import { ALL, loadStates } from './load-states';
import { countSignalsAnew } from './take-back';
import { runOverdue } from './turn';
import { type WorkedSubject } from './worked';

/** Contacts per transaction: few enough that lanes are locked only briefly. */
const AT_ONCE = 100;
/** Signals that are looked through for the next contacts. */
const LOOKED_THROUGH = 2_000;

/**
 * Forgets the signals of a type that are older than they are kept, of some contacts, in a pass of each. What was sent stays claimed, so that nobody
 * brings it in a second time.
 *
 * @returns whether there may be more of it
 */
export function forgetSome(database: Database, store: DefinitionStore, clock: Clock, typeId: number, today: number): Promise<boolean> {
  return database.sharedEpoch(async (sql) => {
    const epoch = await store.current(sql);
    const { catalogue } = epoch.compiled;
    const type = catalogue.get('signalType', typeId);
    if (type?.body.keepDays === undefined) return false;
    const before = iso(startOfDay(today - type.body.keepDays, catalogue.zone));
    const holders = await holdersOf(sql, typeId, before);
    if (holders.length === 0) return false;
    const lanes = [...new Set(holders.map(({ lane }) => lane))];
    await sql.query('select lane from lane where lane = any($1::smallint[]) order by lane for update', [lanes]);
    const now = clock.now();
    const ids = holders.map(({ id }) => id);
    const rows = await sql.query<{ id: number; contact_id: number }>(
      'select id, contact_id from signal where contact_id = any($1::bigint[]) and type_id = $2 and time < $3',
      [ids, typeId, before],
    );
    const old = new Map<number, Set<number>>(ids.map((id) => [id, new Set()]));
    for (const row of rows) old.get(row.contact_id)?.add(row.id);
    const states = await loadStates(sql, catalogue, ids, ALL, true);
    const cause = { kind: 'definition', ref: `${type.id}/${type.version}` } as const;
    const worked = holders.flatMap(({ id, lane }): (WorkedSubject & { effects: Effect[] })[] => {
      const state = states.get(id);
      if (!state) return [];
      const subject = { state, lane, effects: [] as Effect[] };
      runOverdue(epoch.compiled, subject, now, now);
      const signals = old.get(id) ?? new Set<number>();
      subject.effects.push(...pass(epoch.compiled, state, { kind: 'forget', signals, cause }, now));
      return [subject];
    });
    await sql.query('delete from signal where contact_id = any($1::bigint[]) and id = any($2::bigint[])', [ids, rows.map(({ id }) => id)]);
    await countSignalsAnew(sql, ids);
    await commitPasses(sql, epoch, worked, now, lanes);
    return true;
  });
}

async function holdersOf(sql: Sql, typeId: number, before: string): Promise<readonly { readonly id: number; readonly lane: number }[]> {
  return sql.query(
    `select c.id, c.lane from contact c
      where c.id in (select contact_id from (select contact_id from signal where type_id = $1 and time < $2 order by time limit ${LOOKED_THROUGH}) s)
      order by c.id limit ${AT_ONCE}`,
    [typeId, before],
  );
}
