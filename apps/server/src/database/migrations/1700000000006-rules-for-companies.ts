import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Rules say of whom they ask; a company that is looked at again knows what for, and through how many hands that came. */
export class RulesForCompanies1700000000006 implements MigrationInterface {
  readonly name = 'RulesForCompanies1700000000006';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`update definition set body = body || '{"of": "contact"}' where kind = 'rule' and not body ? 'of'`);
    await runner.query(
      `update definition_version v set body = v.body || '{"of": "contact"}'
         from definition d where d.id = v.definition_id and d.kind = 'rule' and not v.body ? 'of'`,
    );
    await runner.query(
      'alter table company_touched add column cause jsonb, add column parent bigint, add column hop smallint not null default 1',
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table company_touched drop column cause, drop column parent, drop column hop');
    await runner.query(`update definition set body = body - 'of' where kind = 'rule'`);
    await runner.query(
      `update definition_version v set body = v.body - 'of' from definition d where d.id = v.definition_id and d.kind = 'rule'`,
    );
  }
}
