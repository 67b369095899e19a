import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Visitors of sites: unknown at first, with what they did until somebody is recognised in them. */
export class Site1700000000016 implements MigrationInterface {
  readonly name = 'Site1700000000016';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table site (
        id int primary key check (id = 1),
        is_on boolean not null default false,
        origins jsonb not null default '[]',
        types jsonb not null default '[]'
      )`);
    await runner.query('insert into site (id) values (1)');
    await runner.query(`
      create table visitor (
        id uuid primary key,
        contact_id bigint,
        first_at timestamptz not null,
        last_at timestamptz not null,
        first_page text
      )`);
    await runner.query('create index on visitor (contact_id)');
    await runner.query('create index on visitor (last_at) where contact_id is null');
    await runner.query(`
      create table visit (
        id uuid primary key,
        visitor_id uuid not null references visitor on delete cascade,
        at timestamptz not null,
        type text not null,
        data jsonb not null
      )`);
    await runner.query('create index on visit (visitor_id, at)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table visit');
    await runner.query('drop table visitor');
    await runner.query('drop table site');
  }
}
