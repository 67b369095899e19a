import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Teams of those who have access: a seller sees their own contacts, or those of their team. Files that lie with contacts and companies. Mail to those who work here. Contacts by the domain of their address. */
export class TeamsAndFiles1700000000024 implements MigrationInterface {
  name = 'TeamsAndFiles1700000000024';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      'alter table person add column team text, add column sees_team boolean not null default false, add column daily_mail boolean not null default true, add column mailed_on date',
    );
    await runner.query(`
      create table staff_mail (
        id serial primary key,
        to_address text not null,
        subject text not null,
        text text not null,
        eml text not null,
        at timestamptz not null,
        contact_ids bigint[] not null
      )`);
    await runner.query('create index staff_mail_by_contact on staff_mail using gin (contact_ids)');
    await runner.query(`
      create table attachment (
        id serial primary key,
        contact_id bigint not null,
        name text not null,
        bytes bytea not null,
        made_at timestamptz not null,
        by_ref text not null
      )`);
    // Files are compressed already, most of them.
    await runner.query('alter table attachment alter column bytes set storage external');
    await runner.query('create index attachment_by_contact on attachment (contact_id)');
    // The last part, as nothing before the last @ belongs to the domain.
    await runner.query(
      `create index contact_by_domain on contact (reverse(split_part(reverse(email_folded), '@', 1))) where email_folded is not null and merged_into is null`,
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table attachment, staff_mail');
    await runner.query('drop index contact_by_domain');
    await runner.query('alter table person drop column team, drop column sees_team, drop column daily_mail, drop column mailed_on');
  }
}
