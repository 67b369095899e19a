import { detailsOfDeal, type Catalogue, type Deal, type Fact } from '@eager-sieve/core';
import { type Sql } from '../../database/database';
import { iso } from '../clock';
import { readingOf } from '../readings';
import { type States, type StoredPart, type Worked } from './part';
import { changes, withRows } from './rows';

/** Deals, stored with their holder. Written by hand, because they can move from holder to holder. */
export const deals: StoredPart = {
  tables: [{ name: 'deal', subject: 'holder_id' }],
  checks: [
    {
      kind: 'deal stage',
      sql: `select d.holder_id as contact_id, null::int as definition_id from deal d
            left join (select distinct on (l.channel) l.channel, l.after->>'stage' as stage from ledger l
                        where l.kind = 'deal' and l.verb <> 'removed' order by l.channel, l.id desc) l on l.channel = d.outside_id
           where d.stage is distinct from l.stage`,
    },
  ],
  readings: (catalogue, states, ids) => [readingOf(COLUMNS, TEXT, [ids], (row: DealRow) => take(row, catalogue, states))],
  write: (sql, _catalogue, worked) => write(sql, worked),
};

/** A deal as it is stored. Instants come as JSON writes them, or as dates. */
export interface StoredDeal {
  id: number;
  outside_id: string;
  company_id: number | null;
  pipeline_id: number;
  stage: string;
  name: string;
  amount: number | null;
  opened_at: string | Date;
  moved_at: string | Date;
  facts: Record<string, Fact>;
}
interface DealRow extends StoredDeal {
  holder_id: number;
  contact_id: number | null;
}

const COLUMNS = [
  'id',
  'outside_id',
  'holder_id',
  'contact_id',
  'company_id',
  'pipeline_id',
  'stage',
  'name',
  'amount',
  'opened_at',
  'moved_at',
  'facts',
] as const satisfies readonly (keyof DealRow)[];

/** The deals that subjects hold; of a company also those that its contacts hold. */
const TEXT = `select ${COLUMNS.join(', ')} from deal
  where (holder_id = any($1::bigint[]) and coalesce(contact_id, company_id) is not null) or company_id = any($1::bigint[]) order by id`;

export const dealOf = (row: StoredDeal): Deal => ({
  id: row.id,
  outsideId: row.outside_id,
  name: row.name,
  pipeline: row.pipeline_id,
  stage: row.stage,
  amount: row.amount ?? undefined,
  company: row.company_id ?? undefined,
  opened: new Date(row.opened_at).getTime(),
  moved: new Date(row.moved_at).getTime(),
  facts: new Map(Object.entries(row.facts).map(([field, fact]) => [Number(field), fact])),
});

function take(row: DealRow, catalogue: Catalogue, states: States): void {
  const deal = dealOf(row);
  const details = detailsOfDeal(deal, catalogue);
  const holder = states.get(row.holder_id);
  holder?.deals.set(deal.id, deal);
  if (holder?.kind === 'contact') holder.dealDetails.set(deal.id, details);
  if (row.company_id !== null) states.get(row.company_id)?.dealDetails.set(deal.id, details);
}

/** A deal that moves to another holder is not deleted by the old one, whichever pass comes first. */
async function write(sql: Sql, worked: Worked): Promise<void> {
  const { put, gone: left } = changes(worked, 'deals');
  const gone = left.map(({ state, key }) => ({ contact_id: state.id, key }));
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
    put.map(({ state, key, value: deal }) => ({
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
    })),
  );
}
