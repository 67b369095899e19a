import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Turns by shares and limits; taking back that goes on by itself: each of its goes waits here until it is done; views of lists that people keep. */
export class TurnsAndTakingBack1700000000022 implements MigrationInterface {
  readonly name = 'TurnsAndTakingBack1700000000022';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table routing_turn add column credits jsonb not null default '{}'`);
    // Turns that were asked for and not taken yet name one row.
    await runner.query(
      `update inbox set payload = payload || jsonb_build_object('rows', jsonb_build_array(payload->'row')) where kind = 'turn'`,
    );
    await runner.query(
      `create table routing_given (routing_id int not null, who text not null, day int not null, n int not null, primary key (routing_id, who))`,
    );
    await runner.query(`
      create table take_back_run (
        id serial primary key,
        what text not null,
        by_ref text not null,
        state text not null,
        total int not null,
        done int not null default 0,
        told jsonb not null,
        failed int not null default 0,
        error text,
        started_at timestamptz not null,
        ended_at timestamptz
      )`);
    await runner.query(`
      create table saved_view (
        id serial primary key,
        place text not null,
        name text not null,
        query text not null,
        by_ref text not null,
        for_all boolean not null,
        made_at timestamptz not null,
        unique (place, by_ref, name)
      )`);
    await runner.query(
      `create table take_back_subject (run_id int not null, subject_id bigint not null, place bigint generated always as identity, primary key (run_id, subject_id))`,
    );
    await runner.query(`create index take_back_run_running on take_back_run (id) where state = 'running'`);
    await runner.query(`
      create table take_back_go (
        run_id int not null,
        place int not null,
        size int not null,
        roots bigint[] not null,
        signals jsonb not null,
        primary key (run_id, place)
      )`);
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query('drop table saved_view, take_back_go, take_back_subject, take_back_run, routing_given');
    await runner.query('alter table routing_turn drop column credits');
  }
}
