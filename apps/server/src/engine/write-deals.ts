import { type Sql } from '../database/database';
import { iso } from './clock';
import { changes, withRows, type Worked } from './write-keyed';
import { scoreColumns } from './write-parts';

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
