import { detailsOfDeal, localDay, monthDay, startOfDay, storageOf, type Catalogue } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { dealOf, type StoredDeal } from './parts/deals';

const AT_ONCE = 5_000;

/**
 * Writes the local days that are kept beside instants anew, after the zone of the workspace has changed: of signals and of date-time fields.
 * SQL does no arithmetic of zones, so the days are worked out here.
 */
export async function rewriteLocalDays(sql: Sql, catalogue: Catalogue): Promise<void> {
  const { zone } = catalogue;
  const [range] = await sql.query<{ first: Date | null; last: Date | null }>('select min(time) as first, max(time) as last from signal');
  if (range?.first && range.last) {
    const days: number[] = [];
    for (let day = localDay(range.first.getTime(), zone); day <= localDay(range.last.getTime(), zone); day += 1) days.push(day);
    await sql.query(
      `update signal s set day = r.day from unnest($1::timestamptz[], $2::timestamptz[], $3::int[]) as r(first, next, day)
        where s.time >= r.first and s.time < r.next and s.day <> r.day`,
      [days.map((day) => iso(startOfDay(day, zone))), days.map((day) => iso(startOfDay(day + 1, zone))), days],
    );
  }
  const instants = catalogue.all('field').filter((field) => storageOf[field.body.type] === 'instant');
  let after = [0, 0];
  for (;;) {
    const rows = await sql.query<{ contact_id: number; field_id: number; number: number }>(
      `select contact_id, field_id, number from contact_fact
        where field_id = any($1::int[]) and (contact_id, field_id) > ($2::bigint, $3::int) order by contact_id, field_id limit $4`,
      [instants.map((field) => field.id), ...after, AT_ONCE],
    );
    await sql.query(
      `update contact_fact f set month_day = r.md from unnest($1::bigint[], $2::int[], $3::smallint[]) as r(contact_id, field_id, md)
        where f.contact_id = r.contact_id and f.field_id = r.field_id and f.month_day is distinct from r.md`,
      [rows.map((row) => row.contact_id), rows.map((row) => row.field_id), rows.map((row) => monthDay(localDay(row.number, zone)))],
    );
    const last = rows.at(-1);
    if (!last || rows.length < AT_ONCE) return;
    after = [last.contact_id, last.field_id];
  }
}

/** Rewrites the stored details of deals after a stage's meaning or a field changed. */
export async function rewriteDeals(sql: Sql, catalogue: Catalogue): Promise<void> {
  const rows = await sql.query<StoredDeal>(
    `select id, outside_id, company_id, pipeline_id, stage, name, amount, opened_at, moved_at, facts from deal where coalesce(contact_id, company_id) is not null`,
  );
  const details = rows.map((row) => JSON.stringify(detailsOfDeal(dealOf(row), catalogue)));
  await sql.query(
    'update deal d set details = r.details::jsonb from unnest($1::bigint[], $2::text[]) as r(id, details) where d.id = r.id',
    [rows.map((row) => row.id), details],
  );
}
