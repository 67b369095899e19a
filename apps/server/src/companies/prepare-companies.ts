import { bad, good, laneOf, PARENT_COMPANY, type Catalogue, type Checked, type Fault } from '@eager-sieve/core';
import { type CompanyChange, type PutCompanies } from '@eager-sieve/contracts';
import { v7 as uuidV7 } from 'uuid';
import { companiesByOutsideId } from '../contacts/prepare-contacts';
import { readSentFields } from '../contacts/sent-fields';
import { readSentLists } from '../contacts/sent-lists';
import { unshared } from '../contacts/unique-values';
import { type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { parentFaults } from './branches';
import { rejected, type EditCause, type EditContext, type EditResult, type PreparedEdits } from '../engine/edits.service';
import { type EditPayload, type InboxEntry } from '../engine/inbox';

/** Reads what is sent of companies, finds those that are here and makes those that are new. */
export async function prepareCompanies(
  { sql, catalogue, now }: EditContext,
  request: PutCompanies,
  cause: EditCause,
): Promise<PreparedEdits> {
  const wrong = await parentFaults(
    sql,
    catalogue,
    request.companies.map((item) => ({ outsideId: item.value?.outsideId, parent: item.value?.fields?.[PARENT_COMPANY] })),
  );
  const read = request.companies.map((item, at) => {
    if (item.faults) return { outsideId: undefined, edit: {}, faults: item.faults };
    const { outsideId, name, fields, lists } = item.value;
    const sent = { fields: { ...fields, ...(name === undefined ? {} : { 'company-name': name }) }, lists };
    const { edit, faults } = readCompany(sent, catalogue);
    const parent = wrong.get(at);
    return { outsideId, edit, faults: parent ? [...faults, parent] : faults };
  });
  const { prepared, entries } = await unshared(sql, catalogue, 'company', async (faultsOf) => {
    const good = read.flatMap(({ outsideId, faults }, at) =>
      outsideId !== undefined && faults.length === 0 && !faultsOf.has(at) ? [outsideId] : [],
    );
    const { companies, made } = await resolveCompanies(sql, [...new Set(good)], now);
    const items: number[] = [];
    const edits: InboxEntry[] = [];
    const results = read.map(({ outsideId, faults: own, edit }, index): EditResult => {
      const faults = faultsOf.get(index) ?? own;
      const company = outsideId === undefined ? undefined : companies.get(outsideId);
      if (faults.length > 0 || !company) return rejected(index, faults);
      const isNew = made.delete(company.id);
      const about = { index, uid: company.uid, subject: company.id };
      if (!isNew && request.onExisting === 'skip') return { ...about, status: 'skipped' };
      items.push(index);
      edits.push({ kind: 'edit', contactId: company.id, lane: company.lane, payload: { cause, ...edit } });
      return { ...about, status: isNew ? 'created' : 'updated' };
    });
    return { prepared: results, entries: edits, items };
  });
  return { entries, results: prepared };
}

/** Reads what is to be changed of a company, and says everything that is wrong with it. */
function readCompany(
  { fields, lists }: CompanyChange,
  catalogue: Catalogue,
): { readonly edit: Pick<EditPayload, 'fields' | 'lists'>; readonly faults: readonly Fault[] } {
  const sent = readSentFields(fields ?? {}, 'company', catalogue);
  const on = readSentLists(lists, 'company', catalogue);
  const values = Object.fromEntries(sent.fields.map(({ id, value }) => [id, value]));
  return { edit: { fields: values, ...(on.lists ? { lists: on.lists } : {}) }, faults: [...sent.faults, ...on.faults] };
}

/** What tells one company from another, so that many cannot have it alike. */
const NOT_ALIKE: readonly string[] = ['company-name', PARENT_COMPANY];

/** Checks a change that is made to many companies alike. */
export function readCompanyChange(change: CompanyChange, catalogue: Catalogue): Checked<Pick<EditPayload, 'fields' | 'lists'>> {
  const { edit, faults } = readCompany(change, catalogue);
  const own = Object.keys(change.fields ?? {}).flatMap((key): Fault[] =>
    NOT_ALIKE.includes(key)
      ? [{ path: ['fields', key], code: 'field.own', expected: 'a change on the page of each company: many cannot have it alike' }]
      : [],
  );
  return faults.length + own.length > 0 ? bad(...faults, ...own) : good(edit);
}

/** Finds companies by their outside ids and makes those that are new. */
async function resolveCompanies(sql: Sql, outsideIds: readonly string[], now: number) {
  const companies = new Map((await companiesByOutsideId(sql, outsideIds)).map((row) => [row.outside_id, row]));
  const missing = outsideIds.filter((outsideId) => !companies.has(outsideId)).sort();
  const made = new Set<number>();
  if (missing.length === 0) return { companies, made };
  // Contacts and companies share one sequence of ids.
  const ids = await sql.query<{ id: number }>(`select nextval('contact_id_seq') as id from generate_series(1, $1::int)`, [missing.length]);
  const rows = await sql.query<{ id: number }>(
    `insert into company (id, uid, lane, outside_id, made_at)
     select id, uid, lane, outside_id, $2 from jsonb_to_recordset($1::jsonb) as r(id bigint, uid uuid, lane smallint, outside_id text)
     on conflict do nothing returning id`,
    [
      JSON.stringify(
        missing.map((outsideId, index) => {
          const id = Number(ids[index]?.id);
          return { id, uid: uuidV7({ msecs: now }), lane: laneOf(id), outside_id: outsideId };
        }),
      ),
      iso(now),
    ],
  );
  for (const row of rows) made.add(row.id);
  for (const row of await companiesByOutsideId(sql, missing)) companies.set(row.outside_id, row);
  return { companies, made };
}
