import { type Sql } from '../../database/database';

/** So many of each lane go at a time. */
const AT_ONCE = 2_000;

/**
 * Removes what the feed told before an instant, the oldest first, but for the newest of each lane, by which a written index is known to be of this
 * database. The first of each lane says whether any of it is old, so that nothing more is read where none is.
 *
 * @param before as an ISO instant
 * @returns how many went
 */
export async function forgetFeed(sql: Sql, before: string): Promise<number> {
  const [row] = await sql.query<{ n: number }>(
    `with old as (
       select l.lane, o.revision from lane l
        cross join lateral (select f.at from feed f where f.lane = l.lane and f.revision < l.revision order by f.revision limit 1) first
        cross join lateral (
          select f.revision, f.at from feed f where f.lane = l.lane and f.revision < l.revision order by f.revision limit ${AT_ONCE}) o
        where first.at < $1 and o.at < $1),
     gone as (delete from feed f using old where f.lane = old.lane and f.revision = old.revision returning 1)
     select count(*)::int as n from gone`,
    [before],
  );
  return row?.n ?? 0;
}
