import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Which new contact a phone number brought, until its first pass has written the number down as a fact. */
export class PhoneClaims1700000000004 implements MigrationInterface {
  readonly name = 'PhoneClaims1700000000004';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table phone_claim (phone text not null, contact_id bigint primary key);
    `);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table phone_claim');
  }
}
