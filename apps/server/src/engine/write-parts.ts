import { localDay, monthDay, storageOf, paddedWords, type Catalogue, type Effect, type Fact, type KeptScore } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type Latest, type LedgerIds } from './write-ledger';
import { changes, deleteKeys, withRows, type Worked } from './write-keyed';

export async function writeFacts(sql: Sql, catalogue: Catalogue, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'facts');
  await deleteKeys(sql, 'contact_fact', 'field_id', 'int', gone);
  await withRows(
    sql,
    `insert into contact_fact (contact_id, field_id, shown, folded, words, number, choices, month_day, ledger_id)
     select * from jsonb_to_recordset($1::jsonb)
       as r(contact_id bigint, field_id int, shown text, folded text, words text, number bigint, choices text[], month_day smallint, ledger_id bigint)
     on conflict (contact_id, field_id) do update set shown = excluded.shown, folded = excluded.folded, words = excluded.words,
        number = excluded.number, choices = excluded.choices, month_day = excluded.month_day, ledger_id = excluded.ledger_id`,
    put.map(({ state, key }) => ({
      contact_id: state.id,
      field_id: key,
      shown: state.shown.get(key) ?? null,
      ...factColumns(catalogue, key, state.facts.get(key) as Fact),
      ledger_id: latest.get(`field ${key} ${state.id}`),
    })),
  );
}

function factColumns(catalogue: Catalogue, field: number, fact: Fact): Record<string, unknown> {
  const body = catalogue.body('field', field);
  const storage = body ? storageOf[body.type] : 'text';
  if (storage === 'choices') return { choices: fact };
  if (typeof fact === 'number') {
    const day = storage === 'day' ? fact : storage === 'instant' ? localDay(fact, catalogue.zone) : undefined;
    return { number: fact, month_day: day === undefined ? undefined : monthDay(day) };
  }
  const words = storage === 'text' ? paddedWords(fact as string) : undefined;
  return { folded: fact, words: words === ` ${String(fact)} ` ? undefined : words };
}

export async function writeTags(sql: Sql, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'tags');
  await deleteKeys(sql, 'contact_tag_reason', 'tag_id', 'int', [...gone, ...put.map(({ state, key }) => ({ contact_id: state.id, key }))]);
  await deleteKeys(sql, 'contact_tag', 'tag_id', 'int', gone);
  await withRows(
    sql,
    `insert into contact_tag (contact_id, tag_id, since, value, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, since timestamptz, value bigint, ledger_id bigint)
     on conflict (contact_id, tag_id) do update
        set since = excluded.since, value = excluded.value, ledger_id = coalesce(excluded.ledger_id, contact_tag.ledger_id)`,
    put.map(({ state, key }) => ({
      contact_id: state.id,
      tag_id: key,
      since: iso(state.tags.get(key)?.since ?? 0),
      value: state.tags.get(key)?.value,
      ledger_id: latest.get(`tag ${key} ${state.id}`),
    })),
  );
  await withRows(
    sql,
    `insert into contact_tag_reason (contact_id, tag_id, kind, ref)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, kind text, ref text)`,
    put.flatMap(({ state, key }) =>
      (state.tags.get(key)?.reasons ?? []).map((reason) => ({ contact_id: state.id, tag_id: key, kind: reason.kind, ref: reason.ref })),
    ),
  );
}

export async function writeConsent(sql: Sql, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<'email' | 'text' | 'chat'>(worked, 'consent');
  await deleteKeys(sql, 'contact_consent', 'channel', 'text', gone);
  await withRows(
    sql,
    `insert into contact_consent (contact_id, channel, state, at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, channel text, state text, at timestamptz, ledger_id bigint)
     on conflict (contact_id, channel) do update set state = excluded.state, at = excluded.at, ledger_id = coalesce(excluded.ledger_id, contact_consent.ledger_id)`,
    put.map(({ state, key }) => {
      const consent = state.consent.get(key);
      return {
        contact_id: state.id,
        channel: key,
        state: consent?.state,
        at: iso(consent?.at ?? 0),
        ledger_id: latest.get(`consent ${key} ${state.id}`),
      };
    }),
  );
}

