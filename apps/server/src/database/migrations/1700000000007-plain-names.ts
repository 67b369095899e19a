import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Tables and columns that went by short names are called what they are. */
export class PlainNames1700000000007 implements MigrationInterface {
  readonly name = 'PlainNames1700000000007';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table ledger rename column thing to definition_id');
    await runner.query('alter index ledger_by_thing rename to ledger_by_definition');
    await runner.query('alter table lane rename column gen to revision');
    await runner.query('alter table feed rename column gen to revision');
    await runner.query('alter table rule_held rename to suspended_rule');
    await runner.query('alter table once_held rename to latched_line');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table latched_line rename to once_held');
    await runner.query('alter table suspended_rule rename to rule_held');
    await runner.query('alter table feed rename column revision to gen');
    await runner.query('alter table lane rename column revision to gen');
    await runner.query('alter index ledger_by_definition rename to ledger_by_thing');
    await runner.query('alter table ledger rename column definition_id to thing');
  }
}
