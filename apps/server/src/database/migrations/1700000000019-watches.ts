import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Files and addresses that are read whenever they have changed, and who was in them. */
export class Watches1700000000019 implements MigrationInterface {
  readonly name = 'Watches1700000000019';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table watch (
        id serial primary key,
        name text not null,
        is_on boolean not null,
        place jsonb not null,
        timetable jsonb not null,
        options jsonb not null,
        gone jsonb not null,
        made_by text not null,
        next_at timestamptz,
        lease_until timestamptz,
        read_at timestamptz,
        hash text,
        error text,
        held int not null default 0,
        import_id int,
        reading_hash text
      )`);
    // Who was in it, by what a row is known by; a row that nobody can be told from has the empty key.
    await runner.query(`
      create table watch_row (
        watch_id int not null,
        key text not null,
        contact_id bigint,
        import_id int not null,
        is_gone boolean not null default false,
        primary key (watch_id, key)
      )`);
    await runner.query('alter table import_run add column watch_id int');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table import_run drop column watch_id');
    await runner.query('drop table watch_row, watch');
  }
}
