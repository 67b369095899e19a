import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Builds that are left for a moment to whoever can bring everyone up at once. */
export class BuildsAtOnce1700000000030 implements MigrationInterface {
  readonly name = 'BuildsAtOnce1700000000030';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table build add column at_once_until timestamptz');
    await runner.query(`create index build_unfinished on build (epoch) where state in ('running', 'stopped')`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop index build_unfinished');
    await runner.query('alter table build drop column at_once_until');
  }
}
