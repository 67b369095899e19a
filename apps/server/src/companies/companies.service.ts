import { Injectable } from '@nestjs/common';
import { choicesOf, domainOf, fold, Moment, speaksForCompany, type Catalogue } from '@eager-sieve/core';
import {
  type CompaniesAnswer,
  type CompaniesQuery,
  type CompanyRow,
  type CompanySuggestion,
  type CompanyView,
  type FoundCompanies,
  type PutCompanies,
  type PutCompaniesAnswer,
} from '@eager-sieve/contracts';
import { fieldViews, scoreViews } from '../contacts/contact-view';
import { dealViews } from '../contacts/contacts.service';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { EditsService, type EditCause } from '../engine/edits.service';
import { loadStates, NOTHING_MORE } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { branchesOf } from './branches';
import { prepareCompanies } from './prepare-companies';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
const SHOWN_PEOPLE = 500;
/** As the index on it has it. */
const EMAIL_DOMAIN = `reverse(split_part(reverse(c.email_folded), '@', 1))`;

interface FoundCompany {
  readonly id: number;
  readonly lane: number;
  readonly uid: string;
  readonly outside_id: string;
  readonly name: string;
}

@Injectable()
export class CompaniesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
  ) {}

  /** Makes or changes companies, and waits until that has been worked. */
  async put(request: PutCompanies, cause: EditCause): Promise<PutCompaniesAnswer> {
    const results = await this.edits.submit(cause, (context) => prepareCompanies(context, request, cause));
    return { results: results.map(({ uid, ...result }) => ({ ...result, company: uid })) };
  }

  /** @param named the id, or the outside id */
  async find(sql: Sql, named: string): Promise<FoundCompany> {
    const by = UUID.test(named) ? 'uid = $1::uuid' : 'outside_id = $1';
    const [row] = await sql.query<FoundCompany>(`select id, lane, uid, outside_id, name from company where ${by}`, [named]);
    if (!row) throw notFound('company');
    return row;
  }

  async view(named: string): Promise<CompanyView> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const row = await this.find(sql, named);
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const state = (await loadStates(sql, catalogue, [row.id], compiled.needs)).get(row.id);
      if (!state) throw notFound('company');
      const moment = new Moment(Math.max(this.clock.now(), state.lastNow), catalogue.zone);
      const people = await peopleOf(sql, catalogue, row.id);
      return {
        id: row.uid,
        outsideId: row.outside_id,
        name: row.name || row.outside_id,
        fields: fieldViews(catalogue, state, 'company'),
        scores: scoreViews(compiled, state, moment),
        contacts: await countOf(sql, row.id),
        people,
        parts: await partsOf(sql, catalogue, row.id),
        ...(await branchesOf(sql, catalogue, row)),
        deals: await dealViews(sql, catalogue, await withContactsDeals(sql, compiled.catalogue, state)),
        audiences: [...state.memberships].flatMap(([id, membership]) => {
          const audience = catalogue.get('audience', id);
          return audience ? [{ key: audience.key, name: audience.name, since: iso(membership.since) }] : [];
        }),
      };
    });
  }

  /** By name. */
  async list({ search, limit, after }: CompaniesQuery): Promise<CompaniesAnswer> {
    const { compiled } = await this.store.current(this.database);
    const [behind, id] = readCursor(after, ['text', 'id']) ?? [];
    const rows = await this.database.query<{ id: number; key: string }>(
      `select c.id, c.name_folded as key from company c
        where c.last_now is not null and ($1::text is null or position($1::text in c.name_folded) > 0 or position($1::text in lower(c.outside_id)) > 0)
          and ($2::text is null or (c.name_folded, c.id) > ($2::text, $3::bigint))
        order by c.name_folded, c.id limit $4`,
      [fold(search ?? '') || null, behind ?? null, id ?? null, limit],
    );
    const last = rows.length === limit ? rows.at(-1) : undefined;
    const companies = await this.rows(
      this.database,
      compiled.catalogue,
      rows.map((row) => row.id),
    );
    return { companies, after: last ? cursorOf(String(last.key), last.id) : null };
  }

  /** Which companies go by these outside ids or names. */
  async known(named: readonly string[]): Promise<FoundCompanies> {
    const asked = [...new Set(named)];
    const rows = await this.database.query<{ written: string; uid: string; name: string }>(
      `select n.written, c.uid, coalesce(nullif(c.name, ''), c.outside_id) as name from unnest($1::text[], $2::text[]) n(written, folded)
         cross join lateral (
           select k.uid, k.name, k.outside_id from company k where k.outside_id = n.written and k.last_now is not null
           union all
           select k.uid, k.name, k.outside_id from company k
            where (nullif(k.name_folded, '') collate "C") = n.folded and k.last_now is not null
              and not exists (select 1 from company o where o.outside_id = n.written and o.last_now is not null)
           limit 2) c`,
      [asked, asked.map(fold)],
    );
    const found = new Map(rows.map((row) => [row.written, row]));
    const several = new Set(rows.filter((row) => found.get(row.written) !== row).map((row) => row.written));
    return {
      known: [...found.values()].flatMap(({ written, uid: id, name }) => (several.has(written) ? [] : [{ named: written, id, name }])),
      unknown: asked.filter((each) => !found.has(each)),
      several: [...several],
    };
  }

  /** The company of nearly all others whose addresses are at the same domain, if there is one. */
  async suggest(contact: { readonly id: number; readonly email: string | null }): Promise<CompanySuggestion> {
    if (contact.email === null) return { suggested: null };
    const domain = domainOf(fold(contact.email));
    const rows = await this.database.query<{ company_id: number | null; n: number }>(
      `select c.company_id, count(*)::int as n from contact c
        where ${EMAIL_DOMAIN} = $1 and c.id <> $2 and c.last_now is not null and c.merged_into is null group by c.company_id order by n desc`,
      [domain, contact.id],
    );
    const linked = rows.filter((row) => row.company_id !== null);
    const [most] = linked;
    const sum = (of: readonly { readonly n: number }[]): number => of.reduce((total, { n }) => total + n, 0);
    if (!most || !speaksForCompany({ all: sum(rows), linked: sum(linked), together: most.n })) return { suggested: null };
    const [company] = await this.database.query<FoundCompany>('select uid, outside_id, name from company where id = $1', [most.company_id]);
    if (!company) return { suggested: null };
    const { uid: id, outside_id: outsideId, name } = company;
    return { suggested: { id, outsideId, name: name || outsideId, domain, people: most.n } };
  }

  /** What tables show of companies, in the order of the ids. */
  async rows(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<CompanyRow[]> {
    if (ids.length === 0) return [];
    const { compiled } = await this.store.current(sql);
    const states = await loadStates(sql, catalogue, ids, { ...compiled.needs, contactsOfCompanies: false });
    const rows = await sql.query<FoundCompany & { contacts: number }>(
      `select c.id, c.uid, c.outside_id, c.name, c.lane,
              (select count(*) from contact k where k.company_id = c.id and k.merged_into is null and k.last_now is not null) as contacts
         from company c where c.id = any($1::bigint[])`,
      [ids],
    );
    const byId = new Map(rows.map((row) => [row.id, row]));
    return ids.flatMap((id): CompanyRow[] => {
      const row = byId.get(id);
      const state = states.get(id);
      if (!row || !state) return [];
      const scores = [...state.scores].flatMap(([card, kept]) => {
        const definition = catalogue.get('scorecard', card);
        if (!definition || definition.retired) return [];
        const bandName = definition.body.bands.find((band) => band.key === kept.band)?.name ?? kept.band;
        return [{ key: definition.key, name: definition.name, points: kept.points / 1_000, band: kept.band, bandName }];
      });
      return [
        {
          id: row.uid,
          outsideId: row.outside_id,
          name: row.name || row.outside_id,
          fields: fieldViews(catalogue, state, 'company'),
          scores,
          contacts: row.contacts,
        },
      ];
    });
  }
}

