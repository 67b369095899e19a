import { PARENT_COMPANY, type Catalogue, type Fault } from '@eager-sieve/core';
import { type CompanyView } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';

const SHOWN = 500;
/** Further up or down nobody looks: of companies that are parts of each other, walking would not end. */
const MOST_LEVELS = 20;

const fieldOf = (catalogue: Catalogue): number => catalogue.find('field', PARENT_COMPANY)?.id ?? -1;
const CONTACTS = `(select count(*)::int from contact k where k.company_id = c.id and k.merged_into is null and k.last_now is not null)`;

/** What a company is part of, and what is part of it. */
export async function branchesOf(
  sql: Sql,
  catalogue: Catalogue,
  company: { readonly id: number; readonly outside_id: string },
): Promise<Pick<CompanyView, 'parent' | 'branches' | 'together'>> {
  const field = fieldOf(catalogue);
  const [parent] = await sql.query<{ id: string; name: string }>(
    `select c.uid as id, coalesce(nullif(c.name, ''), c.outside_id) as name
       from contact_fact f join company c on c.outside_id = f.shown where f.contact_id = $1 and f.field_id = $2`,
    [company.id, field],
  );
  const branches = await sql.query<{ id: string; name: string; contacts: number }>(
    `select c.uid as id, coalesce(nullif(c.name, ''), c.outside_id) as name, ${CONTACTS} as contacts
       from contact_fact f join company c on c.id = f.contact_id
      where f.field_id = $1 and f.shown = $2 order by c.name_folded, c.id limit ${SHOWN}`,
    [field, company.outside_id],
  );
  const [row] = await sql.query<{ together: number }>(
    `with recursive part(id, outside_id, level) as (
       select c.id, c.outside_id, 0 from company c where c.id = $1
       union
       select c.id, c.outside_id, p.level + 1 from part p
         join contact_fact f on f.field_id = $2 and f.shown = p.outside_id
         join company c on c.id = f.contact_id where p.level < ${MOST_LEVELS})
     select coalesce(sum(${CONTACTS}), 0)::int as together from (select distinct id from part) c`,
    [company.id, field],
  );
  return { parent: parent ?? null, branches, together: row?.together ?? 0 };
}

/** What is wrong with the parents that are sent of companies: one that there is not, or that is a branch of the company itself. */
export async function parentFaults(
  sql: Sql,
  catalogue: Catalogue,
  sent: readonly { readonly outsideId: string | undefined; readonly parent: unknown }[],
): Promise<ReadonlyMap<number, Fault>> {
  /** undefined where one is taken away */
  const parents = new Map(
    sent.flatMap(({ outsideId, parent }) =>
      outsideId === undefined || parent === undefined ? [] : [[outsideId, String(parent ?? '').trim() || undefined] as const],
    ),
  );
  if (parents.size === 0) return new Map();
  // What is sent counts before what is kept, from each of the parents upwards.
  const rows = await sql.query<{ outside_id: string; parent: string | null }>(
    `with recursive up(id, outside_id, parent, level) as (
       select c.id, c.outside_id, f.shown, 0 from company c left join contact_fact f on f.contact_id = c.id and f.field_id = $2
        where c.outside_id = any($1::text[])
       union
       select c.id, c.outside_id, f.shown, u.level + 1 from up u join company c on c.outside_id = u.parent
         left join contact_fact f on f.contact_id = c.id and f.field_id = $2 where u.level < ${MOST_LEVELS})
     select distinct outside_id, parent from up`,
    [[...new Set(parents.values())].flatMap((each) => each ?? []), fieldOf(catalogue)],
  );
  const kept = new Map(rows.map((row) => [row.outside_id, row.parent]));
  const known = new Set([...kept.keys(), ...sent.flatMap(({ outsideId }) => outsideId ?? [])]);
  const faults = new Map<number, Fault>();
  sent.forEach(({ outsideId }, at) => {
    const parent = outsideId === undefined ? undefined : parents.get(outsideId);
    if (outsideId === undefined || parent === undefined) return;
    const path = ['fields', PARENT_COMPANY];
    if (!known.has(parent)) faults.set(at, { path, code: 'company.unknown', expected: 'the outside id of a company that exists' });
    else if (leadsTo(outsideId, parent, (each) => (parents.has(each) ? parents.get(each) : (kept.get(each) ?? undefined))))
      faults.set(at, { path, code: 'company.circle', expected: 'a company that is not itself a branch of this one' });
  });
  return faults;
}

function leadsTo(wanted: string, from: string, parentOf: (outsideId: string) => string | undefined): boolean {
  const seen = new Set<string>();
  for (let at: string | undefined = from; at !== undefined && !seen.has(at); at = parentOf(at)) {
    if (at === wanted) return true;
    seen.add(at);
  }
  return false;
}
