import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** What a process has in hand is its own for a short time that it keeps renewing; what goes out can be paused, as after a restore. */
export class Leases1700000000010 implements MigrationInterface {
  readonly name = 'Leases1700000000010';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table import_run add column alive_until timestamptz');
    await runner.query("alter table workspace add column public_url text not null default ''");
    await runner.query('alter table workspace add column sends_paused boolean not null default false');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table workspace drop column sends_paused, drop column public_url');
    await runner.query('alter table import_run drop column alive_until');
  }
}
