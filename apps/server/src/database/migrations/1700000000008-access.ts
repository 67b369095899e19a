import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** People are invited, disabled and reset, may ask for a second factor, and see the browsers they are signed in with; guessing is counted. */
export class Access1700000000008 implements MigrationInterface {
  readonly name = 'Access1700000000008';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table person
        alter column password_hash drop not null,
        add column disabled_at timestamptz,
        add column second_factor text,
        add column second_factor_pending text,
        add column second_factor_step bigint,
        add column recovery_hashes text[] not null default '{}'`);
    await runner.query(`
      alter table session
        add column id uuid not null default gen_random_uuid() unique,
        add column agent text not null default '',
        add column address text not null default ''`);
    await runner.query('create index session_of_person on session (person_id)');
    await runner.query(`
      create table invitation (
        token_hash text primary key,
        person_id int not null references person on delete cascade,
        expires_at timestamptz not null
      )`);
    await runner.query('create table guess (key text primary key, used double precision not null, at timestamptz not null)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table guess');
    await runner.query('drop table invitation');
    await runner.query('drop index session_of_person');
    await runner.query('alter table session drop column address, drop column agent, drop column id');
    await runner.query(`
      alter table person
        drop column recovery_hashes, drop column second_factor_step, drop column second_factor_pending, drop column second_factor, drop column disabled_at`);
    await runner.query('delete from person where password_hash is null');
    await runner.query('alter table person alter column password_hash set not null');
  }
}
