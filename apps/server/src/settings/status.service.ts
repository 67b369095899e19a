import { Injectable } from '@nestjs/common';
import { type Status } from '@eager-sieve/contracts';
import { CountingService } from '../counting/counting.service';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { workersWanted } from '../engine/worker';
import { VERSION } from '../version';
import { unfinishedBuilds } from './builds.service';
import { runningSweeps } from '../rules/running-sweeps';

/** What waits is counted up to here: beyond, that it is much is enough to know, and this is asked often. */
const MOST_COUNTED = 10_000;

/** A worker marks companies by a clock of its own, which may be this much ahead of the one that is asked here. */
const CLOCKS_APART_MS = 50;

@Injectable()
export class StatusService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly counting: CountingService,
  ) {}

  async status(): Promise<Status> {
    const now = this.clock.now();
    const { work, builds, sweeps, replacing, takeBacks, waitingForRates } = await this.database.snapshot(async (sql) => ({
      work: await this.#waiting(sql, now),
      builds: await unfinishedBuilds(sql),
      sweeps: await runningSweeps(sql),
      replacing: await sql.query(`select from tag_replacement where state not in ('done', 'stopped', 'taken back') limit 1`),
      takeBacks: await sql.query<Status['takeBacks'][number]>(
        `select id, what, done, total from take_back_run where state = 'running' order by id`,
      ),
      waitingForRates: await sql.query<{ currency: string; signals: number }>(
        'select currency, count(*)::int as signals from signal_waiting group by 1 order by 1',
      ),
    }));
    return {
      version: VERSION,
      idle: work.backlog === 0 && builds.length + sweeps.length + replacing.length + takeBacks.length === 0,
      backlog: work.backlog,
      oldestWaitingSeconds: work.oldest ? Math.max(0, (now - work.oldest.getTime()) / 1_000) : null,
      workers: workersWanted(),
      builds,
      sweeps,
      takeBacks,
      countingIndex: await this.counting.state(),
      waitingForRates,
    };
  }

  /**
   * Work passes from one of these tables to another, and from a build to all of them: looked at one after the other, it could be in none.
   * So they are looked at in one snapshot.
   */
  async #waiting(sql: Sql, now: number): Promise<{ backlog: number; oldest: Date | null }> {
    const [row] = await sql.query<{ backlog: number; oldest: Date | null }>(
      `select (select count(*) from (select from inbox limit ${MOST_COUNTED}) i)
            + (select count(*) from (select from due where due_at <= $1 limit ${MOST_COUNTED}) d)
            + (select count(*) from (select from company_touched where since <= $2 limit ${MOST_COUNTED}) t)
            + (select count(*) from (select from outbox limit ${MOST_COUNTED}) o) as backlog,
              (select arrived_at from inbox order by seq limit 1) as oldest`,
      [iso(now), iso(now + CLOCKS_APART_MS)],
    );
    return row ?? { backlog: 0, oldest: null };
  }
}
