import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Runs that are of no definition: one change by hand of many contacts at once. */
export class ChangesOfMany1700000000023 implements MigrationInterface {
  readonly name = 'ChangesOfMany1700000000023';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table sweep_run alter column definition_id drop not null, add column edit jsonb, add column what text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('delete from sweep_run where definition_id is null');
    await runner.query('alter table sweep_run alter column definition_id set not null, drop column edit, drop column what');
  }
}
