import { Injectable } from '@nestjs/common';
import { setTimeout as wait } from 'node:timers/promises';
import { countChanges, effectBrief, type Catalogue } from '@eager-sieve/core';
import { type TakeBackAnswer, type TakeBackRunView } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { TakeBackRun, type TakeBackTold } from '../database/entities';
import { iso } from '../engine/clock';
import { MOVED } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { doAgainIn } from '../engine/do-again';
import { takeBackIn, type GoneSignals, type TakenBack } from '../engine/take-back';
import { conflict, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from './ledger.service';
import { STAYS_TOLD, staysOf, withTimes } from './take-back-tally';

/** Effects and signals that are taken back in one transaction, or what took effects back that are done again. */
export interface Go {
  readonly roots: readonly number[];
  readonly signals: GoneSignals;
}

const LISTED = 20;
const SAMPLES = 25;
const LOOKED_EVERY_MS = 100;
/** After so many failures one after the other it stands still, and says why. */
const MOST_FAILURES = 3;
const NOTHING_TOLD: TakeBackTold = { signals: 0, effects: 0, changes: {}, stay: 0, stays: [] };

/** @property what in words: what is taken back, or was and is done again */
export interface NewRun {
  readonly what: string;
  readonly by: string;
  readonly does: TakeBackRun['does'];
  /** the run that it reverses */
  readonly of: number | null;
}

type Step = 'went' | 'busy' | 'over';

/**
 * What is taken back is written down first, go by go; then each go is a transaction of its own, which also crosses it out. Whoever began it works
 * on it for a while, and the workers do the rest: also where the process that had it in hand is gone.
 */
@Injectable()
export class TakeBackRuns {
  #working = false;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async begin({ what, by, does, of }: NewRun, goes: readonly Go[]): Promise<number> {
    return this.database.transaction(async (sql) => {
      if (of !== null) await notReversed(sql, of);
      const run = await sql.table(TakeBackRun).save({
        ...{ what, does, ofId: of, byRef: by, state: 'running', total: goes.reduce((sum, go) => sum + sizeOf(go), 0), done: 0, failed: 0 },
        ...{ told: NOTHING_TOLD, error: null, startedAt: new Date(this.clock.now()), endedAt: null },
      });
      await sql.query(
        `insert into take_back_go (run_id, place, size, roots, signals)
         select $1, g.place, g.size, g.roots, g.signals from jsonb_to_recordset($2::jsonb) as g(place int, size int, roots bigint[], signals jsonb)`,
        [
          run.id,
          JSON.stringify(
            goes.map((go, place) => ({
              ...{ place, size: sizeOf(go), roots: go.roots },
              signals: [...go.signals].map(([contact, ids]) => [contact, [...ids]]),
            })),
          ),
        ],
      );
      return run.id;
    });
  }

  /**
   * Works on a run for as long as that, or until it is over.
   *
   * @returns what it has come to
   */
  async workOn(id: number, forMs: number): Promise<TakeBackAnswer> {
    const until = performance.now() + forMs;
    let step: Step = 'went';
    while (step !== 'over' && performance.now() < until) {
      step = await this.#step(id);
      if (step === 'busy') await wait(LOOKED_EVERY_MS);
    }
    return this.answer(id);
  }

  /** Goes on with what somebody began and nobody works on. */
  async due(): Promise<void> {
    if (this.#working) return;
    const [left] = await this.database.query<{ id: number }>(`select id from take_back_run where state = 'running' order by id limit 1`);
    if (!left) return;
    this.#working = true;
    void this.#workToTheEnd(left.id)
      .catch(() => undefined)
      .finally(() => {
        this.#working = false;
      });
  }

  async #workToTheEnd(id: number): Promise<void> {
    let step: Step = 'went';
    while (step === 'went') step = await this.#step(id);
  }

  async #step(id: number): Promise<Step> {
    try {
      const step = await this.#go(id);
      if (step === 'went') await this.database.query(`select pg_notify('${MOVED}', '')`);
      return step;
    } catch (error) {
      await this.database.query(
        `update take_back_run set failed = failed + 1, error = $2, state = case when failed + 1 >= $3 then 'failed' else state end,
                ended_at = case when failed + 1 >= $3 then $4::timestamptz end where id = $1 and state = 'running'`,
        [id, error instanceof Error ? error.message : String(error), MOST_FAILURES, iso(this.clock.now())],
      );
      return 'went';
    }
  }

  /** One go. Whoever works on another go of the same run is not waited for. */
  #go(id: number): Promise<Step> {
    return this.database.sharedEpoch(async (sql) => {
      const [run] = await sql.query<{ by_ref: string; told: TakeBackTold; state: string; does: TakeBackRun['does'] }>(
        'select by_ref, told, state, does from take_back_run where id = $1 for update skip locked',
        [id],
      );
      if (!run) return 'busy';
      if (run.state !== 'running') return 'over';
      const [go] = await sql.query<{ place: number; size: number; roots: number[]; signals: [number, number[]][] }>(
        'select place, size, roots, signals from take_back_go where run_id = $1 order by place limit 1',
        [id],
      );
      if (!go) {
        await sql.query(`update take_back_run set state = 'done', ended_at = $2 where id = $1`, [id, iso(this.clock.now())]);
        return 'over';
      }
      const signals: GoneSignals = new Map(go.signals.map(([contact, ids]) => [contact, new Set(ids)]));
      const taken =
        run.does === 'again'
          ? await doAgainIn(sql, this.store, this.clock, go.roots, run.by_ref)
          : await takeBackIn(sql, this.store, this.clock, { roots: go.roots, signals }, run.by_ref);
      await keepTouched(sql, id, taken);
      await sql.query('update take_back_run set told = $2, done = done + $3, failed = 0, error = null where id = $1', [
        id,
        JSON.stringify(told(run.told, taken)),
        go.size,
      ]);
      await sql.query('delete from take_back_go where run_id = $1 and place = $2', [id, go.place]);
      return 'went';
    });
  }

  /** What has been taken back stays so; the rest stands. */
  async stop(id: number): Promise<void> {
    await this.database.transaction(async (sql) => {
      const [run] = await sql.query<{ state: string }>('select state from take_back_run where id = $1 for update', [id]);
      if (!run) throw notFound('take-back');
      if (run.state !== 'running') throw conflict('take-back.ended', 'This has ended already.');
      await sql.query(`update take_back_run set state = 'stopped', ended_at = $2 where id = $1`, [id, iso(this.clock.now())]);
      await sql.query('delete from take_back_go where run_id = $1', [id]);
    });
  }

  /** The latest that were taken back. */
  async list(): Promise<TakeBackRunView[]> {
    const runs = await this.database.read(TakeBackRun).find({ order: { id: 'desc' }, take: LISTED });
    const reversed = await reversedOf(
      this.database,
      runs.map(({ id }) => id),
    );
    return runs.map((run) => {
      const {
        id,
        what,
        byRef: by,
        state,
        total,
        done,
        told: { signals, effects, stay },
        error,
        startedAt,
        endedAt,
      } = run;
      return {
        ...{ id, what, by, state, total, done, signals, effects, stay, error, again: run.does === 'again' },
        reversible: !reversed.has(id) && whyNotReversed(run) === undefined,
        ...{ startedAt: startedAt.toISOString(), endedAt: endedAt?.toISOString() ?? null },
      };
    });
  }

  async answer(id: number): Promise<TakeBackAnswer> {
    return this.database.snapshot(async (sql) => {
      const run = await sql.read(TakeBackRun).findOneBy({ id });
      if (!run) throw notFound('take-back');
      const { catalogue } = (await this.store.current(sql)).compiled;
      const { state, done, total, error } = run;
      const { signals, effects, changes, stay, stays } = run.told;
      const [touched] = await sql.query<{ n: number }>('select count(*)::int as n from take_back_subject where run_id = $1', [id]);
      return {
        rehearsed: false,
        ...{ signals, effects, changes, stay, subjects: touched?.n ?? 0 },
        samples: await samplesOf(sql, run, catalogue),
        stays: await staysOf(sql, catalogue, stays),
        run: { id, state, done, total, error },
      };
    });
  }
}