const IN_COMPANY = 'c.company_id = $1 and c.last_now is not null and c.merged_into is null';

async function countOf(sql: Sql, companyId: number): Promise<number> {
  const [row] = await sql.query<{ n: number }>(`select count(*)::int as n from contact c where ${IN_COMPANY}`, [companyId]);
  return row?.n ?? 0;
}

async function partsOf(sql: Sql, catalogue: Catalogue, companyId: number): Promise<CompanyView['parts']> {
  const part = catalogue.find('field', 'part');
  const rows = await sql.query<{ part: string; n: number }>(
    `select f.folded as part, count(*)::int as n from contact c join contact_fact f on f.contact_id = c.id and f.field_id = $2
      where ${IN_COMPANY} group by f.folded`,
    [companyId, part?.id ?? -1],
  );
  const counts = new Map(rows.map((row) => [row.part, row.n]));
  return choicesOf(part?.body ?? {}).map(({ key, name }) => ({ key, name, people: counts.get(key) ?? 0 }));
}

async function peopleOf(sql: Sql, catalogue: Catalogue, companyId: number): Promise<CompanyView['people']> {
  const part = catalogue.find('field', 'part');
  const rows = await sql.query<{ uid: string; name: string; email: string | null; part: string | null }>(
    `select c.uid, c.name, c.email, f.folded as part from contact c left join contact_fact f on f.contact_id = c.id and f.field_id = $2
      where ${IN_COMPANY} order by c.name_folded, c.id limit $3`,
    [companyId, part?.id ?? -1, SHOWN_PEOPLE],
  );
  return rows.map((row) => ({
    id: row.uid,
    name: row.name || row.email || 'someone unnamed',
    email: row.email,
    part: part?.body.options?.find((option) => option.key === row.part)?.name ?? null,
  }));
}

/** Adds the deals of a company that its contacts hold. */
async function withContactsDeals(sql: Sql, catalogue: Catalogue, state: Parameters<typeof dealViews>[2]): Promise<typeof state> {
  const rows = await sql.query<{ holder_id: number }>('select distinct holder_id from deal where company_id = $1 and holder_id <> $1', [
    state.id,
  ]);
  if (rows.length === 0) return state;
  const holders = await loadStates(
    sql,
    catalogue,
    rows.map((row) => row.holder_id),
    NOTHING_MORE,
  );
  for (const holder of holders.values()) {
    for (const [id, deal] of holder.deals) if (deal.company === state.id) state.deals.set(id, deal);
    for (const [key, score] of holder.dealScores) state.dealScores.set(key, score);
  }
  return state;
}
