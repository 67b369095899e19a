import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Pages that everybody can see have the colour of the organisation, and watched addresses may want a login. */
export class ColourOfPages1700000000029 implements MigrationInterface {
  readonly name = 'ColourOfPages1700000000029';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query('alter table workspace add column colour text');
    await runner.query('alter table watch add column login text');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table watch drop column login');
    await runner.query('alter table workspace drop column colour');
  }
}
