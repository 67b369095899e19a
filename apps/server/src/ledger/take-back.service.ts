import { Injectable } from '@nestjs/common';
import { briefWords, countChanges, effectWords, type Catalogue } from '@eager-sieve/core';
import { importOptionsSchema, type TakeBackAnswer } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { ImportRun, SweepRun } from '../database/entities';
import { Follower } from '../engine/follower';
import { ServerClock } from '../engine/server-clock';
import {
  rehearseSignalsBack,
  rehearseTakeBack,
  takeBackEffects,
  takeBackSignals,
  type GoneSignals,
  type TakenBack,
} from '../engine/take-back';
import { conflict, faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { EFFECT_COLUMNS, EFFECT_TABLES, NARROWED, narrowing, type EffectFilter, type StoredEffect } from './ledger.service';

/** Effects per step: few enough that lanes are locked only briefly. */
const AT_ONCE = 200;
/** A rehearsal holds nothing up. */
const REHEARSED_AT_ONCE = 2_000;
const STAYS_TOLD = 200;
const WAITED_FOR_MS = 30_000;
const SAMPLES = 25;

/** An effect to start from. Effects of one company are taken back in one step, because its contacts are told of them. */
interface Root {
  readonly id: number;
  readonly together: number;
}

interface TakeBackOptions {
  readonly by: string;
  /** only says what it would do */
  readonly rehearse: boolean;
}

/** Takes back an effect, or all that a rule or an import did, with everything that came of it; says what stays and why. */
@Injectable()
export class TakeBackService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
  ) {}

  /** @param id in the ledger */
  async effect(id: number, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const [found] = await this.database.query(`select id from ledger where id = $1 and contact_id is not null and reverses is null`, [id]);
    if (!found) throw notFound('effect');
    return this.#take([{ id, together: 0 }], asking);
  }

  /**
   * Everything that a rule did and that still stands, of all its versions.
   *
   * @param since only what it did from then on, in ms
   */
  async rule(key: string, since: number | undefined, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const { compiled } = await this.store.current(this.database);
    const rule = compiled.catalogue.find('rule', key);
    if (!rule) throw notFound('rule');
    return this.#take(
      await this.#roots(
        `l.kind = 'firing' and l.verb = 'fired' and l.definition_id = $1 and ($2::timestamptz is null or l.at >= $2::timestamptz)`,
        [rule.id, since === undefined ? null : new Date(since).toISOString()],
      ),
      asking,
    );
  }

  /** Everything that an import did and that still stands. Whom it added stays. */
  async import(id: number, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const run = await this.database.read(ImportRun).findOneBy({ id });
    if (!run) throw notFound('import');
    const { of } = importOptionsSchema.parse(run.options);
    const signals = of === 'signal' ? await this.#signals('s.import_id = $1', id, `i.payload->>'importId' = $1`) : [];
    return this.#take(
      await this.#roots(`l.cause_kind = 'import' and l.cause_ref = $1 and l.parent is null`, [String(id)]),
      asking,
      signals,
    );
  }

  /** Everything that one run of a rule did and that still stands. */
  async sweep(id: number, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    if (!(await this.database.read(SweepRun).findOneBy({ id }))) throw notFound('run');
    return this.#take(await this.#roots(`l.cause_kind = 'sweep' and l.cause_ref = $1 and l.parent is null`, [String(id)]), asking);
  }

  /**
   * Whatever the ledger is narrowed to, as far as it stands. What follows by itself from conditions follows again.
   *
   * @throws ProblemError 422 where it is narrowed by nothing: that would be everything that was ever done
   */
  async narrowed(filter: EffectFilter, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    // A kind alone is nearly everything, and what narrows nothing must not pass for narrow.
    if (narrowing({ ...filter, kind: undefined }).every((each) => each === null))
      throw faulty([{ path: [], code: 'take-back.everything', expected: 'a cause, a person, a contact, a day, or what it is about' }]);
    return this.#take(await this.#roots(NARROWED, narrowing(filter)), asking);
  }

  /** Everything that came from a source and is here still, and all that came of it. */
  async source(name: string, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const where = 's.source_id = (select id from source where name = $1)';
    return this.#take([], asking, await this.#signals(where, name, `i.payload->>'source' = $1`));
  }

  /**
   * Signals to take back, by their contacts; what still waits to be worked is waited for.
   *
   * @param where of signals `s`
   * @param waiting the same, of what waits in inboxes `i`
   */
  async #signals(where: string, value: unknown, waiting: string): Promise<readonly GoneSignals[]> {
    const rows = await this.database.query<{ seq: number }>(`select i.seq from inbox i where i.kind = 'signal' and ${waiting}`, [
      String(value),
    ]);
    if (
      !(await this.follower.worked(
        rows.map(({ seq }) => seq),
        WAITED_FOR_MS,
      ))
    )
      throw conflict('take-back.waiting', 'Some of it has not been worked yet. Try again in a moment.');
    const signals = await this.database.query<{ id: number; contact_id: number }>(
      `select s.id, s.contact_id from signal s where ${where} order by s.contact_id, s.id`,
      [value],
    );
    const goes: Map<number, Set<number>>[] = [];
    let size = Infinity;
    for (const { id, contact_id } of signals) {
      const known = goes.at(-1)?.get(contact_id);
      if (known) known.add(id);
      else {
        if (size >= AT_ONCE) goes.push(new Map());
        if (size >= AT_ONCE) size = 0;
        goes.at(-1)?.set(contact_id, new Set([id]));
      }
      size += 1;
    }
    return goes;
  }

  /** The effects to start from, listed before anything is taken back: otherwise those that stay would be found again and again. */
  #roots(where: string, values: readonly unknown[]): Promise<readonly Root[]> {
    return this.database.query<Root>(
      `select l.id, coalesce(c.company_id, l.contact_id) as together from ledger l left join contact c on c.id = l.contact_id
        where ${where} and l.contact_id is not null and l.reverses is null and not exists (select from ledger r where r.reverses = l.id)
        order by together, l.id desc`,
      values,
    );
  }

  async #take(roots: readonly Root[], { by, rehearse }: TakeBackOptions, signals: readonly GoneSignals[] = []): Promise<TakeBackAnswer> {
    if (rehearse)
      return this.database.snapshot(async (sql) => {
        const { compiled } = await this.store.current(sql);
        const tally = new Tally(compiled.catalogue, true);
        const now = this.clock.now();
        for (const gone of signals) await tally.add(sql, await rehearseSignalsBack(sql, compiled, gone, by, now));
        for (const ids of inGoes(roots, REHEARSED_AT_ONCE)) await tally.add(sql, await rehearseTakeBack(sql, compiled, ids, by, now));
        return tally.answer();
      });
    const { compiled } = await this.store.current(this.database);
    const tally = new Tally(compiled.catalogue, false);
    for (const gone of signals) await tally.add(this.database, await takeBackSignals(this.database, this.store, this.clock, gone, by));
    for (const ids of inGoes(roots, AT_ONCE))
      await tally.add(this.database, await takeBackEffects(this.database, this.store, this.clock, ids, by));
    return tally.answer();
  }
}

