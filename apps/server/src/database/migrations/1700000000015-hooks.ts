import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Addresses to which other programs send what happens there, and what was sent to each lately. */
export class Hooks1700000000015 implements MigrationInterface {
  readonly name = 'Hooks1700000000015';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table hook (
        id serial primary key,
        token text not null unique,
        name text not null,
        source text not null unique,
        is_on boolean not null default true,
        secret text not null,
        reads jsonb not null,
        made_at timestamptz not null,
        made_by text not null,
        last_at timestamptz,
        taken int not null default 0,
        refused int not null default 0
      )`);
    await runner.query(`
      create table hook_delivery (
        id serial primary key,
        hook_id int not null references hook on delete cascade,
        at timestamptz not null,
        state text not null,
        faults jsonb not null,
        body jsonb not null
      )`);
    await runner.query('create index on hook_delivery (hook_id, id desc)');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table hook_delivery');
    await runner.query('drop table hook');
  }
}