export const scoreColumns = (score: KeptScore): object => ({
  points: score.points,
  band: score.band,
  band_since: iso(score.bandSince),
  exact_until: Number.isFinite(score.exactUntil) ? iso(score.exactUntil) : null,
});

export async function writeScores(sql: Sql, worked: Worked): Promise<void> {
  await withRows(
    sql,
    `insert into contact_score (contact_id, scorecard_id, points, band, band_since, exact_until)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, scorecard_id int, points bigint, band text, band_since timestamptz, exact_until timestamptz)
     on conflict (contact_id, scorecard_id) do update set points = excluded.points, band = excluded.band, band_since = excluded.band_since, exact_until = excluded.exact_until`,
    changes<number>(worked, 'scores').put.flatMap(({ state, key }) => {
      const score = state.scores.get(key);
      return score ? [{ contact_id: state.id, scorecard_id: key, ...scoreColumns(score) }] : [];
    }),
  );
}

export async function writeMemberships(sql: Sql, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'memberships');
  await deleteKeys(sql, 'membership', 'definition_id', 'int', gone);
  await withRows(
    sql,
    `insert into membership (contact_id, definition_id, since, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, definition_id int, since timestamptz, ledger_id bigint)
     on conflict (contact_id, definition_id) do update set since = excluded.since, ledger_id = excluded.ledger_id`,
    put.map(({ state, key }) => ({
      contact_id: state.id,
      definition_id: key,
      since: iso(state.memberships.get(key)?.since ?? 0),
      ledger_id: latest.get(`membership ${key} ${state.id}`),
    })),
  );
}

export async function writePins(sql: Sql, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'pins');
  await deleteKeys(sql, 'contact_pin', 'audience_id', 'int', gone);
  await withRows(
    sql,
    `insert into contact_pin (contact_id, audience_id, is_in, reason, until, since, said_by, ledger_id)
     select * from jsonb_to_recordset($1::jsonb)
       as r(contact_id bigint, audience_id int, is_in boolean, reason text, until timestamptz, since timestamptz, said_by text, ledger_id bigint)
     on conflict (contact_id, audience_id) do update set is_in = excluded.is_in, reason = excluded.reason, until = excluded.until,
        since = excluded.since, said_by = excluded.said_by, ledger_id = excluded.ledger_id`,
    put.flatMap(({ state, key }) => {
      const pin = state.pins.get(key);
      if (!pin) return [];
      return [
        {
          contact_id: state.id,
          audience_id: key,
          is_in: pin.in,
          reason: pin.reason,
          until: pin.until === undefined ? null : iso(pin.until),
          since: iso(pin.since),
          said_by: pin.by,
          ledger_id: latest.get(`pin ${key} ${state.id}`),
        },
      ];
    }),
  );
}

