import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Who is always or never in a live audience, because somebody said so. */
export class Pins1700000000003 implements MigrationInterface {
  readonly name = 'Pins1700000000003';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table contact_pin (
        contact_id bigint not null,
        audience_id int not null,
        is_in boolean not null,
        reason text not null,
        until timestamptz,
        since timestamptz not null,
        said_by text not null,
        ledger_id bigint,
        primary key (contact_id, audience_id)
      );
      create index contact_pin_by_audience on contact_pin (audience_id);
    `);
  }

  async down(): Promise<void> {
    throw new Error('What people said of members cannot be taken away again: restore a backup instead.');
  }
}
