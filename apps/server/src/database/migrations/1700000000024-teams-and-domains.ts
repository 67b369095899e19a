import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Teams of those who have access: a seller sees their own contacts, or those of their team. Contacts by the domain of their address. */
export class TeamsAndDomains1700000000024 implements MigrationInterface {
  name = 'TeamsAndDomains1700000000024';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table person add column team text, add column sees_team boolean not null default false');
    // The last part, as nothing before the last @ belongs to the domain.
    await runner.query(
      `create index contact_by_domain on contact (reverse(split_part(reverse(email_folded), '@', 1))) where email_folded is not null and merged_into is null`,
    );
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop index contact_by_domain');
    await runner.query('alter table person drop column team, drop column sees_team');
  }
}
