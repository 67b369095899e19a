import { Injectable } from '@nestjs/common';
import { DATE_GRACE_MS, Moment, nextSweep, type AnyDefinition, type Compiled, type CompiledRule, type SweepTimes } from '@eager-sieve/core';
import { type SweepRunView } from '@eager-sieve/contracts';
import { FindOperator, IsNull } from 'typeorm';
import { Database, type Sql, type Transaction } from '../database/database';
import { SweepRun } from '../database/entities';
import { iso } from '../engine/clock';
import { Follower } from '../engine/follower';
import { keptInHand } from '../engine/kept-in-hand';
import { appendToInbox, WAKE, type EditPayload, type InboxEntry } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';
import { candidatesSql, type CandidatesSql } from './candidates';
import { mapCandidatesSql } from './maps.service';
import { runView } from './run-view';

/** So many go into inboxes in one transaction, and are worked before the next. */
const AT_ONCE = 500;
const LISTED = 20;
/** Who has a tag, or once had it. */
const WITH_TAG =
  'select contact_id as id from contact_tag where tag_id = $1 union select contact_id from contact_tag_past where tag_id = $1';
/** A process that has not been heard of for so long has left what it had in hand. */
const LEASE_MS = 15_000;
const WORKED_WITHIN_MS = 60_000;

/**
 * Rules that are run once over whoever matches, signal maps that are applied to the signals there are, bundles that are run by hand, and tags that are replaced: when somebody
 * says so, and by the times of sweeps that are on. Who matches is settled when a run begins; each of them is then judged in a pass of its own. A run that a process left is gone on with by another.
 */
