import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Rows of a file that were refused, as they stood there, so that they can be mended and brought in again. */
export class ImportFaults1700000000014 implements MigrationInterface {
  readonly name = 'ImportFaults1700000000014';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table import_fault (
        import_id int not null references import_run on delete cascade,
        line int not null,
        cells jsonb not null,
        faults jsonb not null,
        primary key (import_id, line)
      )`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table import_fault');
  }
}
