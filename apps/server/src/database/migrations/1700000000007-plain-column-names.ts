import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Columns that went by short names are called what they are. */
export class PlainColumnNames1700000000007 implements MigrationInterface {
  readonly name = 'PlainColumnNames1700000000007';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table ledger rename column thing to definition_id');
    await runner.query('alter index ledger_by_thing rename to ledger_by_definition');
    await runner.query('alter table lane rename column gen to revision');
    await runner.query('alter table feed rename column gen to revision');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table feed rename column revision to gen');
    await runner.query('alter table lane rename column revision to gen');
    await runner.query('alter index ledger_by_definition rename to ledger_by_thing');
    await runner.query('alter table ledger rename column definition_id to thing');
  }
}