export async function writeRules(sql: Sql, worked: Worked): Promise<void> {
  const firings = changes<number>(worked, 'firings');
  await deleteKeys(sql, 'rule_firing', 'rule_id', 'int', firings.gone);
  await withRows(
    sql,
    `insert into rule_firing (contact_id, rule_id, times, last_at)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, rule_id int, times int, last_at timestamptz)
     on conflict (contact_id, rule_id) do update set times = excluded.times, last_at = excluded.last_at`,
    firings.put.map(({ state, key }) => ({
      contact_id: state.id,
      rule_id: key,
      times: state.firings.get(key)?.times,
      last_at: iso(state.firings.get(key)?.lastAt ?? 0),
    })),
  );
  await withRows(
    sql,
    `delete from rule_held h using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, rule_id int) where h.contact_id = r.contact_id and h.rule_id = r.rule_id`,
    changes<number>(worked, 'held').gone.map(({ contact_id, key }) => ({ contact_id, rule_id: key })),
  );
  await withRows(
    sql,
    `insert into rule_held (contact_id, rule_id, since) select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, rule_id int, since timestamptz) on conflict do nothing`,
    changes<number>(worked, 'held').put.map(({ state, key }) => ({
      contact_id: state.id,
      rule_id: key,
      since: iso(state.held.get(key) ?? 0),
    })),
  );
  const marks = changes<string>(worked, 'marks');
  await withRows(
    sql,
    `delete from once_held o using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key text)
      where o.contact_id = r.contact_id and o.scorecard_id = split_part(r.key, ':', 1)::int and o.line = substr(r.key, strpos(r.key, ':') + 1)`,
    marks.gone,
  );
  await withRows(
    sql,
    `insert into once_held (contact_id, scorecard_id, line, since)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, scorecard_id int, line text, since timestamptz) on conflict do nothing`,
    marks.put.map(({ state, key }) => {
      const [card = '', line = ''] = key.split(':');
      return { contact_id: state.id, scorecard_id: Number(card), line, since: iso(state.marks.get(key) ?? 0) };
    }),
  );
}

export async function writePoints(sql: Sql, worked: Worked): Promise<void> {
  const { put, gone } = changes<string>(worked, 'points');
  await deleteKeys(sql, 'contact_points', 'ref', 'text', gone);
  await withRows(
    sql,
    `insert into contact_points (contact_id, ref, scorecard_id, rule_id, points, at, keeps)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, ref text, scorecard_id int, rule_id int, points bigint, at timestamptz, keeps jsonb)
     on conflict (contact_id, ref) do update set scorecard_id = excluded.scorecard_id, points = excluded.points, at = excluded.at, keeps = excluded.keeps`,
    put.flatMap(({ state, key }) => {
      const given = state.points.get(key);
      if (!given) return [];
      const { scorecard, rule, points, at, keeps } = given;
      return [{ contact_id: state.id, ref: key, scorecard_id: scorecard, rule_id: rule, points, at: iso(at), keeps }];
    }),
  );
}

/** Tasks and notices that rules made. */
export async function writeMade(sql: Sql, worked: Worked, ids: LedgerIds): Promise<void> {
  const made = worked.flatMap(({ state, effects }) =>
    effects.flatMap((effect: Effect) => (effect.workItem ? [{ contact: state.id, effect, makes: effect.workItem }] : [])),
  );
  const back = worked.flatMap(({ effects }) =>
    effects.flatMap((effect) => (effect.verb === 'taken back' && effect.reverses !== undefined ? [effect.reverses] : [])),
  );
  if (back.length > 0) {
    await sql.query('delete from task where ledger_id = any($1::bigint[]) and done_at is null', [back]);
    await sql.query('delete from notice where ledger_id = any($1::bigint[]) and read_at is null', [back]);
  }
  await withRows(
    sql,
    `insert into task (contact_id, title, due_at, assignee, made_at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, title text, due_at timestamptz, assignee text, made_at timestamptz, ledger_id bigint)`,
    made.flatMap(({ contact, effect, makes }) =>
      makes.what === 'task'
        ? [
            {
              contact_id: contact,
              title: makes.title,
              due_at: iso(makes.due),
              assignee: makes.for,
              made_at: iso(effect.at),
              ledger_id: ids.get(effect),
            },
          ]
        : [],
    ),
  );
  await withRows(
    sql,
    `insert into notice (contact_id, text, recipient, made_at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, text text, recipient text, made_at timestamptz, ledger_id bigint)`,
    made.flatMap(({ contact, effect, makes }) =>
      makes.what === 'notice'
        ? [{ contact_id: contact, text: makes.text, recipient: makes.to, made_at: iso(effect.at), ledger_id: ids.get(effect) }]
        : [],
    ),
  );
}
