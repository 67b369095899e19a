import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Tags that are replaced by others; rules that are run once over whoever matches: the runs, who is still to come in each, and when the next is due. */
export class Sweeps1700000000021 implements MigrationInterface {
  readonly name = 'Sweeps1700000000021';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table sweep_run (
        id serial primary key,
        definition_id int not null,
        version int not null,
        by_ref text,
        planned_for timestamptz,
        state text not null,
        total int not null,
        started_at timestamptz not null,
        ended_at timestamptz,
        lease_until timestamptz
      )`);
    await runner.query('create index sweep_run_by_definition on sweep_run (definition_id, id)');
    await runner.query(`create index sweep_run_running on sweep_run (id) where state = 'running'`);
    await runner.query(`create table sweep_waiting (run_id int not null, subject_id bigint not null, primary key (run_id, subject_id))`);
    await runner.query(`
      create table tag_replacement (
        id serial primary key,
        from_id int not null,
        into_id int not null,
        by_ref text not null,
        back_by text,
        state text not null,
        error text,
        handed_run int,
        taken_run int,
        before jsonb not null,
        after jsonb not null,
        made_at timestamptz not null,
        ended_at timestamptz,
        lease_until timestamptz
      )`);
    await runner.query(`create index ledger_by_run on ledger (cause_ref) where cause_kind = 'sweep'`);
    await runner.query(`create table sweep_next (rule_id int primary key, times jsonb not null, next_at timestamptz not null)`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop index ledger_by_run');
    await runner.query('drop table tag_replacement, sweep_next, sweep_waiting, sweep_run');
  }
}
