import {
  localDay,
  monthDay,
  storageOf,
  wordsOf,
  type Catalogue,
  type Effect,
  type Fact,
  type KeptScore,
  type StatePart,
  type SubjectState,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type Latest, type LedgerIds } from './write-ledger';
import { type WorkedSubject } from './worked';

type Worked = readonly WorkedSubject[];

/** The changed keys of one part over all subjects, parted into what is now there and what is gone. */
function changes<Key extends number | string>(worked: Worked, part: StatePart) {
  const put: { state: SubjectState; key: Key }[] = [];
  const gone: { contact_id: number; key: Key }[] = [];
  for (const { state } of worked) {
    for (const key of state.changed[part] as Set<Key>) {
      if ((state[part] as Map<Key, unknown>).has(key)) put.push({ state, key });
      else gone.push({ contact_id: state.id, key });
    }
  }
  return { put, gone };
}

/** One statement over rows, left out where there is none. */
export async function withRows(sql: Sql, text: string, rows: readonly object[]): Promise<void> {
  if (rows.length > 0) await sql.query(text, [JSON.stringify(rows)]);
}

export async function writeFacts(sql: Sql, catalogue: Catalogue, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'facts');
  await withRows(
    sql,
    `delete from contact_fact f using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where f.contact_id = r.contact_id and f.field_id = r.key`,
    gone,
  );
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
  const words = storage === 'text' ? wordsOf(fact as string) : undefined;
  return { folded: fact, words: words === ` ${String(fact)} ` ? undefined : words };
}

export async function writeTags(sql: Sql, worked: Worked, latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'tags');
  await withRows(
    sql,
    `delete from contact_tag_reason t using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where t.contact_id = r.contact_id and t.tag_id = r.key`,
    [...gone, ...put.map(({ state, key }) => ({ contact_id: state.id, key }))],
  );
  await withRows(
    sql,
    `delete from contact_tag t using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where t.contact_id = r.contact_id and t.tag_id = r.key`,
    gone,
  );
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
  await withRows(
    sql,
    `delete from contact_consent k using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key text) where k.contact_id = r.contact_id and k.channel = r.key`,
    gone,
  );
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

const scoreColumns = (score: KeptScore): object => ({
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
  await withRows(
    sql,
    `delete from membership m using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where m.contact_id = r.contact_id and m.definition_id = r.key`,
    gone,
  );
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

export async function writeRules(sql: Sql, worked: Worked): Promise<void> {
  const firings = changes<number>(worked, 'firings');
  await withRows(
    sql,
    `delete from rule_firing f using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where f.contact_id = r.contact_id and f.rule_id = r.key`,
    firings.gone,
  );
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
  await withRows(
    sql,
    `delete from contact_points p using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key text) where p.contact_id = r.contact_id and p.ref = r.key`,
    gone,
  );
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

/** A deal is written by whoever holds it. One that goes over to another holder is not deleted by the old one, whichever of them comes first. */
export async function writeDeals(sql: Sql, worked: Worked): Promise<void> {
  const { put, gone } = changes<number>(worked, 'deals');
  await withRows(
    sql,
    `delete from deal d using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key bigint)
      where d.id = r.key and d.holder_id = r.contact_id and d.next_holder_id is null`,
    gone,
  );
  await withRows(
    sql,
    `update deal d set contact_id = null, company_id = null from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key bigint)
      where d.id = r.key and d.holder_id = r.contact_id`,
    gone,
  );
  await withRows(
    sql,
    `update deal d set holder_id = r.holder_id, next_holder_id = nullif(d.next_holder_id, r.holder_id), contact_id = r.contact_id, company_id = r.company_id, pipeline_id = r.pipeline_id, stage = r.stage, name = r.name,
            amount = r.amount, opened_at = r.opened_at, moved_at = r.moved_at, facts = r.facts, details = r.details
       from jsonb_to_recordset($1::jsonb) as r(id bigint, holder_id bigint, contact_id bigint, company_id bigint, pipeline_id int, stage text, name text, amount bigint,
            opened_at timestamptz, moved_at timestamptz, facts jsonb, details jsonb) where d.id = r.id`,
    put.flatMap(({ state, key }) => {
      const deal = state.deals.get(key);
      if (!deal) return [];
      return [
        {
          id: deal.id,
          holder_id: state.id,
          contact_id: state.kind === 'contact' ? state.id : null,
          company_id: deal.company ?? null,
          pipeline_id: deal.pipeline,
          stage: deal.stage,
          name: deal.name,
          amount: deal.amount ?? null,
          opened_at: iso(deal.opened),
          moved_at: iso(deal.moved),
          facts: Object.fromEntries(deal.facts),
          details: state.dealDetails.get(key) ?? {},
        },
      ];
    }),
  );
  const scores = changes<string>(worked, 'dealScores');
  await withRows(
    sql,
    `delete from deal_score s using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key text)
      where s.holder_id = r.contact_id and s.deal_id = split_part(r.key, ':', 1)::bigint and s.scorecard_id = split_part(r.key, ':', 2)::int`,
    scores.gone,
  );
  await withRows(
    sql,
    `insert into deal_score (holder_id, deal_id, scorecard_id, points, band, band_since, exact_until)
     select * from jsonb_to_recordset($1::jsonb) as r(holder_id bigint, deal_id bigint, scorecard_id int, points bigint, band text, band_since timestamptz, exact_until timestamptz)
     on conflict (holder_id, deal_id, scorecard_id) do update set points = excluded.points, band = excluded.band, band_since = excluded.band_since, exact_until = excluded.exact_until`,
    scores.put.flatMap(({ state, key }) => {
      const score = state.dealScores.get(key);
      const [deal, card] = key.split(':').map(Number);
      return score ? [{ holder_id: state.id, deal_id: deal, scorecard_id: card, ...scoreColumns(score) }] : [];
    }),
  );
}

/** Tasks and notices that rules made. */
export async function writeMade(sql: Sql, worked: Worked, ids: LedgerIds): Promise<void> {
  const made = worked.flatMap(({ state, effects }) =>
    effects.flatMap((effect: Effect) => (effect.makes ? [{ contact: state.id, effect, makes: effect.makes }] : [])),
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
