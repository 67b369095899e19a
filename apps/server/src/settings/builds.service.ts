import { Injectable } from '@nestjs/common';
import { type BuildView, type SteerBuild } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { UNFINISHED } from '../engine/queries/unfinished-builds';
import { MOVED, WAKE } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';

/** The builds that are not done yet, the oldest first. */
export const unfinishedBuilds = (sql: Sql): Promise<BuildView[]> =>
  sql.query<BuildView>(`select id, name, state, done, total from build where ${UNFINISHED} order by id`);

@Injectable()
export class BuildsService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  /**
   * Stops a build where it stands, or lets it go on from there. Signals go on being worked either way, and bring those whom they concern up
   * to date by themselves. The next change that needs a build takes over what a stopped one has left.
   */
  async steer(id: number, { state }: SteerBuild, by: string): Promise<BuildView> {
    const build = await this.database.transaction(async (sql) => {
      const [found] = await sql.query<BuildView>(
        `select id, name, state, done, total from build where id = $1 and ${UNFINISHED} for update`,
        [id],
      );
      if (!found) throw notFound('build under way');
      if (found.state === state) return found;
      await sql.query('update build set state = $2 where id = $1', [id, state]);
      await writeSetting(sql, state === 'stopped' ? 'build stopped' : 'build gone on with', { name: found.name }, by, this.clock.now());
      return { ...found, state };
    });
    await this.database.query(`select pg_notify('${WAKE}', ''), pg_notify('${MOVED}', '')`);
    return build;
  }
}