@Injectable()
export class SweepsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
  ) {}

  async list(kind: 'rule' | 'map' | 'bundle', key: string): Promise<{ readonly runs: SweepRunView[]; readonly nextAt: string | null }> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const of = catalogue.find(kind, key);
    if (!of) throw notFound(kind);
    const times = timesOf(of as AnyDefinition);
    return {
      runs: await this.#views(of.id),
      nextAt: times ? iso(nextSweep(times, this.clock.now(), catalogue.zone)) : null,
    };
  }

  /** The changes of many contacts and companies, the latest first. */
  async changes(): Promise<{ readonly runs: SweepRunView[]; readonly nextAt: null }> {
    return { runs: await this.#views(IsNull()), nextAt: null };
  }

  async #views(definitionId: number | FindOperator<number>): Promise<SweepRunView[]> {
    const runs = await this.database.read(SweepRun).find({ where: { definitionId }, order: { id: 'desc' }, take: LISTED });
    return Promise.all(runs.map((run) => runView(this.database, run)));
  }

  /**
   * Begins a run; workers take it in hand within a second.
   *
   * @param whom on whom a bundle is run; of everything else it follows from what it is
   */
  async start(
    kind: 'rule' | 'map' | 'tag' | 'bundle',
    key: string,
    by: string,
    whom?: (sql: Sql, compiled: Compiled, moment: Moment) => Promise<CandidatesSql>,
  ): Promise<SweepRunView> {
    const { id } = await this.database.sharedEpoch(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const definition = compiled.catalogue.find(kind, key);
      if (!definition) throw notFound(kind);
      const id: number = definition.id;
      const rule = kind === 'rule' ? compiled.rules.get(id) : undefined;
      const map = kind === 'map' ? compiled.maps.get(id) : undefined;
      const isReady = kind === 'tag' || rule !== undefined || map !== undefined || compiled.bundles.has(id);
      if (!isReady || (kind !== 'tag' && definition.retired))
        throw faulty([
          { path: [], code: `${kind}.stands`, expected: 'to be no retired one, to rest on nothing broken, and a map to be on' },
        ]);
      await sql.query('select id from definition where id = $1 for update', [definition.id]);
      // One contact after the other may be given a bundle: only one run on many at a time.
      const [running] = await sql.query(
        `select id from sweep_run where definition_id = $1 and state = 'running' and (total > 1 or $2::boolean)`,
        [definition.id, kind !== 'bundle'],
      );
      if (running) throw conflict('sweep.running', `This ${kind} is being run already.`);
      const now = this.clock.now();
      if (kind !== 'tag') await writeSetting(sql, `${kind} run once`, { name: definition.name }, by, now, definition.id);
      const moment = new Moment(now, compiled.catalogue.zone);
      const candidates = whom
        ? await whom(sql, compiled, moment)
        : rule
          ? candidatesSql(rule, moment)
          : map
            ? mapCandidatesSql(map)
            : { text: WITH_TAG, values: [id] };
      return this.#begin(sql, ofDefinition(definition as AnyDefinition, rule?.of), candidates, { byRef: by, plannedFor: null });
    });
    return this.#begun(id);
  }

  /** Begins one change of many contacts or companies, which workers make as they make other edits. */
  async startChange(
    by: string,
    read: (
      sql: Sql,
      compiled: Compiled,
      moment: Moment,
    ) => Promise<{ readonly of: SweepRun['of']; readonly edit: ChangePayload; readonly what: string; readonly candidates: CandidatesSql }>,
  ): Promise<SweepRunView> {
    const { id } = await this.database.sharedEpoch(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const now = this.clock.now();
      const { of, edit, what, candidates } = await read(sql, compiled, new Moment(now, compiled.catalogue.zone));
      const run = await this.#begin(sql, { definitionId: null, version: 0, of, edit, what }, candidates, { byRef: by, plannedFor: null });
      await writeSetting(sql, 'many changed', { name: what, [of === 'company' ? 'companies' : 'people']: run.total }, by, now);
      return run;
    });
    return this.#begun(id);
  }

  async #begun(id: number): Promise<SweepRunView> {
    const run = await this.database.read(SweepRun).findOneBy({ id });
    if (!run) throw notFound('run');
    return runView(this.database, run);
  }

  /** Settles who matches, and writes the run down. */
  async #begin(
    sql: Transaction,
    of: RunOf,
    { text, values }: CandidatesSql,
    { byRef, plannedFor }: Pick<SweepRun, 'byRef' | 'plannedFor'>,
  ): Promise<{ readonly id: number; readonly total: number }> {
    const run = await sql.table(SweepRun).save({
      ...{ ...of, byRef, plannedFor },
      ...{ state: 'running', total: 0, startedAt: new Date(this.clock.now()) },
    });
    await sql.query(`insert into sweep_waiting (run_id, subject_id) select $${values.length + 1}::int, each.id from (${text}) each`, [
      ...values,
      run.id,
    ]);
    const [{ total = 0 } = {}] = await sql.query<{ total: number }>(
      'update sweep_run set total = (select count(*) from sweep_waiting where run_id = $1) where id = $1 returning total',
      [run.id],
    );
    return { id: run.id, total };
  }

  /** What has gone into inboxes is worked still; everybody else is left as they are. */
  async cancel(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const [run] = await sql.query<{ definition_id: number | null; what: string | null; state: string }>(
        'select definition_id, what, state from sweep_run where id = $1 for update',
        [id],
      );
      if (!run) throw notFound('run');
      if (run.state !== 'running') throw conflict('sweep.ended', 'This run has ended already.');
      const { catalogue } = (await this.store.current(sql)).compiled;
      const of = run.definition_id === null ? undefined : catalogue.any(run.definition_id);
      if (of?.kind === 'tag') throw conflict('sweep.replacing', 'Replacing a tag goes on to its end. It can be taken back then.');
      await sql.query(`update sweep_run set state = 'cancelled', ended_at = $2, lease_until = null, edit = null where id = $1`, [
        id,
        iso(this.clock.now()),
      ]);
      await sql.query('delete from sweep_waiting where run_id = $1', [id]);
      await writeSetting(sql, 'run ended', { name: run.what ?? of?.name }, by, this.clock.now(), run.definition_id ?? undefined);
    });
  }

  /** Begins the sweeps whose time has come, and goes on with a run that nobody has in hand. */
  async due(): Promise<void> {
    await this.#beginDue();
    const now = this.clock.now();
    const [left] = await this.database.query<{ id: number }>(
      `select id from sweep_run where state = 'running' and (lease_until is null or lease_until < $1) order by id limit 1`,
      [iso(now)],
    );
    if (left) void this.#work(left.id).catch(() => undefined);
  }

  async #beginDue(): Promise<void> {
    const { compiled } = await this.store.current(this.database);
    const { zone } = compiled.catalogue;
    const timed = [...compiled.rules.values()].flatMap((rule) => {
      const { when, on } = rule.definition.body;
      return on && when.kind === 'sweep' && when.times ? [{ rule, times: when.times }] : [];
    });
    const known = await this.database.query<{ rule_id: number; times: SweepTimes; next_at: Date }>(
      'select rule_id, times, next_at from sweep_next',
    );
    const gone = known.filter((row) => !timed.some(({ rule }) => rule.definition.id === row.rule_id));
    if (gone.length > 0)
      await this.database.query('delete from sweep_next where rule_id = any($1::int[])', [gone.map((row) => row.rule_id)]);
    const now = this.clock.now();
    for (const { rule, times } of timed) {
      const { id } = rule.definition;
      const row = known.find((each) => each.rule_id === id);
      const next = iso(nextSweep(times, now, zone));
      if (!row || !sameTimes(row.times, times))
        await this.database.query(
          `insert into sweep_next (rule_id, times, next_at) values ($1, $2, $3)
             on conflict (rule_id) do update set times = excluded.times, next_at = excluded.next_at`,
          [id, JSON.stringify(times), next],
        );
      else if (row.next_at.getTime() <= now) await this.#beginPlanned(rule, row.next_at, next);
    }
  }

  async #beginPlanned(rule: CompiledRule, plannedFor: Date, next: string): Promise<void> {
    await this.database.sharedEpoch(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { id, version } = rule.definition;
      const current = compiled.rules.get(id);
      const won = await sql.query('update sweep_next set next_at = $3 where rule_id = $1 and next_at = $2 returning rule_id', [
        id,
        plannedFor,
        next,
      ]);
      if (won.length === 0 || current?.definition.version !== version) return;
      const now = this.clock.now();
      if (now - plannedFor.getTime() > DATE_GRACE_MS) {
        const at = new Date(now);
        const missed = {
          definitionId: id,
          of: current.of,
          version,
          byRef: null,
          plannedFor,
          state: 'missed',
          total: 0,
          startedAt: at,
          endedAt: at,
        } as const;
        await sql.table(SweepRun).save(missed);
      } else
        await this.#begin(
          sql,
          ofDefinition(current.definition, current.of),
          candidatesSql(current, new Moment(now, compiled.catalogue.zone)),
          {
            byRef: null,
            plannedFor,
          },
        );
    });
  }

  /** Works a run to its end, or until another process has it in hand or it is ended. */
  async #work(id: number): Promise<void> {
    if (!(await this.#takeInHand(id))) return;
    await keptInHand(
      LEASE_MS,
      () => this.#keepInHand(id),
      async () => {
        while (await this.#keepInHand(id)) {
          const { seqs, isLast } = await this.#portion(id);
          await this.database.query(`select pg_notify('${WAKE}', '')`);
          // What cannot be worked is set aside, where it is shown; the others do not wait for it.
          await this.follower.worked(seqs, WORKED_WITHIN_MS).catch(() => undefined);
          if (isLast) return this.#ended(id);
        }
      },
    );
  }

  async #takeInHand(id: number): Promise<boolean> {
    const now = this.clock.now();
    const taken = await this.database.query(
      `update sweep_run set lease_until = $3 where id = $1 and state = 'running' and (lease_until is null or lease_until < $2) returning id`,
      [id, iso(now), iso(now + LEASE_MS)],
    );
    return taken.length > 0;
  }

  async #keepInHand(id: number): Promise<boolean> {
    const kept = await this.database.query(`update sweep_run set lease_until = $2 where id = $1 and state = 'running' returning id`, [
      id,
      iso(this.clock.now() + LEASE_MS),
    ]);
    return kept.length > 0;
  }

  #portion(id: number): Promise<{ readonly seqs: readonly number[]; readonly isLast: boolean }> {
    return this.database.sharedEpoch(async (sql) => {
      const next = await sql.query<{ subject_id: number }>(
        `delete from sweep_waiting w using (select subject_id from sweep_waiting where run_id = $1 order by subject_id limit $2) n
          where w.run_id = $1 and w.subject_id = n.subject_id returning w.subject_id`,
        [id, AT_ONCE],
      );
      const rows = await sql.query<{ id: number; lane: number; definition_id: number | null; edit: ChangePayload }>(
        `select s.id, s.lane, r.definition_id, r.edit from (select id, lane from contact union all select id, lane from company) s, sweep_run r
          where s.id = any($2::bigint[]) and r.id = $1 order by s.id`,
        [id, next.map((row) => row.subject_id)],
      );
      const entries = rows.map(({ id: contactId, lane, definition_id: of, edit }): InboxEntry => {
        if (of !== null) return { kind: 'sweep', contactId, lane, payload: { of, run: id } };
        return { kind: 'edit', contactId, lane, payload: { ...edit, cause: { kind: 'sweep', ref: String(id) } } };
      });
      return { seqs: await appendToInbox(sql, entries, iso(this.clock.now())), isLast: next.length < AT_ONCE };
    });
  }

  async #ended(id: number): Promise<void> {
    await this.database.query(
      `update sweep_run set state = 'done', ended_at = $2, lease_until = null, edit = null where id = $1 and state = 'running'`,
      [id, iso(this.clock.now())],
    );
  }
}

/** What a change by hand changes of each. */
type ChangePayload = Omit<EditPayload, 'cause'>;
type RunOf = Pick<SweepRun, 'definitionId' | 'version' | 'of'> & Partial<Pick<SweepRun, 'edit' | 'what'>>;
const ofDefinition = ({ id, version }: { readonly id: number; readonly version: number }, of: SweepRun['of'] = 'contact'): RunOf => ({
  definitionId: id,
  version,
  of,
});

const timesOf = ({ kind, body, retired }: AnyDefinition): SweepTimes | undefined =>
  kind === 'rule' && body.on && !retired && body.when.kind === 'sweep' ? body.when.times : undefined;

/** The database does not keep the order of properties. */
const sameTimes = (a: SweepTimes, b: SweepTimes): boolean =>
  Object.entries(b).every(([property, value]) => (a as unknown as Record<string, unknown>)[property] === value);
