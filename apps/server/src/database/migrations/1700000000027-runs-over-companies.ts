import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Changes by hand are made of many companies too, and a run says whom it is run over. */
export class RunsOverCompanies1700000000027 implements MigrationInterface {
  readonly name = 'RunsOverCompanies1700000000027';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table sweep_run add column subject_kind text not null default 'contact'`);
    await runner.query(`
      update sweep_run r set subject_kind = 'company'
        from definition d where d.id = r.definition_id and d.kind = 'rule' and d.body->>'of' = 'company'`);
    await runner.query('alter table sweep_run alter column subject_kind drop default');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`delete from sweep_run where subject_kind = 'company' and definition_id is null`);
    await runner.query('alter table sweep_run drop column subject_kind');
  }
}
