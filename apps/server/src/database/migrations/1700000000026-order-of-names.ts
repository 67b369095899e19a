import { type MigrationInterface, type QueryRunner } from 'typeorm';

/**
 * Tables are read in the order of names along an index: of a million contacts the first hundred took 0.2 to 0.7 s without it, and take some milliseconds. It is of
 * what tables sort by: a name that is empty is none.
 */
export class OrderOfNames1700000000026 implements MigrationInterface {
  name = 'OrderOfNames1700000000026';

  async up(runner: QueryRunner): Promise<void> {
    for (const table of ['contact', 'company'])
      await runner.query(`create index ${table}_by_name on ${table} ((nullif(name_folded, '') collate "C"))`);
  }

  async down(runner: QueryRunner): Promise<void> {
    for (const table of ['contact', 'company']) await runner.query(`drop index if exists ${table}_by_name`);
  }
}
