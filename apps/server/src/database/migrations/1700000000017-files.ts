import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Files that people download by a link. */
export class Files1700000000017 implements MigrationInterface {
  readonly name = 'Files1700000000017';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table stored_file (
        id serial primary key,
        key text not null unique,
        name text not null,
        bytes bytea not null,
        downloads int not null default 0,
        made_at timestamptz not null,
        made_by text not null
      )`);
    // Files are compressed already, most of them.
    await runner.query('alter table stored_file alter column bytes set storage external');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table stored_file');
  }
}
