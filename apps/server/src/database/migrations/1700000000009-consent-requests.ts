import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Consent given on a form by whoever it was is confirmed by a link to the address; what was shown, when and from where is kept as proof. */
export class ConsentRequests1700000000009 implements MigrationInterface {
  readonly name = 'ConsentRequests1700000000009';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table consent_request (
        id bigserial primary key,
        token_hash text not null unique,
        contact_id bigint not null,
        address text not null,
        channel text not null,
        form_id int not null,
        form_version int not null,
        words text not null,
        asked_at timestamptz not null,
        asked_from text not null,
        expires_at timestamptz not null,
        confirmed_at timestamptz,
        confirmed_from text
      )`);
    await runner.query('create index consent_request_of_contact on consent_request (contact_id)');
    await runner.query('alter table post alter column recipient_id drop not null');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('delete from post where recipient_id is null');
    await runner.query('alter table post alter column recipient_id set not null');
    await runner.query('drop table consent_request');
  }
}
