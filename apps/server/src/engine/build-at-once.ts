import { bringingUp, laneOf, LANES, type Derived, type FreshScores } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore, type Epoch } from '../settings/definition-store';
import { AT_ONCE_MS, endIfDone, passEach, type Build } from './builds';
import { iso, type Clock } from './clock';
import { writeAtOnce } from './feed';
import { MOVED } from './inbox';
import { writeScores } from './queries/write-scores';

/** So many contacts at a time: their lanes are locked until it is written, and their signals wait so long. */
const CONTACTS_A_STEP = 16_000;
/** If the clock should have come to more of them already, workers go first. */
const MOST_OVERDUE = 500;

/** What bringing some definitions up changes, as it is asked of everyone at once. */
export interface MovesQuestion {
  /** of which definitions */
  readonly ids: readonly number[];
  /** of the contacts in which lanes; they stand still meanwhile */
  readonly lanes: readonly number[];
  readonly instant: number;
}
export interface FoundMove {
  readonly joins: readonly number[];
  readonly leaves: readonly number[];
  /** what everyone has by it, where it is a scorecard */
  readonly scores?: FreshScores;
}
export interface FoundMoves {
  /** for each definition, in the order asked */
  readonly moves: readonly FoundMove[];
  /** to whom the clock has to come, and when at the latest */
  readonly due: { readonly ids: readonly number[]; readonly at: readonly number[] };
  /** how many contacts there are in these lanes */
  readonly contacts: number;
}
/** Undefined where it cannot be told, or only later. */
export type FindMoves = (question: MovesQuestion) => Promise<FoundMoves | 'later' | undefined>;

/** What a step came to: some of it was done; there was nothing to do; it has to be tried again later; or it was left to passes. */
export type StepAtOnce = 'done' | 'nothing' | 'later' | 'left to passes';

/**
 * One step of a build that needs no pass of each contact: who joins and leaves, or what they have by a scorecard, is found in the counting index for
 * whole lanes, and written by a few statements. Only contacts to whom the clock should have come already are passed, so that everything is worked in its order.
 */
export async function buildAtOnce(database: Database, store: DefinitionStore, clock: Clock, find: FindMoves): Promise<StepAtOnce> {
  const came = await database.sharedEpoch((sql) => step(sql, store, clock, find));
  if (came === 'done' || came === 'left to passes') await database.query(`select pg_notify('${MOVED}', '')`);
  return came;
}

/** Passes leave this build, and those that wait behind it, alone for a while longer. */
const leaveAlone = (sql: Sql, now: number): Promise<unknown[]> =>
  sql.query(`update build set at_once_until = $1 where state = 'running' and at_once_until is not null`, [iso(now + AT_ONCE_MS)]);

/** Leaves a build to passes from now on. */
export const leaveToPasses = (sql: Sql): Promise<unknown[]> =>
  sql.query(`update build set at_once_until = null where state = 'running' and at_once_until is not null`);

async function step(sql: Sql, store: DefinitionStore, clock: Clock, find: FindMoves): Promise<StepAtOnce> {
  const [build] = await sql.query<Build & { total: number; at_once: boolean; stopped: boolean }>(
    `select id, definitions, epoch, cause, total, at_once_until is not null as at_once,
            exists (select from build s where s.state = 'stopped' and s.id < b.id) as stopped
       from build b where state = 'running' order by id limit 1`,
  );
  if (!build?.at_once) return 'nothing';
  const left = async (): Promise<StepAtOnce> => {
    await leaveToPasses(sql);
    return 'left to passes';
  };
  // It takes over what stopped ones have left, which needs a pass.
  if (build.stopped) return left();
  const lanes = await lockLanes(sql, build);
  // Only now: nobody is worked in these lanes any more.
  const now = clock.now();
  if (lanes.length === 0) return (await endIfDone(sql, build.id, 0, now)) ? 'done' : 'later';
  const epoch = await store.current(sql);
  const { compiled } = epoch;
  const standing = build.definitions.filter((id) => compiled.catalogue.any(id));
  if (standing.some((id) => bringingUp(compiled, id) === 'a pass of each')) return left();
  const ids = standing.filter((id) => bringingUp(compiled, id) === 'at once');
  const overdue = await sql.query<{ id: number; lane: number }>(
    `select contact_id as id, lane from due where lane = any($1::smallint[]) and due_at <= $2 limit ${MOST_OVERDUE + 1}`,
    [lanes, iso(now)],
  );
  const found = overdue.length > MOST_OVERDUE ? 'later' : await find({ ids, lanes, instant: now });
  if (found === 'later') {
    await leaveAlone(sql, now);
    return 'later';
  }
  if (!found) return left();
  if (overdue.length > 0) await passEach(sql, epoch, build, overdue, now);
  await write(sql, epoch, build, { ids, lanes, found, now, overdue: new Set(overdue.map(({ id }) => id)) });
  return 'done';
}

async function lockLanes(sql: Sql, { id, total }: { readonly id: number; readonly total: number }): Promise<readonly number[]> {
  const most = Math.min(LANES, Math.max(1, Math.floor((CONTACTS_A_STEP * LANES) / Math.max(1, total))));
  const rows = await sql.query<{ lane: number }>(
    `select n.lane from build_lane n join lane l on l.lane = n.lane
      where n.build_id = $1 and not n.done order by n.lane limit $2 for update of n, l skip locked`,
    [id, most],
  );
  return rows.map(({ lane }) => lane);
}

