import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** The file of an import is kept until all of it is in, so that another process, or the same file sent again, goes on where it stopped. */
export class ImportFiles1700000000011 implements MigrationInterface {
  readonly name = 'ImportFiles1700000000011';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table import_run
      add column stored bigint not null default 0,
      add column is_whole boolean not null default false,
      add column holder text`);
    await runner.query(`
      create table import_piece (
        import_id int not null references import_run on delete cascade,
        starts_at bigint not null,
        bytes bytea not null,
        primary key (import_id, starts_at)
      )`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table import_piece');
    await runner.query('alter table import_run drop column holder, drop column is_whole, drop column stored');
  }
}