function* inGoes(roots: readonly Root[], size: number): Generator<readonly number[]> {
  let ids: number[] = [];
  for (const [index, { id, together }] of roots.entries()) {
    if (ids.length >= size && together !== roots[index - 1]?.together) {
      yield ids;
      ids = [];
    }
    ids.push(id);
  }
  if (ids.length > 0) yield ids;
}

/** The same words once, with how often: “− message opened (3 times)” */
function withTimes(words: readonly string[]): string[] {
  const times = new Map<string, number>();
  for (const each of words) times.set(each, (times.get(each) ?? 0) + 1);
  return [...times].map(([each, n]) => (n === 1 ? each : `${each} (${n} times)`));
}

/** What taking back comes to, over all its goes. */
class Tally {
  readonly #catalogue: Catalogue;
  readonly #rehearsed: boolean;
  #effects = 0;
  #signals = 0;
  readonly #subjects = new Set<number>();
  readonly #changes: Record<string, number> = {};
  readonly #samples: TakeBackAnswer['samples'] = [];
  readonly #stays: TakeBackAnswer['stays'] = [];
  #stay = 0;

  constructor(catalogue: Catalogue, rehearsed: boolean) {
    this.#catalogue = catalogue;
    this.#rehearsed = rehearsed;
  }

  async add(sql: Sql, { signals, worked, stays }: TakenBack): Promise<void> {
    this.#signals += signals;
    for (const { state, effects } of worked) {
      if (effects.length > 0) this.#subjects.add(state.id);
      this.#effects += effects.filter((effect) => effect.reverses !== undefined).length;
      countChanges(effects, this.#changes);
    }
    this.#stay += stays.length;
    const changed = worked.filter(({ effects }) => effects.length > 0);
    await this.#tellSamples(sql, changed.slice(0, SAMPLES - this.#samples.length));
    await this.#tellStays(sql, stays.slice(0, STAYS_TOLD - this.#stays.length));
  }

  async #tellSamples(sql: Sql, worked: TakenBack['worked']): Promise<void> {
    if (worked.length === 0) return;
    const names = await sql.query<{ id: number; uid: string; name: string; company: boolean }>(
      `select id, uid, name, false as company from contact where id = any($1::bigint[])
       union all select id, uid, name, true from company where id = any($1::bigint[])`,
      [worked.map(({ state }) => state.id)],
    );
    for (const { state, effects } of worked) {
      const named = names.find((each) => each.id === state.id);
      this.#samples.push({
        contact: named && !named.company ? named.uid : null,
        name: named?.name ?? null,
        changes: withTimes(effects.filter((effect) => effect.kind !== 'firing').map((effect) => briefWords(effect, this.#catalogue))),
      });
    }
  }

  async #tellStays(sql: Sql, stays: TakenBack['stays']): Promise<void> {
    if (stays.length === 0) return;
    const rows = await sql.query<StoredEffect>(`select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.id = any($1::bigint[])`, [
      stays.map((each) => each.entry),
    ]);
    const byId = new Map(rows.map((row) => [row.id, row]));
    for (const { entry, why } of stays) {
      const row = byId.get(entry);
      this.#stays.push({
        contact: row?.contact_uid ?? null,
        name: row?.subject_name ?? null,
        what: row ? effectWords(row, this.#catalogue) : 'an effect',
        why,
      });
    }
  }

  answer(): TakeBackAnswer {
    return {
      rehearsed: this.#rehearsed,
      signals: this.#signals,
      effects: this.#effects,
      subjects: this.#subjects.size,
      changes: this.#changes,
      samples: this.#samples,
      stays: this.#stays,
      stay: this.#stay,
    };
  }
}
