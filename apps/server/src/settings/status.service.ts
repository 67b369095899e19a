import { Injectable } from '@nestjs/common';
import { type Status } from '@eager-sieve/contracts';
import { CountingService } from '../counting/counting.service';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { workersWanted } from '../engine/worker';
import { VERSION } from '../version';
import { unfinishedBuilds } from './builds.service';

/** What waits is counted up to here: beyond, that it is much is enough to know, and this is asked often. */
const MOST_COUNTED = 10_000;

@Injectable()
export class StatusService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly counting: CountingService,
  ) {}

  async status(): Promise<Status> {
    const now = this.clock.now();
    const [waiting] = await this.database.query<{ n: number; oldest: Date | null }>(
      `select (select count(*) from (select from inbox limit ${MOST_COUNTED}) i) as n, (select arrived_at from inbox order by seq limit 1) as oldest`,
    );
    const [due] = await this.database.query<{ n: number }>(
      `select count(*) as n from (select from due where due_at <= $1 limit ${MOST_COUNTED}) d`,
      [iso(now)],
    );
    const [touched] = await this.database.query<{ n: number }>('select count(*) as n from company_touched where since <= $1', [iso(now)]);
    const [out] = await this.database.query<{ n: number }>(`select count(*) as n from outbox`);
    const builds = await unfinishedBuilds(this.database);
    const backlog = (waiting?.n ?? 0) + (due?.n ?? 0) + (touched?.n ?? 0) + (out?.n ?? 0);
    return {
      version: VERSION,
      idle: backlog === 0 && builds.length === 0,
      backlog,
      oldestWaitingSeconds: waiting?.oldest ? Math.max(0, (now - waiting.oldest.getTime()) / 1_000) : null,
      workers: workersWanted(),
      builds,
      countingIndex: await this.counting.state(),
      waitingForRates: await this.database.query<{ currency: string; signals: number }>(
        'select currency, count(*)::int as signals from signal_waiting group by 1 order by 1',
      ),
    };
  }
}
