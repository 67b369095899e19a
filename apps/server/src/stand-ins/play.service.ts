import { Injectable, type BeforeApplicationShutdown } from '@nestjs/common';
import { type PlayState, type StartPlay } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { OWN_SOURCE } from '../engine/follow-ups';
import { ServerClock } from '../engine/server-clock';
import { conflict } from '../http/problem';
import { SignalsService } from '../intake/signals.service';
import { DefinitionStore } from '../settings/definition-store';
import { chanceOf } from './chance';

export const PLAY_SOURCE = 'play';
const TICK_MS = 1_000;
/** Signals like those that came lately are sent; so many are looked at. */
const MOST_LATEST = 5_000;
const MOST_PLAYERS = 500;
/** What would change what somebody agreed to, or is told of by something else than an outside source. */
const LEFT_OUT = ['consent.given', 'consent.withdrawn', 'message.unsubscribed', 'message.bounced', 'message.sent'];

interface Model {
  readonly type: string;
  readonly data: unknown;
}

interface Run {
  readonly pace: number;
  readonly seed: number;
  readonly since: number;
  readonly timer: NodeJS.Timeout;
  sent: number;
}

/**
 * Plays: made-up people do again what was done lately, at a pace, so that one can watch the sieve at work. It only ever speaks for addresses under
 * `.example`, which are nobody's.
 */
@Injectable()
export class PlayService implements BeforeApplicationShutdown {
  #run: Run | undefined;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly signals: SignalsService,
  ) {}

  beforeApplicationShutdown(): void {
    this.stop();
  }

  async state(): Promise<PlayState> {
    const [some] = await this.database.query<{ one: number }>(
      `select 1 as one from contact where email_folded like '%.example' and last_now is not null and merged_into is null limit 1`,
    );
    const types = some ? [...new Set((await this.#models()).map(({ type }) => type))].sort() : [];
    const run = this.#run;
    return {
      isOffered: some !== undefined && types.length > 0,
      types,
      played: await this.#played(),
      running: run ? { pace: run.pace, seed: run.seed, since: iso(run.since), sent: run.sent } : null,
    };
  }

  async start({ pace, seed, types }: StartPlay): Promise<void> {
    if (this.#run) throw conflict('play.running', 'It plays already. Stop it first.');
    const chance = chanceOf(seed);
    const models = (await this.#models()).filter(({ type }) => types === undefined || types.includes(type));
    const players = await this.#players(chance());
    if (models.length === 0 || players.length === 0)
      throw conflict('play.nobody', 'There is nobody made up to play, or nothing like it has come in yet.');
    const begun = this.clock.now();
    let owed = 0;
    const tick = async (run: Run): Promise<void> => {
      owed += (pace * TICK_MS) / 60_000;
      const events = Array.from({ length: Math.floor(owed) }, () => {
        const model = models[Math.floor(chance() * models.length)] as Model;
        run.sent += 1;
        return this.#event(model, players[Math.floor(chance() * players.length)] as string, `${begun}/${run.sent}`);
      });
      owed -= events.length;
      if (events.length > 0) await this.signals.take(events, PLAY_SOURCE);
    };
    const timer = setInterval(() => {
      const run = this.#run;
      // What cannot be taken now is left out; the next ones come a second later.
      if (run?.timer === timer) void tick(run).catch(() => undefined);
    }, TICK_MS);
    timer.unref();
    this.#run = { pace, seed, since: begun, timer, sent: 0 };
  }

  stop(): void {
    clearInterval(this.#run?.timer);
    this.#run = undefined;
  }

  #event({ type, data }: Model, subject: string, id: string): object {
    const given = typeof data === 'object' && data !== null && 'order' in data ? { ...data, order: `P-${id}` } : data;
    return { specversion: '1.0', source: PLAY_SOURCE, id, type, time: iso(this.clock.now()), subject, data: given };
  }

  async #played(): Promise<number> {
    const [row] = await this.database.query<{ n: number }>(
      'select count(*)::int as n from signal_key where source_id = (select id from source where name = $1)',
      [PLAY_SOURCE],
    );
    return row?.n ?? 0;
  }

  /** What came lately, as models of what comes next. */
  async #models(): Promise<readonly Model[]> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const rows = await this.database.query<{ type_id: number; data: unknown }>(
      `select s.type_id, s.data from (select type_id, data, source_id from signal order by time desc, id desc limit ${MOST_LATEST}) s
         join source o on o.id = s.source_id where s.data is not null and o.name <> $1`,
      [OWN_SOURCE],
    );
    return rows.flatMap(({ type_id, data }) => {
      const type = catalogue.get('signalType', type_id);
      return !type || type.retired || LEFT_OUT.includes(type.key) ? [] : [{ type: type.key, data }];
    });
  }

  /** @param share where among all of them to begin, from 0 to 1 */
  async #players(share: number): Promise<readonly string[]> {
    const rows = await this.database.query<{ email: string }>(
      `select email from contact where email_folded like '%.example' and last_now is not null and merged_into is null
          and id >= (select coalesce(min(id) + floor($1::float8 * (max(id) - min(id)) * 0.8), 0) from contact)
        order by id limit ${MOST_PLAYERS}`,
      [share],
    );
    return rows.map(({ email }) => email);
  }
}
