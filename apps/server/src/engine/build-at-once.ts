import { bringingUp, laneOf, LANES, type BringingUp, type Derived, type FreshScores } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore, type Epoch } from '../settings/definition-store';
import { AT_ONCE_MS, endIfDone, passEach, writeProgress, type Build } from './builds';
import { iso, type Clock } from './clock';
import { writeAtOnce } from './feed';
import { type FindMoves, type FoundMoves } from './find-moves';
import { MOVED } from './inbox';
import { nextOfBuild } from './queries/next-of-build';
import { writeScores } from './queries/write-scores';

/** So many contacts at a time: their lanes are locked until it is written, and their signals wait so long. */
const CONTACTS_A_STEP = 16_000;
/** Of so many lanes, and so many contacts of each, where those who are moved need a pass: it may be all of them. */
const PASSED = { lanes: 8, contactsALane: 100 };
/** If the clock should have come to more of them already, workers go first. */
const MOST_OVERDUE = 500;

/** What a step came to: some of it was done; there was nothing to do; it has to be tried again later; or it was left to passes. */
export type StepAtOnce = 'done' | 'nothing' | 'later' | 'left to passes';

/**
 * One step of a build that needs no pass of each contact: who joins and leaves, or what they have by a scorecard, is found in the counting index. Where
 * nothing rests on it, that is written for whole lanes by a few statements; else those whom it moves are passed. Contacts to whom the clock should have
 * come already are passed in any case, so that everything is worked in its order.
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
  const epoch = await store.current(sql);
  const { compiled } = epoch;
  const ways = new Map(build.definitions.filter((id) => compiled.catalogue.any(id)).map((id) => [id, bringingUp(compiled, id)]));
  const needs = (way: BringingUp): boolean => [...ways.values()].includes(way);
  if (needs('a pass of each')) return left();
  const passesMoved = needs('a pass of those it moves');
  const lanes = await lockLanes(sql, build.id, passesMoved ? PASSED.lanes : lanesAtOnce(build.total));
  // Only now: nobody is worked in these lanes any more.
  const now = clock.now();
  if (lanes.length === 0) return (await endIfDone(sql, build.id, 0, now)) ? 'done' : 'later';
  const next = passesMoved ? await nextIn(sql, build, lanes) : undefined;
  const overdue = await overdueAt(sql, iso(now), next?.map(({ id }) => id) ?? lanes.map(({ lane }) => lane), next ? 'contact_id' : 'lane');
  const ids = [...ways].flatMap(([id, way]) => (way === 'nothing' ? [] : id));
  const among = next ? { contacts: next.map(({ id }) => id) } : { lanes: lanes.map(({ lane }) => lane) };
  const found = overdue.length > MOST_OVERDUE ? 'later' : await find({ ids, among, instant: now });
  if (found === 'later') {
    await leaveAlone(sql, now);
    return 'later';
  }
  if (!found) return left();
  const writing = { ids, lanes, found, now };
  if (next) {
    await passMoved(sql, epoch, build, { ...writing, next, overdue });
  } else {
    if (overdue.length > 0) await passEach(sql, epoch, build, overdue, now);
    await write(sql, epoch, build, { ...writing, overdue: new Set(overdue.map(({ id }) => id)) });
  }
  return 'done';
}

interface Lane {
  readonly lane: number;
  readonly after_contact: number;
}
interface InLane {
  readonly id: number;
  readonly lane: number;
}

const lanesAtOnce = (total: number): number => Math.min(LANES, Math.max(1, Math.floor((CONTACTS_A_STEP * LANES) / Math.max(1, total))));

const lockLanes = (sql: Sql, build: number, most: number): Promise<readonly Lane[]> =>
  sql.query<Lane>(
    `select n.lane, n.after_contact from build_lane n join lane l on l.lane = n.lane
      where n.build_id = $1 and not n.done order by n.lane limit $2 for update of n, l skip locked`,
    [build, most],
  );

const nextIn = (sql: Sql, { epoch }: Build, lanes: readonly Lane[]): Promise<readonly InLane[]> =>
  nextOfBuild(
    sql,
    epoch,
    lanes.map(({ lane }) => lane),
    lanes.map((each) => each.after_contact),
    PASSED.contactsALane,
  );

/** To whom the clock should have come. */
const overdueAt = (sql: Sql, now: string, of: readonly number[], column: 'lane' | 'contact_id'): Promise<readonly InLane[]> =>
  sql.query<InLane>(
    `select contact_id as id, lane from due where ${column} = any($1::bigint[]) and due_at <= $2 limit ${MOST_OVERDUE + 1}`,
    [of, now],
  );

interface Writing {
  readonly ids: readonly number[];
  readonly lanes: readonly Lane[];
  readonly found: FoundMoves;
  readonly now: number;
}
interface WritingAtOnce extends Writing {
  /** who were passed */
  readonly overdue: ReadonlySet<number>;
}
interface PassingMoved extends Writing {
  /** whom it was asked about: the next of each lane */
  readonly next: readonly InLane[];
  readonly overdue: readonly InLane[];
}

/** Passes those whom it moves. For the others it can only change when the clock comes to them, and until when their points are exact. */
async function passMoved(sql: Sql, epoch: Epoch, build: Build, { ids, lanes, found, now, next, overdue }: PassingMoved): Promise<void> {
  const passed = new Set(overdue.map(({ id }) => id));
  for (const { joins, leaves, scores } of found.moves) for (const id of [...joins, ...leaves, ...(scores?.moved ?? [])]) passed.add(id);
  const moved = next.filter(({ id }) => passed.has(id));
  if (moved.length > 0) await passEach(sql, epoch, build, moved, now);
  for (const [index, id] of ids.entries()) {
    const { scores } = found.moves[index] ?? {};
    const { cause = '' } = epoch.compiled.derived.find((each) => each.id === id) ?? {};
    if (scores) await writeScores(sql, without(scores, passed), { card: id, at: iso(now), epoch: epoch.epoch, cause });
  }
  await bringDueForward(sql, found.due, passed);
  const progress = lanes.map(({ lane, after_contact }) => {
    const here = next.filter((each) => each.lane === lane);
    return { lane, after: here.at(-1)?.id ?? after_contact, done: here.length < PASSED.contactsALane };
  });
  await writeProgress(sql, build.id, progress);
  // What workers have in hand of these lanes may be out of date.
  await writeAtOnce(
    sql,
    { moves: [], scores: [] },
    lanes.map(({ lane }) => lane),
    now,
  );
  await leaveAlone(sql, now);
  await endIfDone(sql, build.id, next.length, now);
}

async function write(
  sql: Sql,
  { compiled, epoch }: Epoch,
  build: Build,
  { ids, lanes: held, found, now, overdue }: WritingAtOnce,
): Promise<void> {
  const lanes = held.map(({ lane }) => lane);
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

function without({ contacts, points, bands, until, moved }: FreshScores, some: ReadonlySet<number>): FreshScores {
  if (some.size === 0) return { contacts, points, bands, until, moved };
  const others = <Value>(values: readonly Value[]): Value[] => values.filter((_, index) => !some.has(contacts[index] as number));
  return {
    contacts: others(contacts),
    points: others(points),
    bands: others(bands),
    until: others(until),
    moved: moved.filter((id) => !some.has(id)),
  };
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
