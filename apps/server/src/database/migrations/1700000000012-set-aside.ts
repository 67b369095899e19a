import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** What cannot be worked is set aside, for somebody to look at, so that nothing behind it has to wait; and how long work waited is counted. */
export class SetAside1700000000012 implements MigrationInterface {
  readonly name = 'SetAside1700000000012';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table set_aside (
        id bigserial primary key,
        seq bigint unique,
        lane smallint not null,
        contact_id bigint not null,
        kind text not null,
        payload jsonb,
        arrived_at timestamptz not null,
        set_aside_at timestamptz not null,
        code text not null
      )`);
    await runner.query('create table work_delay (bucket smallint primary key, n bigint not null, seconds float8 not null)');
    await runner.query(`create unique index set_aside_waiting on set_aside (kind, contact_id) where seq is null`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table set_aside, work_delay');
  }
}
