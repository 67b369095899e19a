import { Injectable } from '@nestjs/common';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { CountingService } from '../counting/counting.service';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { readWorkDelays, type WorkDelayFigures } from '../engine/work-delays';
import { ServerClock } from '../engine/server-clock';
import { unfinishedBuilds } from './builds.service';

const COUNTING_STATES = ['none', 'loading', 'catching up', 'ready', 'too large'] as const;
const SECONDS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

/** What an operator watches: how much waits and how long, what is under way, and how the process is. Nothing in it is about anybody. */
@Injectable()
export class MetricsService {
  readonly #registry = new Registry();
  readonly #backlog: Gauge<'lane'>;
  readonly #oldest: Gauge;
  readonly #due: Gauge;
  readonly #builds: Gauge<'state'>;
  readonly #inDoubt: Gauge;
  readonly #outbox: Gauge;
  readonly #aside: Gauge;
  readonly #counting: Gauge<'state'>;
  readonly #pool: Gauge<'state'>;
  readonly #answered: Histogram<'method' | 'route' | 'status'>;

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly counting: CountingService,
  ) {
    const registers = [this.#registry];
    // Event loop, memory, garbage collection.
    collectDefaultMetrics({ register: this.#registry });
    const gauge = <Label extends string = never>(name: string, help: string, labelNames: readonly Label[] = []): Gauge<Label> =>
      new Gauge({ name: `sieve_${name}`, help, labelNames, registers });
    this.#backlog = gauge('inbox_waiting', 'entries that wait to be worked, by lane', ['lane']);
    this.#oldest = gauge('inbox_oldest_seconds', 'how long the oldest entry has waited');
    this.#due = gauge('due_waiting', 'contacts and companies whose time has come and that are not worked yet');
    this.#builds = gauge('builds', 'changes of definitions that are being brought to everyone', ['state']);
    this.#inDoubt = gauge('sends_in_doubt', 'messages of which nobody knows whether they went out');
    this.#outbox = gauge('outbox_waiting', 'messages that wait to go out');
    this.#aside = gauge('set_aside', 'entries that could not be worked and wait for somebody to look');
    this.#counting = gauge('counting_state', '1 for the state in which the counting index is', ['state']);
    this.#pool = gauge('database_connections', 'connections to the database', ['state']);
    this.#answered = new Histogram({
      name: 'sieve_request_seconds',
      help: 'how long requests took to answer, by route; of POST /api/v1/signals, how long it took to accept',
      labelNames: ['method', 'route', 'status'],
      buckets: SECONDS,
      registers,
    });
  }

  /** @param route by its path in the contracts, which names nobody */
  answered(method: string, route: string, status: number, seconds: number): void {
    this.#answered.observe({ method, route, status: String(status) }, seconds);
  }

  /** All figures in the text format of Prometheus, 0.0.4. */
  async text(): Promise<string> {
    const now = this.clock.now();
    const [lanes, [row], builds, state, delays] = await Promise.all([
      this.database.query<{ lane: number; n: number; oldest: Date }>(
        'select lane, count(*)::int as n, min(arrived_at) as oldest from inbox group by lane',
      ),
      this.database.query<{ due: number; doubt: number; outbox: number; aside: number }>(
        `select (select count(*) from due where due_at <= $1)::int as due,
                (select count(*) from send_recipient where state = 'in doubt')::int as doubt, (select count(*) from outbox)::int as outbox,
                (select count(*) from set_aside where seq is not null)::int as aside`,
        [iso(now)],
      ),
      this.database.snapshot((sql) => unfinishedBuilds(sql)),
      this.counting.state(),
      readWorkDelays(this.database),
    ]);
    this.#backlog.reset();
    for (const { lane, n } of lanes) this.#backlog.set({ lane: String(lane) }, n);
    this.#oldest.set(lanes.reduce((most, { oldest }) => Math.max(most, (now - oldest.getTime()) / 1_000), 0));
    this.#due.set(row?.due ?? 0);
    this.#inDoubt.set(row?.doubt ?? 0);
    this.#outbox.set(row?.outbox ?? 0);
    this.#aside.set(row?.aside ?? 0);
    for (const each of ['running', 'stopped'] as const)
      this.#builds.set({ state: each }, builds.filter((build) => build.state === each).length);
    for (const each of COUNTING_STATES) this.#counting.set({ state: each }, each === state ? 1 : 0);
    const { total, idle, waiting } = this.database.connections();
    this.#pool.set({ state: 'open' }, total);
    this.#pool.set({ state: 'idle' }, idle);
    this.#pool.set({ state: 'waited for' }, waiting);
    return `${await this.#registry.metrics()}${histogramText('sieve_work_delay_seconds', 'how long entries of the inbox waited until they were worked', delays)}`;
  }
}

/** A histogram that is kept in the database: the library's own hold only what this process observed. */
function histogramText(name: string, help: string, { buckets, sum }: WorkDelayFigures): string {
  return [
    '',
    `# HELP ${name} ${help}`,
    `# TYPE ${name} histogram`,
    ...buckets.map(({ le, n }) => `${name}_bucket{le="${le}"} ${n}`),
    `${name}_sum ${sum}`,
    `${name}_count ${buckets.at(-1)?.n ?? 0}`,
    '',
  ].join('\n');
}
