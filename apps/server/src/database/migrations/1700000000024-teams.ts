import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Teams of those who have access: a seller sees their own contacts, or those of their team. */
export class Teams1700000000024 implements MigrationInterface {
  name = 'Teams1700000000024';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table person add column team text, add column sees_team boolean not null default false');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table person drop column team, drop column sees_team');
  }
}
