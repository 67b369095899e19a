import { displayName, fold, type Catalogue } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type WorkedSubject } from './worked';

const MAX_NAME_FOLDED = 400;

/** Writes the row of the contact: the instant of its last pass, tags as an array, single values, and what lists show. */
export async function writeContacts(sql: Sql, catalogue: Catalogue, worked: readonly WorkedSubject[]): Promise<void> {
  const contacts = worked.filter(({ state }) => state.kind === 'contact');
  if (contacts.length === 0) return;
  const [given, family, email] = (['given-name', 'family-name', 'email'] as const).map((key) => catalogue.find('field', key)?.id ?? -1) as [
    number,
    number,
    number,
  ];
  await sql.query(
    `update contact c set last_now = r.last_now, epoch = r.epoch, tags = r.tags, name = r.name, name_folded = r.name_folded,
            stage_id = r.stage_id, stage_since = r.stage_since, owner = r.owner, company_id = r.company_id
       from jsonb_to_recordset($1::jsonb) as r(id bigint, last_now timestamptz, epoch bigint, tags int[], name text, name_folded text,
            stage_id int, stage_since timestamptz, owner text, company_id bigint)
      where c.id = r.id`,
    [
      JSON.stringify(
        contacts.map(({ state }) => {
          const shown = (field: number): string | undefined => state.shown.get(field);
          const folded = [state.facts.get(given), state.facts.get(family)].filter(Boolean).join(' ') || state.facts.get(email) || '';
          return {
            id: state.id,
            last_now: iso(state.lastNow),
            epoch: state.epoch,
            tags: [...state.tags.keys()].sort((a, b) => a - b),
            name: displayName(shown(given), shown(family), shown(email)),
            name_folded: String(folded).slice(0, MAX_NAME_FOLDED),
            stage_id: state.stage?.id,
            stage_since: state.stage && iso(state.stage.since),
            owner: state.owner,
            company_id: state.company,
          };
        }),
      ),
    ],
  );
}

export async function writeCompanies(sql: Sql, catalogue: Catalogue, worked: readonly WorkedSubject[]): Promise<void> {
  const companies = worked.filter(({ state }) => state.kind === 'company');
  if (companies.length === 0) return;
  const nameField = catalogue.find('field', 'company-name')?.id ?? -1;
  await sql.query(
    `update company c set last_now = r.last_now, epoch = r.epoch, name = r.name, name_folded = r.name_folded
       from jsonb_to_recordset($1::jsonb) as r(id bigint, last_now timestamptz, epoch bigint, name text, name_folded text) where c.id = r.id`,
    [
      JSON.stringify(
        companies.map(({ state }) => {
          const name = state.shown.get(nameField) ?? '';
          return {
            id: state.id,
            last_now: iso(state.lastNow),
            epoch: state.epoch,
            name,
            name_folded: fold(name).slice(0, MAX_NAME_FOLDED),
          };
        }),
      ),
    ],
  );
}

export async function writeDue(sql: Sql, worked: readonly WorkedSubject[]): Promise<void> {
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
