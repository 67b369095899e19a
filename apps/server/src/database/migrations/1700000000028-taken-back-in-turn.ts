import { type MigrationInterface, type QueryRunner } from 'typeorm';

/**
 * What was taken back can be done again, and that be taken back in turn: runs from before do not know what they did, so they stay as they are.
 * A tag can be split into several.
 */
export class TakenBackInTurn1700000000028 implements MigrationInterface {
  readonly name = 'TakenBackInTurn1700000000028';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table take_back_run add column does text not null default 'part', add column of_id int`);
    await runner.query('alter table take_back_run alter column does drop default');
    await runner.query(`alter table take_back_subject add column effects bigint[] not null default '{}'`);
    await runner.query(`
      create table taken_work (
        ledger_id bigint primary key,
        contact_id bigint not null,
        task jsonb,
        notice jsonb
      )`);
    await runner.query('create index taken_work_by_contact on taken_work (contact_id)');
    await runner.query(`alter table tag_replacement add column parts jsonb not null default '[]'`);
    await runner.query('alter table tag_replacement alter column parts drop default');
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('alter table tag_replacement drop column parts');
    await runner.query('drop table taken_work');
    await runner.query(`delete from take_back_run where does = 'again'`);
    await runner.query('alter table take_back_subject drop column effects');
    await runner.query('alter table take_back_run drop column of_id, drop column does');
  }
}
