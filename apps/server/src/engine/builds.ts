import { pass, type Arrival, type Effect } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore, type Epoch } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { commitPasses } from './commit';
import { MOVED } from './inbox';
import { loadStates } from './load-states';
import { nextOfBuild } from './queries/next-of-build';
import { runOverdue } from './turn';

/** Contacts per step: few enough that lanes are locked only briefly and signals keep flowing. Taken from several lanes, so that small sites need few steps. */
const LANES_A_STEP = 8;
const CONTACTS_A_LANE = 40;

/** So long a build is left to whoever brings everyone up at once, from when it was last seen to go on. */
export const AT_ONCE_MS = 5_000;

/** Fewer are passed as soon. */
const FEWEST_AT_ONCE = 1_000;

export interface BuildOrder {
  /** what changed, to be shown as being brought up */
  readonly definitions: readonly number[];
  readonly name: string;
  readonly cause: string;
  /** whether everyone may be brought up at once */
  readonly atOnce?: boolean;
}

/** Orders a build, in the transaction that changed the definitions. It brings every subject to this epoch, unless a signal does so first. */
export async function orderBuild(sql: Sql, order: BuildOrder, epoch: number, now: number): Promise<void> {
  const [row] = await sql.query<{ id: number; total: number }>(
    `insert into build (definitions, name, epoch, cause, started_at, at_once_until, total)
     select $1::int[], $2, $3, $4, $5::timestamptz, $6::timestamptz, total
       from (select (select count(*) from contact where last_now is not null and merged_into is null)
                  + (select count(*) from company where last_now is not null) as total) t
     returning id, total`,
    [order.definitions, order.name, epoch, order.cause, iso(now), order.atOnce ? iso(now + AT_ONCE_MS) : null],
  );
  if (order.atOnce) await sql.query('update build set at_once_until = null where id = $1 and total < $2', [row?.id, FEWEST_AT_ONCE]);
  if (row?.total === 0) await sql.query(`update build set state = 'done', finished_at = started_at where id = $1`, [row.id]);
  else await sql.query('insert into build_lane (build_id, lane) select $1, lane from lane', [row?.id]);
}

export interface Build {
  id: number;
  definitions: number[];
  epoch: number;
  cause: string;
}
interface Lane {
  readonly lane: number;
  readonly after_contact: number;
}

/**
 * One step of the oldest build under way: some contacts of some lanes. Where it stands is written with what it did, so it resumes after a crash.
 *
 * @returns whether there was anything to do
 */
export async function buildStep(database: Database, store: DefinitionStore, clock: Clock): Promise<boolean> {
  const done = await database.sharedEpoch(async (sql) => {
    const now = clock.now();
    const [build] = await sql.query<Build & { at_once_until: Date | null }>(
      `select id, definitions, epoch, cause, at_once_until from build where state = 'running' order by id limit 1`,
    );
    if (!build || (build.at_once_until?.getTime() ?? 0) > now) return false;
    const lanes = await sql.query<Lane>(
      `select n.lane, n.after_contact from build_lane n join lane l on l.lane = n.lane
        where n.build_id = $1 and not n.done order by n.lane limit $2 for update of n, l skip locked`,
      [build.id, LANES_A_STEP],
    );
    if (lanes.length === 0) {
      // Other workers have the last lanes; or all are done, and an older version left the build running.
      await endIfDone(sql, build.id, 0, now);
      return false;
    }
    const epoch = await store.current(sql);
    const contacts = await nextOfBuild(
      sql,
      build.epoch,
      lanes.map((each) => each.lane),
      lanes.map((each) => each.after_contact),
      CONTACTS_A_LANE,
    );
    if (contacts.length > 0) await passEach(sql, epoch, build, contacts, now);
    const progress = lanes.map(({ lane, after_contact }) => {
      const here = contacts.filter((contact) => contact.lane === lane);
      return { lane, after: here.at(-1)?.id ?? after_contact, done: here.length < CONTACTS_A_LANE };
    });
    await writeProgress(sql, build.id, progress);
    await endIfDone(sql, build.id, contacts.length, now);
    return true;
  });
  if (done) await database.query(`select pg_notify('${MOVED}', '')`);
  return done;
}

/** How far it has come in some lanes. */
export async function writeProgress(
  sql: Sql,
  build: number,
  progress: readonly { readonly lane: number; readonly after: number; readonly done: boolean }[],
): Promise<void> {
  await sql.query(
    `update build_lane n set after_contact = r.after, done = r.done
       from jsonb_to_recordset($2::jsonb) as r(lane smallint, after bigint, done boolean) where n.build_id = $1 and n.lane = r.lane`,
    [build, JSON.stringify(progress)],
  );
}

/**
 * Counts what a step did, and ends the build where no lane is left.
 *
 * Two workers may end the last lanes at once: each looks for lanes that are left only once it has the build to itself, in a statement of its own,
 * so that it sees what the other has committed. Otherwise neither would find that all are done.
 *
 * @returns whether it is done
 */
export async function endIfDone(sql: Sql, build: number, contacts: number, now: number): Promise<boolean> {
  await sql.query('select from build where id = $1 for update', [build]);
  const [ended] = await sql.query<{ state: string }>(
    `update build b set done = least(b.total, b.done + $2), state = case when l.left_over then b.state else 'done' end, finished_at = case when not l.left_over then $3::timestamptz end
       from (select exists (select from build_lane n where n.build_id = $1 and not n.done) as left_over) l
      where b.id = $1 returning b.state`,
    [build, contacts, iso(now)],
  );
  // It supersedes builds that were stopped before it.
  await sql.query(
    `update build s set state = 'done', finished_at = $2 from build b
      where b.id = $1 and b.state = 'done' and s.state = 'stopped' and s.id < b.id and s.epoch <= b.epoch`,
    [build, iso(now)],
  );
  return ended?.state === 'done';
}

/** Passes each of these subjects for a build. */
export async function passEach(
  sql: Sql,
  epoch: Epoch,
  build: Build,
  contacts: readonly { id: number; lane: number }[],
  now: number,
): Promise<void> {
  const laneOf = new Map(contacts.map((contact) => [contact.id, contact.lane]));
  const { compiled } = epoch;
  const states = await loadStates(sql, compiled.catalogue, [...laneOf.keys()], compiled.needs, true);
  const arrival: Arrival = { kind: 'build', cause: { kind: 'definition', ref: build.cause } };
  const worked = [...states.values()].flatMap((state) => {
    const contact = { state, lane: laneOf.get(state.id) ?? 0, effects: [] as Effect[], arrived: [] };
    const { dueAt } = state;
    runOverdue(compiled, contact, now, now);
    contact.effects.push(...pass(compiled, state, arrival, now));
    // Whom it leaves as they were is not written, and nobody is told of them.
    return contact.effects.length === 0 && state.dueAt === dueAt && state.isUnchanged ? [] : [contact];
  });
  if (worked.length > 0) await commitPasses(sql, epoch, worked, now);
}
