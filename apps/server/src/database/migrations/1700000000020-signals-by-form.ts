import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Answers are found by their form, for its results. */
export class SignalsByForm1700000000020 implements MigrationInterface {
  readonly name = 'SignalsByForm1700000000020';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`create index signal_by_form on signal ((data->>'form'), time) where data->>'form' is not null`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop index signal_by_form');
  }
}