/** Why what a run did is not reversed as a whole; undefined where it can be. */
export function whyNotReversed({ does, state, told: { signals, effects } }: TakeBackRun): string | undefined {
  if (state === 'running') return 'It is still going on. Stop it first, or wait for its end.';
  if (does === 'part') return 'It belongs to something else, or is from before this could be done.';
  if (signals > 0) return 'Its signals are gone. Bring them in again instead.';
  return effects === 0 ? 'It did nothing.' : undefined;
}

/** Which of these runs another one reverses, or has reversed. One that was stopped or failed on the way can be done once more. */
async function reversedOf(sql: Pick<Sql, 'query'>, runs: readonly number[]): Promise<ReadonlySet<number>> {
  const rows = await sql.query<{ of_id: number }>(
    `select distinct of_id from take_back_run where of_id = any($1::int[]) and state in ('running', 'done')`,
    [runs],
  );
  return new Set(rows.map((row) => row.of_id));
}

async function notReversed(sql: Sql, run: number): Promise<void> {
  await sql.query('select id from take_back_run where id = $1 for update', [run]);
  if ((await reversedOf(sql, [run])).has(run)) throw conflict('take-back.reversed', 'This has been done already, or is under way.');
}

/** Whom a go changed, and by which effects. */
async function keepTouched(sql: Sql, run: number, { worked, ids }: TakenBack): Promise<void> {
  await sql.query(
    `insert into take_back_subject (run_id, subject_id, effects)
     select $1, s.id, coalesce(s.effects, '{}') from jsonb_to_recordset($2::jsonb) as s(id bigint, effects bigint[], n int) order by s.n
     on conflict (run_id, subject_id) do update set effects = take_back_subject.effects || excluded.effects`,
    [
      run,
      JSON.stringify(
        worked
          .filter(({ effects }) => effects.length > 0)
          .map(({ state, done }, n) => ({ id: state.id, effects: done.map((effect) => ids?.get(effect)), n })),
      ),
    ],
  );
}

