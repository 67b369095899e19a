import { type Sql } from '../../database/database';

/**
 * The next contacts and companies of some lanes that a build has not come to, so many of each lane.
 *
 * Tried, for 40 of each of 8 lanes, of 1,000,000 contacts:
 * - the first so many of contacts and of companies, then of both (this one): 1.2 ms
 * - the first so many of both: 567 ms, since everyone who is left is read and sorted
 *
 * @param after the last that it has come to, of each lane
 */
export const nextOfBuild = (
  sql: Sql,
  epoch: number,
  lanes: readonly number[],
  after: readonly number[],
  limit: number,
): Promise<{ id: number; lane: number }[]> =>
  sql.query(
    `select c.id, r.lane from unnest($1::smallint[], $2::bigint[]) as r(lane, after)
       cross join lateral (
         select c.id from (
           (select id from contact where lane = r.lane and id > r.after and epoch < $4 and last_now is not null and merged_into is null order by lane, id limit $3)
           union all
           (select id from company where lane = r.lane and id > r.after and epoch < $4 and last_now is not null order by lane, id limit $3)) c
          order by c.id limit $3) c
      order by c.id`,
    [lanes, after, limit, epoch],
  );