interface Writing {
  readonly ids: readonly number[];
  readonly lanes: readonly number[];
  readonly found: FoundMoves;
  readonly now: number;
  /** who were passed */
  readonly overdue: ReadonlySet<number>;
}

async function write(sql: Sql, { compiled, epoch }: Epoch, build: Build, { ids, lanes, found, now, overdue }: Writing): Promise<void> {
  const others = (ids: readonly number[]): readonly number[] => (overdue.size === 0 ? ids : ids.filter((id) => !overdue.has(id)));
  const moves = [];
  const scores = [];
  for (const [index, id] of ids.entries()) {
    const { kind, cause } = compiled.derived.find((each) => each.id === id) as Derived;
    const { joins = [], leaves = [], scores: fresh } = found.moves[index] ?? {};
    if (fresh) {
      scores.push({ id, scores: await writeScores(sql, without(fresh, overdue), { card: id, at: iso(now), epoch, cause }) });
      continue;
    }
    const one: OneMove = { id, joins: others(joins), leaves: others(leaves), at: iso(now), epoch, cause };
    if (kind === 'audience') await writeAudience(sql, one);
    else await writeHidden(sql, one);
    if (one.joins.length + one.leaves.length > 0) moves.push({ ...one, isTold: kind === 'audience' });
  }
  await bringDueForward(sql, found.due, overdue);
  await sql.query('update build_lane set done = true where build_id = $1 and lane = any($2::smallint[])', [build.id, lanes]);
  await writeAtOnce(sql, { moves, scores }, lanes, now);
  const [{ companies } = { companies: 0 }] = await sql.query<{ companies: number }>(
    'select count(*)::int as companies from company where lane = any($1::smallint[]) and last_now is not null',
    [lanes],
  );
  // Last, since it is the same row for all who take part.
  await leaveAlone(sql, now);
  await endIfDone(sql, build.id, found.contacts + companies, now);
}

function without({ contacts, points, bands, until }: FreshScores, some: ReadonlySet<number>): FreshScores {
  if (some.size === 0) return { contacts, points, bands, until };
  const others = <Value>(values: readonly Value[]): Value[] => values.filter((_, index) => !some.has(contacts[index] as number));
  return { contacts: others(contacts), points: others(points), bands: others(bands), until: others(until) };
}

interface OneMove {
  readonly id: number;
  readonly joins: readonly number[];
  readonly leaves: readonly number[];
  readonly at: string;
  readonly epoch: number;
  readonly cause: string;
}

/** With its effects in the ledger, as passes write them. */
async function writeAudience(sql: Sql, { id, joins, leaves, at, epoch, cause }: OneMove): Promise<void> {
  if (joins.length > 0)
    await sql.query(
      `with fresh as materialized (select nextval('ledger_id_seq') as id, contact_id from unnest($1::bigint[]) as contact_id),
            told as (insert into ledger (id, contact_id, at, epoch, kind, verb, definition_id, cause_kind, cause_ref)
                     select id, contact_id, $3, $4, 'membership', 'joined', $2, 'definition', $5 from fresh)
       insert into membership (contact_id, definition_id, since, ledger_id) select contact_id, $2, $3, id from fresh`,
      [joins, id, at, epoch, cause],
    );
  if (leaves.length === 0) return;
  const [{ n } = { n: 0 }] = await sql.query<{ n: number }>(
    `with gone as (delete from membership where definition_id = $2 and contact_id = any($1::bigint[]) returning contact_id, since),
          fresh as materialized (select nextval('ledger_id_seq') as id, contact_id, since from gone),
          told as (insert into ledger (id, contact_id, at, epoch, kind, verb, definition_id, cause_kind, cause_ref)
                   select id, contact_id, $3, $4, 'membership', 'left', $2, 'definition', $5 from fresh),
          past as (insert into membership_past (contact_id, definition_id, since, until) select contact_id, $2, since, $3 from fresh)
     select count(*)::int as n from fresh`,
    [leaves, id, at, epoch, cause],
  );
  if (n !== leaves.length) throw new Error(`${leaves.length} should have left, and ${n} were in.`);
}

/** For whom what a rule waits for is so already: nobody is told of it. */
async function writeHidden(sql: Sql, { id, joins, leaves, at }: OneMove): Promise<void> {
  if (joins.length > 0)
    await sql.query(
      'insert into membership (contact_id, definition_id, since) select contact_id, $2, $3 from unnest($1::bigint[]) as contact_id',
      [joins, id, at],
    );
  if (leaves.length > 0)
    await sql.query('delete from membership where definition_id = $2 and contact_id = any($1::bigint[])', [leaves, id]);
}

async function bringDueForward(sql: Sql, { ids, at }: FoundMoves['due'], overdue: ReadonlySet<number>): Promise<void> {
  const rows = ids.flatMap((id, index) => (overdue.has(id) ? [] : [{ id, lane: laneOf(id), at: iso(at[index] as number) }]));
  if (rows.length === 0) return;
  await sql.query(
    `insert into due (contact_id, lane, due_at)
     select r.id, r.lane, r.at from unnest($1::bigint[], $2::smallint[], $3::timestamptz[]) as r(id, lane, at)
       left join due d on d.contact_id = r.id where d.due_at is null or d.due_at > r.at
     on conflict (contact_id) do update set due_at = excluded.due_at`,
    [rows.map(({ id }) => id), rows.map(({ lane }) => lane), rows.map((row) => row.at)],
  );
}
