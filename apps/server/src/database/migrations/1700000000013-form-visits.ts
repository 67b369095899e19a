import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** What people have answered of a form before they send it, so that they can go on with it later; and how far they came. */
export class FormVisits1700000000013 implements MigrationInterface {
  readonly name = 'FormVisits1700000000013';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table form_visit (
        id uuid primary key,
        form_id int not null,
        version int not null,
        answers jsonb not null,
        asked jsonb not null,
        came_from text,
        begun_at timestamptz not null,
        touched_at timestamptz not null,
        done_at timestamptz,
        outcome text,
        confirm boolean not null default false
      )`);
    await runner.query('create index form_visit_of_form on form_visit (form_id, touched_at)');
    await runner.query('create table form_view (form_id int not null, day date not null, n int not null, primary key (form_id, day))');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table form_visit, form_view');
  }
}
