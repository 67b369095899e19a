import { LANES } from '@eager-sieve/core';
import { type Sql } from '../../database/database';
import { type LockedLane } from '../kept-states';

/** A lane that another worker has is left to it, as it knows its contacts, unless it has waited so much longer than all of one's own. */
const LEFT_TO_OTHERS = '5 s';
/** So many of them at most are taken at a time. */
const MOST_OF_OTHERS = 2;

/**
 * Locks lanes with something to do that nobody else holds: those that have waited longest first. Those that other workers have are left to them,
 * and so are lanes that nobody has once one has one's share.
 *
 * Tried, with 4,000 entries waiting / with 20, before lanes of others were told apart:
 * - the first of each kind of work (as here): 1.1 / 1.9 ms; no lane waits for ever while others are busy
 * - `exists` for each kind of work, in the order of lanes: 0.9 / 0.8 ms
 * - `lane in (select lane from inbox union …)`: 2.7 / 0.8 ms, since it reads all that waits
 *
 * `offset 0` keeps the subquery from being put in twice, where its answer is asked for and where it is given.
 *
 * @param now as an ISO instant
 * @param owner the worker
 * @param lane only this one; any if it is left out
 * @param others the other workers that are at work, where lanes are left to them
 */
export const lockBusyLanes = (
  sql: Sql,
  now: string,
  owner: string,
  limit: number,
  { lane, others = [] }: { readonly lane?: number | undefined; readonly others?: readonly string[] | undefined } = {},
): Promise<LockedLane[]> =>
  sql.query(
    `with mine as (select count(*) as n from lane where owner = $4),
     busy as (
       select l.lane, w.since,
              l.owner is distinct from $4 and (coalesce(l.owner = any($5::text[]), false) or mine.n >= $6) as is_left
         from mine, lane l
        cross join lateral (select least(
          (select i.arrived_at from inbox i where i.lane = l.lane order by i.seq limit 1),
          (select d.due_at from due d where d.lane = l.lane and d.due_at <= $1 order by d.due_at limit 1),
          (select min(t.since) from company_touched t where t.lane = l.lane and t.since <= $1)) as since offset 0) w
       where ($3::smallint is null or l.lane = $3) and w.since is not null),
     wanted as (
       select lane, since, is_left, row_number() over (partition by is_left order by since) as nth from busy)
     select l.lane, l.revision from lane l join wanted w on w.lane = l.lane
      where not w.is_left
         or (w.nth <= ${MOST_OF_OTHERS}
             and w.since < coalesce((select min(since) from wanted where not is_left), $1) - interval '${LEFT_TO_OTHERS}')
      order by w.is_left, w.since, l.lane
      limit $2 for update of l skip locked`,
    [now, limit, lane ?? null, owner, others, others.length === 0 ? LANES : Math.ceil(LANES / (others.length + 1))],
  );

const WORKER = 'eager-sieve worker ';
/** The longest name of a connection that the database keeps whole. */
const LONGEST_NAME = 63;

/** The name of a worker, by which its connection is found as long as it is at work. */
export const workerName = (name: string): string => `${WORKER}${name}`.slice(0, LONGEST_NAME);

/** Which other workers are at work. Of one that was killed the database sees at once that it is gone. */
export async function othersAtWork(sql: Sql, owner: string): Promise<readonly string[]> {
  const rows = await sql.query<{ name: string }>(
    `select distinct application_name as name from pg_stat_activity
      where datname = current_database() and application_name like $1 and application_name <> $2`,
    [`${WORKER}%`, owner],
  );
  return rows.map(({ name }) => name);
}

/** Leaves the lanes that a worker had to whoever comes first. */
export const leaveLanes = (sql: Sql, owner: string): Promise<unknown> =>
  sql.query('update lane set owner = null where owner = $1', [owner]);
