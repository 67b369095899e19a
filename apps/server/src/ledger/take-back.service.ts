import { Injectable } from '@nestjs/common';
import { importOptionsSchema, type TakeBackAnswer } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ImportRun, SweepRun, TakeBackRun } from '../database/entities';
import { rehearseAgain } from '../engine/do-again';
import { Follower } from '../engine/follower';
import { ServerClock } from '../engine/server-clock';
import { rehearseSignalsBack, rehearseTakeBack, type GoneSignals } from '../engine/take-back';
import { conflict, faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { NARROWED, narrowing, type EffectFilter } from './ledger.service';
import { TakeBackRuns, whyNotReversed } from './take-back-runs.service';
import { Tally } from './take-back-tally';

/** Effects per step: few enough that lanes are locked only briefly. */
const AT_ONCE = 200;
/** A rehearsal holds nothing up. */
const REHEARSED_AT_ONCE = 2_000;
/** Whoever asks waits so long; what is left then goes on by itself. */
const WORKED_ON_MS = 3_000;
const WAITED_FOR_MS = 30_000;

/** An effect to start from. Effects of one company are taken back in one step, because its contacts are told of them. */
interface Root {
  readonly id: number;
  readonly together: number;
}

interface TakeBackOptions {
  readonly by: string;
  /** only says what it would do */
  readonly rehearse: boolean;
  /** it is part of something that is undone as a whole: waits until all of it has been taken back */
  readonly part?: boolean;
}

/** Takes back an effect, or all that a rule or an import did, with everything that came of it; says what stays and why. */
@Injectable()
export class TakeBackService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
    private readonly runs: TakeBackRuns,
  ) {}

  /** @param id in the ledger */
  async effect(id: number, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const [found] = await this.database.query(`select id from ledger where id = $1 and contact_id is not null and reverses is null`, [id]);
    if (!found) throw notFound('effect');
    return this.#take('one effect', [{ id, together: 0 }], asking);
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
      `what the rule ${rule.name} did`,
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
      `what the import ${run.name} did`,
      await this.#roots(`l.cause_kind = 'import' and l.cause_ref = $1 and l.parent is null`, [String(id)]),
      asking,
      signals,
    );
  }

  /** Everything that one run of a rule did and that still stands. */
  async sweep(id: number, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const run = await this.database.read(SweepRun).findOneBy({ id });
    if (!run) throw notFound('run');
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const name = catalogue.any(run.definitionId ?? -1)?.name ?? 'something that is gone';
    return this.#take(
      run.what === null ? `what run ${id} of ${name} did` : `what was changed of many at once (${run.what})`,
      await this.#roots(`l.cause_kind = 'sweep' and l.cause_ref = $1 and l.parent is null`, [String(id)]),
      asking,
    );
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
    return this.#take('what the ledger was narrowed to', await this.#roots(NARROWED, narrowing(filter)), asking);
  }

  /** Everything that came from a source and is here still, and all that came of it. */
  async source(name: string, asking: TakeBackOptions): Promise<TakeBackAnswer> {
    const where = 's.source_id = (select id from source where name = $1)';
    return this.#take(`what came from ${name}`, [], asking, await this.#signals(where, name, `i.payload->>'source' = $1`));
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

  /** Does again what a run took back, or takes back what a run did again: wherever nothing was changed since. */
  async run(id: number, { by, rehearse }: TakeBackOptions): Promise<TakeBackAnswer> {
    const run = await this.database.read(TakeBackRun).findOneBy({ id });
    if (!run) throw notFound('take-back');
    const why = whyNotReversed(run);
    if (why !== undefined) throw conflict('take-back.stays', why);
    const effects = `l.id in (select unnest(effects) from take_back_subject where run_id = $1)`;
    if (run.does === 'again') return this.#take(run.what, await this.#roots(effects, [id]), { by, rehearse }, [], id);
    const rows = await this.database.query<Root>(
      `select l.id, coalesce(c.company_id, l.contact_id) as together from ledger l left join contact c on c.id = l.contact_id
        where ${effects} and l.reverses is not null order by together, l.id desc`,
      [id],
    );
    if (rehearse)
      return this.database.snapshot(async (sql) => {
        const { compiled } = await this.store.current(sql);
        const tally = new Tally(compiled.catalogue);
        for (const ids of inGoes(rows, REHEARSED_AT_ONCE))
          await tally.add(sql, await rehearseAgain(sql, compiled, ids, by, this.clock.now()));
        return tally.answer();
      });
    return this.runs.workOn(
      await this.runs.begin({ what: run.what, by, does: 'again', of: id }, [...inGoes(rows, AT_ONCE)].map(goOf)),
      WORKED_ON_MS,
    );
  }

  async #take(
    what: string,
    roots: readonly Root[],
    { by, rehearse, part = false }: TakeBackOptions,
    signals: readonly GoneSignals[] = [],
    of: number | null = null,
  ): Promise<TakeBackAnswer> {
    if (rehearse)
      return this.database.snapshot(async (sql) => {
        const { compiled } = await this.store.current(sql);
        const tally = new Tally(compiled.catalogue);
        const now = this.clock.now();
        for (const gone of signals) await tally.add(sql, await rehearseSignalsBack(sql, compiled, gone, by, now));
        for (const ids of inGoes(roots, REHEARSED_AT_ONCE)) await tally.add(sql, await rehearseTakeBack(sql, compiled, ids, by, now));
        return tally.answer();
      });
    const goes = [...signals.map((gone) => ({ roots: [], signals: gone })), ...[...inGoes(roots, AT_ONCE)].map(goOf)];
    if (goes.length === 0) return { ...new Tally((await this.store.current(this.database)).compiled.catalogue).answer(), rehearsed: false };
    return this.runs.workOn(await this.runs.begin({ what, by, does: part ? 'part' : 'back', of }, goes), part ? Infinity : WORKED_ON_MS);
  }
}

const goOf = (roots: readonly number[]) => ({ roots, signals: new Map<number, ReadonlySet<number>>() });

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
