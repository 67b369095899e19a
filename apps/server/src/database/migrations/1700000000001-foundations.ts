import { type MigrationInterface, type QueryRunner } from 'typeorm';

const FIRST_YEAR = 2015;
const LAST_YEAR = 2040;

/** The tables that everything stands on. Hot tables lead with contact_id, so that they can be distributed by it later. */
export class Foundations1700000000001 implements MigrationInterface {
  async up(runner: QueryRunner): Promise<void> {
    const years = Array.from({ length: LAST_YEAR - FIRST_YEAR }, (_, index) => FIRST_YEAR + index);
    await runner.query(`
      create table workspace (
        id int primary key check (id = 1),
        name text not null,
        time_zone text not null,
        currency text not null,
        rates jsonb not null default '{}',
        epoch bigint not null default 1,
        secret text not null,
        made_at timestamptz not null
      );

      create table definition (
        id serial primary key,
        kind text not null,
        key text not null,
        name text not null,
        version int not null default 1,
        retired boolean not null default false,
        epoch bigint not null default 0,
        on_epoch bigint,
        language int not null,
        body jsonb not null,
        made_at timestamptz not null,
        changed_at timestamptz not null,
        changed_by text,
        unique (kind, key)
      );
      create table definition_version (
        definition_id int not null references definition,
        version int not null,
        name text not null,
        language int not null,
        body jsonb not null,
        at timestamptz not null,
        by text,
        primary key (definition_id, version)
      );

      create table person (
        id serial primary key,
        email text not null unique,
        name text not null,
        role text not null,
        password_hash text not null,
        made_at timestamptz not null
      );
      create table session (
        id_hash text primary key,
        person_id int not null references person on delete cascade,
        csrf text not null,
        made_at timestamptz not null,
        seen_at timestamptz not null,
        expires_at timestamptz not null
      );
      create table api_key (
        id serial primary key,
        name text not null,
        prefix text not null,
        key_hash text not null unique,
        scopes text[] not null,
        made_at timestamptz not null,
        made_by text,
        last_used_at timestamptz,
        revoked_at timestamptz
      );

      create table source (id serial primary key, name text not null unique);

      create table contact (
        id bigint primary key,
        uid uuid not null unique,
        lane smallint not null,
        email text,
        email_folded text unique,
        outside_id text unique,
        name text not null default '',
        name_folded text not null default '',
        tags int[] not null default '{}',
        made_at timestamptz not null,
        last_now timestamptz,
        epoch bigint not null default 0
      ) with (fillfactor = 80);
      create sequence contact_id_seq;
      create index contact_lane on contact (lane, id);
      create index contact_tags on contact using gin (tags);
      create index contact_name on contact (name_folded text_pattern_ops);

      create table contact_fact (
        contact_id bigint not null,
        field_id int not null,
        shown text,
        folded text,
        words text,
        number bigint,
        choices text[],
        ledger_id bigint,
        primary key (contact_id, field_id)
      ) with (fillfactor = 80);
      create index contact_fact_number on contact_fact (field_id, number) where number is not null;
      create index contact_fact_text on contact_fact (field_id, left(folded, 100)) where folded is not null;

      create table contact_tag (
        contact_id bigint not null,
        tag_id int not null,
        since timestamptz not null,
        ledger_id bigint,
        primary key (contact_id, tag_id)
      );
      create index contact_tag_by_tag on contact_tag (tag_id, since);
      create table contact_tag_reason (
        contact_id bigint not null,
        tag_id int not null,
        kind text not null,
        ref text not null,
        primary key (contact_id, tag_id, kind, ref)
      );
      create table contact_tag_past (
        contact_id bigint not null,
        tag_id int not null,
        since timestamptz not null,
        until timestamptz not null,
        ledger_id bigint
      );
      create index contact_tag_past_by_contact on contact_tag_past (contact_id, tag_id);

      create table contact_consent (
        contact_id bigint not null,
        channel text not null,
        state text not null,
        at timestamptz not null,
        ledger_id bigint,
        primary key (contact_id, channel)
      );

      create table contact_score (
        contact_id bigint not null,
        scorecard_id int not null,
        points bigint not null,
        band text not null,
        band_since timestamptz not null,
        exact_until timestamptz,
        primary key (contact_id, scorecard_id)
      ) with (fillfactor = 80);
      create index contact_score_by_points on contact_score (scorecard_id, points);

      create table membership (
        contact_id bigint not null,
        definition_id int not null,
        since timestamptz not null,
        ledger_id bigint,
        primary key (contact_id, definition_id)
      );
      create index membership_by_definition on membership (definition_id, since, contact_id);
      create table membership_past (
        contact_id bigint not null,
        definition_id int not null,
        since timestamptz not null,
        until timestamptz not null,
        ledger_id bigint
      );
      create index membership_past_by_contact on membership_past (contact_id, definition_id);

      create table rule_firing (
        contact_id bigint not null,
        rule_id int not null,
        times int not null,
        last_at timestamptz not null,
        primary key (contact_id, rule_id)
      );
      create table rule_held (
        contact_id bigint not null,
        rule_id int not null,
        since timestamptz not null,
        primary key (contact_id, rule_id)
      );
      create table once_held (
        contact_id bigint not null,
        scorecard_id int not null,
        line text not null,
        since timestamptz not null,
        primary key (contact_id, scorecard_id, line)
      );

      create sequence signal_id_seq;
      create table signal (
        contact_id bigint not null,
        type_id int not null,
        time timestamptz not null,
        id bigint not null,
        source_id int not null,
        sender_id text not null,
        day int not null,
        amount bigint,
        historic boolean not null,
        received_at timestamptz not null,
        details jsonb not null,
        data jsonb,
        primary key (contact_id, type_id, time, id)
      ) partition by range (time);
      create table signal_other partition of signal default;
      ${years.map((year) => `create table signal_${year} partition of signal for values from ('${year}-01-01T00:00:00Z') to ('${year + 1}-01-01T00:00:00Z');`).join('\n')}
      create index signal_by_time on signal (time desc, id desc);
      create index signal_by_type on signal (type_id, time);
      create table signal_sum (
        contact_id bigint not null,
        type_id int not null,
        n int not null,
        first timestamptz not null,
        last timestamptz not null,
        primary key (contact_id, type_id)
      ) with (fillfactor = 80);
      create table signal_key (
        source_id int not null,
        key_hash bytea not null,
        received_at timestamptz not null,
        primary key (source_id, key_hash)
      );

      create table lane (lane smallint primary key, gen bigint not null default 0, owner text);
      insert into lane (lane) select generate_series(0, 63);
      create sequence inbox_seq;
      create table inbox (
        lane smallint not null,
        seq bigint not null,
        contact_id bigint not null,
        kind text not null,
        arrived_at timestamptz not null,
        payload jsonb not null,
        primary key (lane, seq)
      );
      create unique index inbox_by_seq on inbox (seq);
      create table due (contact_id bigint primary key, lane smallint not null, due_at timestamptz not null);
      create index due_by_lane on due (lane, due_at);
      create table feed (
        lane smallint not null,
        gen bigint not null,
        at timestamptz not null,
        delta jsonb not null,
        primary key (lane, gen)
      );

      create sequence ledger_id_seq;
      create table ledger (
        id bigint primary key,
        contact_id bigint,
        at timestamptz not null,
        epoch bigint not null,
        kind text not null,
        verb text not null,
        thing int,
        channel text,
        before jsonb,
        after jsonb,
        cause_kind text not null,
        cause_ref text,
        rule_id int,
        rule_version int,
        parent bigint,
        via text
      );
      create index ledger_by_contact on ledger (contact_id, id desc);
      create index ledger_by_thing on ledger (kind, thing, id desc);
      create index ledger_by_cause on ledger (cause_kind, cause_ref);
      create index ledger_by_time on ledger (at);
      create table ledger_value (
        contact_id bigint not null,
        ledger_id bigint not null,
        before jsonb,
        after jsonb,
        primary key (contact_id, ledger_id)
      );

      create table build (
        id serial primary key,
        definitions int[] not null,
        name text not null,
        epoch bigint not null,
        cause text not null,
        state text not null default 'running',
        total int not null default 0,
        done int not null default 0,
        started_at timestamptz not null,
        finished_at timestamptz
      );
      create table build_lane (
        build_id int not null references build on delete cascade,
        lane smallint not null,
        after_contact bigint not null default 0,
        done boolean not null default false,
        primary key (build_id, lane)
      );

      create table import_run (
        id serial primary key,
        name text not null,
        state text not null,
        options jsonb not null,
        bytes bigint not null default 0,
        bytes_read bigint not null default 0,
        rows int not null default 0,
        created int not null default 0,
        updated int not null default 0,
        unchanged int not null default 0,
        faulty int not null default 0,
        faults jsonb not null default '[]',
        error text,
        started_at timestamptz not null,
        finished_at timestamptz,
        by text
      );

      create table outbox (
        id bigserial primary key,
        kind text not null,
        ref bigint not null,
        made_at timestamptz not null,
        state text not null default 'waiting',
        claimed_at timestamptz
      );
      create index outbox_waiting on outbox (id) where state in ('waiting', 'claimed');
      create table send (
        id serial primary key,
        message_id int not null,
        version int not null,
        audience_id int not null,
        at timestamptz not null,
        by text
      );
      create table send_recipient (
        id bigserial primary key,
        send_id int not null references send,
        contact_id bigint not null,
        state text not null,
        why text,
        at timestamptz not null,
        unique (send_id, contact_id)
      );
      create table post (
        id bigserial primary key,
        recipient_id bigint not null unique references send_recipient,
        contact_id bigint not null,
        to_address text not null,
        subject text not null,
        text text not null,
        at timestamptz not null,
        eml text not null,
        opened boolean not null default false
      );
    `);
  }

  async down(): Promise<void> {
    throw new Error('The foundations cannot be taken away from under the house: restore a backup instead.');
  }
}