const sizeOf = ({ roots, signals }: Go): number => roots.length + [...signals.values()].reduce((sum, ids) => sum + ids.size, 0);

function told(before: TakeBackTold, { signals, worked, stays }: TakenBack): TakeBackTold {
  const changes = { ...before.changes };
  for (const { effects } of worked) countChanges(effects, changes);
  return {
    signals: before.signals + signals,
    effects: before.effects + worked.flatMap(({ done }) => done).length,
    changes,
    stay: before.stay + stays.length,
    stays: [...before.stays, ...stays.slice(0, STAYS_TOLD - before.stays.length)],
  };
}

/** What was taken back on the first of them, read from the ledger. */
async function samplesOf(
  sql: Sql,
  { id, does, byRef, startedAt, endedAt }: TakeBackRun,
  catalogue: Catalogue,
): Promise<TakeBackAnswer['samples']> {
  const rows = await sql.query<StoredEffect & { subject_id: number }>(
    `select ${EFFECT_COLUMNS}, l.contact_id as subject_id
       from ${EFFECT_TABLES}
       join (select subject_id, place from take_back_subject where run_id = $1 order by place limit ${SAMPLES}) s on s.subject_id = l.contact_id
      where l.cause_kind = $5 and l.cause_ref = $2 and l.at >= $3 and ($4::timestamptz is null or l.at <= $4) order by s.place, l.id`,
    [id, byRef, startedAt, endedAt, does === 'again' ? 'again' : 'take back'],
  );
  const bySubject = new Map<number, StoredEffect[]>();
  for (const row of rows) bySubject.set(row.subject_id, [...(bySubject.get(row.subject_id) ?? []), row]);
  return [...bySubject.values()].map((effects) => ({
    contact: effects[0]?.contact_uid ?? null,
    name: effects[0]?.subject_name ?? null,
    changes: withTimes(effects.filter((effect) => effect.kind !== 'firing').map((effect) => effectBrief(effect, catalogue))),
  }));
}
