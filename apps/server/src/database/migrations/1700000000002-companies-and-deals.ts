import { type MigrationInterface, type QueryRunner } from 'typeorm';

/**
 * Companies, deals, stages, owners, valued tags, histories. Companies take their ids from the sequence of the contacts: both are subjects,
 * and facts, scores, memberships, the ledger and the lanes know a subject by its id alone, whatever it is.
 */
export class CompaniesAndDeals1700000000002 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table company (
        id bigint primary key,
        uid uuid not null unique,
        lane smallint not null,
        outside_id text not null unique,
        name text not null default '',
        name_folded text not null default '',
        made_at timestamptz not null,
        last_now timestamptz,
        epoch bigint not null default 0
      ) with (fillfactor = 80);
      create index company_lane on company (lane, id);
      create index company_name on company (name_folded text_pattern_ops);

      alter table contact
        add column company_id bigint,
        add column stage_id int,
        add column stage_since timestamptz,
        add column owner text,
        add column merged_into bigint;
      create index contact_company on contact (company_id) where company_id is not null;
      create index contact_owner on contact (owner) where owner is not null;
      create index contact_stage on contact (stage_id) where stage_id is not null;

      create table deal (
        id bigint primary key,
        uid uuid not null unique,
        outside_id text not null unique,
        holder_id bigint not null,
        next_holder_id bigint,
        contact_id bigint,
        company_id bigint,
        pipeline_id int not null,
        stage text not null,
        name text not null,
        amount bigint,
        opened_at timestamptz not null,
        moved_at timestamptz not null,
        facts jsonb not null default '{}',
        details jsonb not null
      );
      create sequence deal_id_seq;
      create index deal_holder on deal (holder_id);
      create index deal_contact on deal (contact_id) where contact_id is not null;
      create index deal_company on deal (company_id) where company_id is not null;
      create table deal_score (
        holder_id bigint not null,
        deal_id bigint not null,
        scorecard_id int not null,
        points bigint not null,
        band text not null,
        band_since timestamptz not null,
        exact_until timestamptz,
        primary key (holder_id, deal_id, scorecard_id)
      );

      alter table definition add column deleted boolean not null default false;
      alter table contact_fact add column month_day smallint;
      create index contact_fact_month_day on contact_fact (field_id, month_day) where month_day is not null;
      alter table contact_tag add column value bigint;
      alter table contact_tag_past add column id bigserial, add column value bigint, add column went boolean not null default true;

      create table contact_change (
        contact_id bigint not null,
        of text not null,
        at timestamptz not null,
        id bigserial,
        before text,
        after text
      );
      create index contact_change_by_contact on contact_change (contact_id, of, at);
      create index contact_change_by_what on contact_change (of, at);
      create table contact_points (
        contact_id bigint not null,
        ref text not null,
        scorecard_id int not null,
        rule_id int not null,
        points bigint not null,
        at timestamptz not null,
        keeps jsonb not null,
        primary key (contact_id, ref)
      );

      drop index contact_score_by_points;
      create index contact_score_by_points on contact_score (scorecard_id, points) include (band, contact_id);
      create index contact_consent_by_state on contact_consent (channel, state) include (contact_id);
      drop index contact_fact_number;
      create index contact_fact_number on contact_fact (field_id, number) include (contact_id) where number is not null;
      drop index signal_by_type;
      create index signal_by_type on signal (type_id, time) include (contact_id);
      alter table inbox set (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 2000);
      alter table due set (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 5000);
      alter table lane set (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 500);
      alter table ledger add reverses bigint;
      drop index ledger_by_cause;
      drop index ledger_by_time;
      create index ledger_by_time on ledger using brin (at);
      create index ledger_by_parent on ledger (parent) where parent is not null;
      create index ledger_by_reversed on ledger (reverses) where reverses is not null;
      create table task (
        id bigserial primary key,
        contact_id bigint not null,
        title text not null,
        due_at timestamptz not null,
        assignee text,
        made_at timestamptz not null,
        ledger_id bigint,
        done_at timestamptz,
        done_by text
      );
      create index task_open on task (assignee, due_at) where done_at is null;
      create index task_by_contact on task (contact_id);
      create table notice (
        id bigserial primary key,
        contact_id bigint not null,
        text text not null,
        recipient text,
        made_at timestamptz not null,
        ledger_id bigint,
        read_at timestamptz
      );
      create index notice_unread on notice (recipient, id) where read_at is null;

      create table signal_waiting (
        id bigserial primary key,
        currency text not null,
        event jsonb not null,
        by text not null,
        received_at timestamptz not null
      );
      create table contact_merge (
        id bigserial primary key,
        into_id bigint not null,
        other_id bigint not null,
        at timestamptz not null,
        by text not null,
        ledger_id bigint not null,
        taken jsonb not null,
        kept jsonb not null,
        parted_at timestamptz
      );
      create index contact_merge_into on contact_merge (into_id);
      create index contact_merged_into on contact (merged_into) where merged_into is not null;

      create table routing_turn (routing_id int not null, row_key text not null, last_owner text not null, primary key (routing_id, row_key));
      create table company_touched (company_id bigint not null, lane smallint not null, since timestamptz not null);
      create index company_touched_by_company on company_touched (company_id);
      alter table company_touched set (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 1000);
      create index company_touched_by_lane on company_touched (lane, since);

      update contact_fact f
         set month_day = extract(month from date '1970-01-01' + f.number::int) * 100 + extract(day from date '1970-01-01' + f.number::int)
        from definition d where d.id = f.field_id and d.body->>'type' = 'date';
      update contact_fact f
         set month_day = extract(month from to_timestamp(f.number / 1000.0) at time zone w.time_zone) * 100
                       + extract(day from to_timestamp(f.number / 1000.0) at time zone w.time_zone)
        from definition d, workspace w where d.id = f.field_id and d.body->>'type' = 'date-time' and w.id = 1;
    `);
  }

  async down(): Promise<void> {
    throw new Error('What is known of companies, deals and histories cannot be taken away again: restore a backup instead.');
  }
}
