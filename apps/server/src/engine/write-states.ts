import {
  displayName,
  storageOf,
  wordsOf,
  type Catalogue,
  type ContactState,
  type Effect,
  type Fact,
  type StatePart,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';

export interface WorkedContact {
  readonly state: ContactState;
  readonly lane: number;
  readonly effects: readonly Effect[];
}

/** Ids of the ledger, one for each effect. */
export type LedgerIds = ReadonlyMap<Effect, number>;

/** Writes down what passes changed, set-based: a few statements a table, however many contacts there are. */
export async function writeStates(sql: Sql, catalogue: Catalogue, epoch: number, worked: readonly WorkedContact[]): Promise<LedgerIds> {
  const ids = await writeLedger(sql, epoch, worked);
  const latest = latestEffects(worked, ids);
  await writeFacts(sql, catalogue, worked, latest);
  await writeTags(sql, worked, latest, ids);
  await writeConsent(sql, worked, latest);
  await writeScores(sql, worked);
  await writeMemberships(sql, worked, latest, ids);
  await writeRules(sql, worked);
  await writeContacts(sql, catalogue, worked);
  await writeDue(sql, worked);
  for (const { state } of worked) for (const part of Object.values(state.changed)) part.clear();
  return ids;
}

/** `kind thing contact` → the id of the last effect on it. */
type Latest = ReadonlyMap<string, number>;

function latestEffects(worked: readonly WorkedContact[], ids: LedgerIds): Latest {
  const latest = new Map<string, number>();
  for (const { state, effects } of worked) {
    for (const effect of effects)
      latest.set(`${effect.kind} ${effect.thing ?? effect.channel ?? ''} ${state.id}`, ids.get(effect) as number);
  }
  return latest;
}

async function writeLedger(sql: Sql, epoch: number, worked: readonly WorkedContact[]): Promise<LedgerIds> {
  const all = worked.flatMap(({ state, effects }) => effects.map((effect) => ({ contact: state.id, effect })));
  const ids = new Map<Effect, number>();
  if (all.length === 0) return ids;
  const fresh = await sql.query<{ id: number }>(`select nextval('ledger_id_seq') as id from generate_series(1, $1::int)`, [all.length]);
  all.forEach(({ effect }, index) => ids.set(effect, Number(fresh[index]?.id)));
  await sql.query(
    `insert into ledger (id, contact_id, at, epoch, kind, verb, thing, channel, before, after, cause_kind, cause_ref, rule_id, rule_version, parent, via)
     select id, contact_id, at, $2, kind, verb, thing, channel, before, after, cause_kind, cause_ref, rule_id, rule_version, parent, via
       from jsonb_to_recordset($1::jsonb) as r(id bigint, contact_id bigint, at timestamptz, kind text, verb text, thing int, channel text, before jsonb, after jsonb,
            cause_kind text, cause_ref text, rule_id int, rule_version int, parent bigint, via text)`,
    [
      JSON.stringify(
        all.map(({ contact, effect }) => ({
          id: ids.get(effect),
          contact_id: contact,
          at: iso(effect.at),
          kind: effect.kind,
          verb: effect.verb,
          thing: effect.thing,
          channel: effect.channel,
          before: effect.before,
          after: effect.after,
          cause_kind: effect.cause.kind,
          cause_ref: effect.cause.kind === 'signal' ? String(effect.cause.signalId) : 'ref' in effect.cause ? effect.cause.ref : null,
          rule_id: effect.rule?.id,
          rule_version: effect.rule?.version,
          parent: effect.parent && ids.get(effect.parent),
          via: effect.via,
        })),
      ),
      epoch,
    ],
  );
  const personal = all.filter(({ effect }) => effect.personal);
  if (personal.length > 0) {
    await sql.query(
      `insert into ledger_value (contact_id, ledger_id, before, after)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, ledger_id bigint, before jsonb, after jsonb)`,
      [JSON.stringify(personal.map(({ contact, effect }) => ({ contact_id: contact, ledger_id: ids.get(effect), ...effect.personal })))],
    );
  }
  return ids;
}

/** The changed keys of one part over all contacts, parted into what is now there and what is gone. */
function changes<Key extends number | string>(worked: readonly WorkedContact[], part: StatePart) {
  const put: { state: ContactState; key: Key }[] = [];
  const gone: { contact_id: number; key: Key }[] = [];
  for (const { state } of worked) {
    for (const key of state.changed[part] as Set<Key>) {
      if ((state[part] as Map<Key, unknown>).has(key)) put.push({ state, key });
      else gone.push({ contact_id: state.id, key });
    }
  }
  return { put, gone };
}

async function writeFacts(sql: Sql, catalogue: Catalogue, worked: readonly WorkedContact[], latest: Latest): Promise<void> {
  const { put, gone } = changes<number>(worked, 'facts');
  if (gone.length > 0) {
    await sql.query(
      `delete from contact_fact f using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where f.contact_id = r.contact_id and f.field_id = r.key`,
      [JSON.stringify(gone)],
    );
  }
  if (put.length === 0) return;
  await sql.query(
    `insert into contact_fact (contact_id, field_id, shown, folded, words, number, choices, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, field_id int, shown text, folded text, words text, number bigint, choices text[], ledger_id bigint)
     on conflict (contact_id, field_id) do update set shown = excluded.shown, folded = excluded.folded, words = excluded.words, number = excluded.number, choices = excluded.choices, ledger_id = excluded.ledger_id`,
    [
      JSON.stringify(
        put.map(({ state, key }) => ({
          contact_id: state.id,
          field_id: key,
          shown: state.shown.get(key) ?? null,
          ...factColumns(catalogue, key, state.facts.get(key) as Fact),
          ledger_id: latest.get(`field ${key} ${state.id}`),
        })),
      ),
    ],
  );
}

function factColumns(catalogue: Catalogue, field: number, fact: Fact): Record<string, unknown> {
  const body = catalogue.body('field', field);
  const storage = body ? storageOf[body.type] : 'text';
  if (storage === 'choices') return { choices: fact };
  if (typeof fact === 'number') return { number: fact };
  const words = storage === 'text' ? wordsOf(fact as string) : undefined;
  return { folded: fact, words: words === ` ${String(fact)} ` ? undefined : words };
}

async function writeTags(sql: Sql, worked: readonly WorkedContact[], latest: Latest, ids: LedgerIds): Promise<void> {
  const { put, gone } = changes<number>(worked, 'tags');
  if (gone.length + put.length === 0) return;
  const touched = [...gone, ...put.map(({ state, key }) => ({ contact_id: state.id, key }))];
  await sql.query(
    `delete from contact_tag_reason t using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where t.contact_id = r.contact_id and t.tag_id = r.key`,
    [JSON.stringify(touched)],
  );
  await sql.query(
    `delete from contact_tag t using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where t.contact_id = r.contact_id and t.tag_id = r.key`,
    [JSON.stringify(gone)],
  );
  await sql.query(
    `insert into contact_tag (contact_id, tag_id, since, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, since timestamptz, ledger_id bigint)
     on conflict (contact_id, tag_id) do update set since = excluded.since, ledger_id = coalesce(excluded.ledger_id, contact_tag.ledger_id)`,
    [
      JSON.stringify(
        put.map(({ state, key }) => ({
          contact_id: state.id,
          tag_id: key,
          since: iso(state.tags.get(key)?.since ?? 0),
          ledger_id: latest.get(`tag ${key} ${state.id}`),
        })),
      ),
    ],
  );
  await sql.query(
    `insert into contact_tag_reason (contact_id, tag_id, kind, ref)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, tag_id int, kind text, ref text)`,
    [
      JSON.stringify(
        put.flatMap(({ state, key }) =>
          (state.tags.get(key)?.reasons ?? []).map((reason) => ({ contact_id: state.id, tag_id: key, kind: reason.kind, ref: reason.ref })),
        ),
      ),
    ],
  );
  await writePast(sql, 'contact_tag_past', 'tag_id', stays(worked, ids, 'tag', 'removed'));
}

interface Stay {
  readonly contact_id: number;
  readonly thing: number;
  readonly until: string;
  readonly ledger_id: number | undefined;
}

/** What came to an end in these passes. When it began stands in the ledger. */
function stays(worked: readonly WorkedContact[], ids: LedgerIds, kind: Effect['kind'], ends: Effect['verb']): readonly Stay[] {
  return worked.flatMap(({ state, effects }) =>
    effects
      .filter((effect) => effect.kind === kind && effect.verb === ends)
      .map((effect) => ({ contact_id: state.id, thing: effect.thing as number, until: iso(effect.at), ledger_id: ids.get(effect) })),
  );
}

async function writePast(
  sql: Sql,
  table: 'contact_tag_past' | 'membership_past',
  column: 'tag_id' | 'definition_id',
  ended: readonly Stay[],
): Promise<void> {
  if (ended.length === 0) return;
  const [kind, begins] = table === 'contact_tag_past' ? ['tag', 'added'] : ['membership', 'joined'];
  await sql.query(
    `insert into ${table} (contact_id, ${column}, since, until, ledger_id)
     select r.contact_id, r.thing, coalesce(b.at, r.until), r.until, r.ledger_id
       from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, thing int, until timestamptz, ledger_id bigint)
       left join lateral (
         select l.at from ledger l
          where l.contact_id = r.contact_id and l.kind = '${kind}' and l.verb = '${begins}' and l.thing = r.thing and l.id < r.ledger_id
          order by l.id desc limit 1) b on true`,
    [JSON.stringify(ended)],
  );
}

async function writeConsent(sql: Sql, worked: readonly WorkedContact[], latest: Latest): Promise<void> {
  const { put } = changes<'email' | 'text' | 'chat'>(worked, 'consent');
  if (put.length === 0) return;
  await sql.query(
    `insert into contact_consent (contact_id, channel, state, at, ledger_id)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, channel text, state text, at timestamptz, ledger_id bigint)
     on conflict (contact_id, channel) do update set state = excluded.state, at = excluded.at, ledger_id = coalesce(excluded.ledger_id, contact_consent.ledger_id)`,
    [
      JSON.stringify(
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
      ),
    ],
  );
}

async function writeScores(sql: Sql, worked: readonly WorkedContact[]): Promise<void> {
  const { put } = changes<number>(worked, 'scores');
  if (put.length === 0) return;
  await sql.query(
    `insert into contact_score (contact_id, scorecard_id, points, band, band_since, exact_until)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, scorecard_id int, points bigint, band text, band_since timestamptz, exact_until timestamptz)
     on conflict (contact_id, scorecard_id) do update set points = excluded.points, band = excluded.band, band_since = excluded.band_since, exact_until = excluded.exact_until`,
    [
      JSON.stringify(
        put.flatMap(({ state, key }) => {
          const score = state.scores.get(key);
          if (!score) return [];
          const exactUntil = Number.isFinite(score.exactUntil) ? iso(score.exactUntil) : null;
          return [
            {
              contact_id: state.id,
              scorecard_id: key,
              points: score.points,
              band: score.band,
              band_since: iso(score.bandSince),
              exact_until: exactUntil,
            },
          ];
        }),
      ),
    ],
  );
}

async function writeMemberships(sql: Sql, worked: readonly WorkedContact[], latest: Latest, ids: LedgerIds): Promise<void> {
  const { put, gone } = changes<number>(worked, 'memberships');
  if (gone.length > 0) {
    await sql.query(
      `delete from membership m using jsonb_to_recordset($1::jsonb) as r(contact_id bigint, key int) where m.contact_id = r.contact_id and m.definition_id = r.key`,
      [JSON.stringify(gone)],
    );
  }
  if (put.length > 0) {
    await sql.query(
      `insert into membership (contact_id, definition_id, since, ledger_id)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, definition_id int, since timestamptz, ledger_id bigint)
       on conflict (contact_id, definition_id) do update set since = excluded.since, ledger_id = excluded.ledger_id`,
      [
        JSON.stringify(
          put.map(({ state, key }) => ({
            contact_id: state.id,
            definition_id: key,
            since: iso(state.memberships.get(key)?.since ?? 0),
            ledger_id: latest.get(`membership ${key} ${state.id}`),
          })),
        ),
      ],
    );
  }
  await writePast(sql, 'membership_past', 'definition_id', stays(worked, ids, 'membership', 'left'));
}

async function writeRules(sql: Sql, worked: readonly WorkedContact[]): Promise<void> {
  const firings = changes<number>(worked, 'firings').put;
  if (firings.length > 0) {
    await sql.query(
      `insert into rule_firing (contact_id, rule_id, times, last_at)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, rule_id int, times int, last_at timestamptz)
       on conflict (contact_id, rule_id) do update set times = excluded.times, last_at = excluded.last_at`,
      [
        JSON.stringify(
          firings.map(({ state, key }) => ({
            contact_id: state.id,
            rule_id: key,
            times: state.firings.get(key)?.times,
            last_at: iso(state.firings.get(key)?.lastAt ?? 0),
          })),
        ),
      ],
    );
  }
  const held = changes<number>(worked, 'held').put;
  if (held.length > 0) {
    await sql.query(
      `insert into rule_held (contact_id, rule_id, since) select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, rule_id int, since timestamptz) on conflict do nothing`,
      [JSON.stringify(held.map(({ state, key }) => ({ contact_id: state.id, rule_id: key, since: iso(state.held.get(key) ?? 0) })))],
    );
  }
  const marks = changes<string>(worked, 'marks').put;
  if (marks.length > 0) {
    await sql.query(
      `insert into once_held (contact_id, scorecard_id, line, since)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, scorecard_id int, line text, since timestamptz) on conflict do nothing`,
      [
        JSON.stringify(
          marks.map(({ state, key }) => {
            const [card = '', line = ''] = key.split(':');
            return { contact_id: state.id, scorecard_id: Number(card), line, since: iso(state.marks.get(key) ?? 0) };
          }),
        ),
      ],
    );
  }
}

/** The narrow row: *now*, the tags as an array, and what the tables of contacts show. */
async function writeContacts(sql: Sql, catalogue: Catalogue, worked: readonly WorkedContact[]): Promise<void> {
  const [given, family, email] = (['given-name', 'family-name', 'email'] as const).map((key) => catalogue.find('field', key)?.id ?? -1) as [
    number,
    number,
    number,
  ];
  await sql.query(
    `update contact c set last_now = r.last_now, epoch = r.epoch, tags = r.tags, name = r.name, name_folded = r.name_folded
       from jsonb_to_recordset($1::jsonb) as r(id bigint, last_now timestamptz, epoch bigint, tags int[], name text, name_folded text)
      where c.id = r.id`,
    [
      JSON.stringify(
        worked.map(({ state }) => {
          const shown = (field: number): string | undefined => state.shown.get(field);
          const folded = [state.facts.get(given), state.facts.get(family)].filter(Boolean).join(' ') || state.facts.get(email) || '';
          return {
            id: state.id,
            last_now: iso(state.lastNow),
            epoch: state.epoch,
            tags: [...state.tags.keys()].sort((a, b) => a - b),
            name: displayName(shown(given), shown(family), shown(email)),
            name_folded: String(folded).slice(0, 400),
          };
        }),
      ),
    ],
  );
}

async function writeDue(sql: Sql, worked: readonly WorkedContact[]): Promise<void> {
  await sql.query(`delete from due d where d.contact_id = any($1::bigint[])`, [
    worked.filter(({ state }) => state.dueAt === undefined).map(({ state }) => state.id),
  ]);
  await sql.query(
    `insert into due (contact_id, lane, due_at) select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, lane smallint, due_at timestamptz)
     on conflict (contact_id) do update set due_at = excluded.due_at where due.due_at is distinct from excluded.due_at`,
    [
      JSON.stringify(
        worked.flatMap(({ state, lane }) => (state.dueAt === undefined ? [] : [{ contact_id: state.id, lane, due_at: iso(state.dueAt) }])),
      ),
    ],
  );
}
