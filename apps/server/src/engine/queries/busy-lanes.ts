import { type Sql } from '../../database/database';
import { type LockedLane } from '../kept-states';

/** A lane that another worker had before is left to it for so long: it still knows its contacts. */
const LEFT_TO_OTHERS = '1 s';
/** So many of them at most are taken at a time: workers that are all behind must not take all lanes from each other. */
const MOST_OF_OTHERS = 2;

/**
 * Locks lanes with something to do that nobody else holds: those that have waited longest first, those of others a little later than one's own.
 *
 * Tried, with 4,000 entries waiting / with 20, before lanes of others were told apart:
 * - the first of each kind of work (as here): 1.1 / 1.9 ms; no lane waits for ever while others are busy
 * - `exists` for each kind of work, in the order of lanes: 0.9 / 0.8 ms
 * - `lane in (select lane from inbox union …)`: 2.7 / 0.8 ms, since it reads all that waits
 *
 * @param now as an ISO instant
 * @param owner the worker
 * @param lane only this one; any if it is left out
 * @param ofOthers also lanes that another worker had before, and that have not waited for long
 */
export const lockBusyLanes = (
  sql: Sql,
  now: string,
  owner: string,
  limit: number,
  { lane, ofOthers = true }: { readonly lane?: number | undefined; readonly ofOthers?: boolean | undefined } = {},
): Promise<LockedLane[]> =>
  sql.query(
    `with busy as (
       select l.lane, coalesce(l.owner <> $2, false) as of_other, w.since from lane l
        cross join lateral (select least(
          (select i.arrived_at from inbox i where i.lane = l.lane order by i.seq limit 1),
          (select d.due_at from due d where d.lane = l.lane and d.due_at <= $1 order by d.due_at limit 1),
          (select min(t.since) from company_touched t where t.lane = l.lane and t.since <= $1)) as since) w
       where ($4::smallint is null or l.lane = $4) and w.since is not null),
     wanted as (
       select lane, since + case when of_other then interval '${LEFT_TO_OTHERS}' else interval '0' end as since, of_other,
              row_number() over (partition by of_other order by since) as nth from busy)
     select l.lane, l.revision from lane l join wanted w on w.lane = l.lane
      where $5 or not w.of_other or (w.since <= $1 and w.nth <= ${MOST_OF_OTHERS})
      order by w.since, l.lane
      limit $3 for update of l skip locked`,
    [now, owner, limit, lane ?? null, ofOthers],
  );

/** Leaves the lanes that a worker had to whoever comes first. */
export const leaveLanes = (sql: Sql, owner: string): Promise<unknown> =>
  sql.query('update lane set owner = null where owner = $1', [owner]);
