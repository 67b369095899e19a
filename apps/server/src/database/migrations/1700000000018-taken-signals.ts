import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Which import brought a signal, so that an import of signals can be taken back. */
export class TakenSignals1700000000018 implements MigrationInterface {
  readonly name = 'TakenSignals1700000000018';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table signal add column import_id int');
    await runner.query('create index signal_by_import on signal (import_id) where import_id is not null');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop index signal_by_import');
    await runner.query('alter table signal drop column import_id');
  }
}
