import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Changes by hand of many contacts at once, which are runs of no definition; tables that are frozen to be worked down; notes; contacts that somebody said are two people. */
export class WorkOnMany1700000000023 implements MigrationInterface {
  readonly name = 'WorkOnMany1700000000023';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table sweep_run alter column definition_id drop not null, add column edit jsonb, add column what text');
    await runner.query(`
      create table worklist (
        id serial primary key,
        name text not null,
        by_ref text not null,
        for_all boolean not null,
        columns jsonb not null,
        made_at timestamptz not null
      )`);
    await runner.query(`
      create table worklist_entry (
        worklist_id int not null,
        place int not null,
        contact_id bigint not null,
        state text not null,
        was jsonb not null,
        by_ref text,
        at timestamptz,
        note text,
        taken_by text,
        taken_at timestamptz,
        primary key (worklist_id, place),
        unique (worklist_id, contact_id)
      )`);
    await runner.query('create index worklist_entry_by_contact on worklist_entry (contact_id)');
    await runner.query(`
      create table note (
        id serial primary key,
        contact_id bigint not null,
        text text not null,
        by_ref text not null,
        made_at timestamptz not null,
        changed_at timestamptz
      )`);
    await runner.query('create index note_by_contact on note (contact_id)');
    await runner.query(
      'create table contact_apart (a_id bigint not null, b_id bigint not null, by_ref text not null, at timestamptz not null, primary key (a_id, b_id))',
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table contact_apart, note, worklist_entry, worklist');
    await runner.query('delete from sweep_run where definition_id is null');
    await runner.query('alter table sweep_run alter column definition_id set not null, drop column edit, drop column what');
  }
}
