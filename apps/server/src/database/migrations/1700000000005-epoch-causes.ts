import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** What changed the meaning of a definition when its epoch was last raised, where that was another one that it rests on. */
export class EpochCauses1700000000005 implements MigrationInterface {
  readonly name = 'EpochCauses1700000000005';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table definition add column epoch_cause text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table definition drop column epoch_cause');
  }
}
