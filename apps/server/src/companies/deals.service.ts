import { Injectable } from '@nestjs/common';
import { EXPECTED_CLOSE, moneyText, writeDay } from '@eager-sieve/core';
import {
  type DealBands,
  type DealBoard,
  type DealHistory,
  type DealList,
  type DealListQuery,
  type DealRow,
  type DealSort,
  type PutDeals,
  type PutDealsAnswer,
} from '@eager-sieve/contracts';
import { onlyOwn, ownSql, type Own } from '../contacts/own';
import { Database } from '../database/database';
import { EditsService, type EditCause } from '../engine/edits.service';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
import { causeWords } from '../ledger/words';
import { DefinitionStore } from '../settings/definition-store';
import { prepareDeals } from './prepare-deals';

const SHOWN_OF_STAGE = 100;
const OF_PIPELINE = `deal d left join contact w on w.id = d.contact_id where d.pipeline_id = $1 and ${ownSql('w.owner', 2)}`;

interface BoardRow {
  readonly uid: string;
  readonly outside_id: string;
  readonly name: string;
  readonly stage: string;
  readonly amount: number | null;
  readonly opened_at: Date;
  readonly moved_at: Date;
  readonly closes: number | null;
  readonly owner: string | null;
  readonly contact: string | null;
  readonly contact_name: string | null;
  readonly company: string | null;
  readonly company_name: string | null;
}

/** A deal as it was made or changed. */
interface DealChange {
  readonly at: Date;
  readonly contact_id: number;
  readonly cause_kind: string;
  readonly cause_ref: string | null;
  readonly pipeline: number;
  readonly after: { readonly stage: string; readonly amount: number | null };
}

/** The day by which a deal is expected to close. */
const CLOSES = `(d.facts ->> (select id::text from definition where kind = 'field' and key = '${EXPECTED_CLOSE}'))::int`;
const BOARD_COLUMNS = `${CLOSES} as closes, d.uid, d.outside_id, d.name, d.stage, d.amount, d.opened_at, d.moved_at, c.owner,
  c.uid as contact, coalesce(nullif(c.name, ''), c.email) as contact_name, o.uid as company, coalesce(nullif(o.name, ''), o.outside_id) as company_name`;

const rowOf = (row: BoardRow, currency: string): DealRow => ({
  ...{ id: row.uid, outsideId: row.outside_id, name: row.name, stage: row.stage, owner: row.owner },
  amount: row.amount === null ? null : moneyText(row.amount, currency),
  closes: row.closes === null ? null : writeDay(row.closes),
  opened: row.opened_at.toISOString(),
  moved: row.moved_at.toISOString(),
  ...{ contact: row.contact, contactName: row.contact_name, company: row.company, companyName: row.company_name },
});

/** A text behind a digit, by which whoever has none comes last in any collation. */
const textOf = (sql: string, up: boolean): string =>
  `case when coalesce(${sql}, '') = '' then '${up ? 1 : 0}' else '${up ? 0 : 1}' || ${sql} end`;
const BEYOND = '900000000000000000';

/** What a deal is sorted by, never null, so that pages can begin behind it. */
const SORTED_BY: Readonly<Record<DealSort, { readonly type: 'bigint' | 'text'; readonly sql: (up: boolean) => string }>> = {
  moved: { type: 'bigint', sql: () => '(extract(epoch from d.moved_at) * 1000000)' },
  opened: { type: 'bigint', sql: () => '(extract(epoch from d.opened_at) * 1000000)' },
  amount: { type: 'bigint', sql: (up) => `coalesce(d.amount, ${up ? '' : '-'}${BEYOND})` },
  name: { type: 'text', sql: (up) => textOf(`lower(coalesce(nullif(d.name, ''), d.outside_id))`, up) },
  stage: { type: 'bigint', sql: () => 'coalesce(array_position($4::text[], d.stage), 0)' },
  contact: { type: 'text', sql: (up) => textOf('coalesce(c.name_folded, o.name_folded)', up) },
  owner: { type: 'text', sql: (up) => textOf('c.owner', up) },
  closes: { type: 'bigint', sql: (up) => `coalesce(${CLOSES}, ${up ? '' : '-'}${BEYOND})` },
};

/** Deals. Each has a holder, a contact or else a company, whose passes write it. */
@Injectable()
export class DealsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly edits: EditsService,
  ) {}

  /** The number of deals in each band of a scorecard of deals. */
  async bands(scorecard: string): Promise<DealBands> {
    const { compiled } = await this.store.current(this.database);
    const card = compiled.catalogue.find('scorecard', scorecard);
    if (card?.body.of !== 'deal') throw notFound('scorecard of deals');
    const rows = await this.database.query<{ band: string; n: number }>(
      `select s.band, count(*)::int as n from deal_score s join deal d on d.id = s.deal_id and d.holder_id = s.holder_id
        where s.scorecard_id = $1 group by s.band`,
      [card.id],
    );
    return { of: rows.reduce((sum, row) => sum + row.n, 0), bands: Object.fromEntries(rows.map((row) => [row.band, row.n])) };
  }

  /** The deals of a pipeline by their stages. @param own only those of contacts of theirs */
  async board(key: string, own: Own): Promise<DealBoard> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const pipeline = catalogue.find('pipeline', key);
      if (!pipeline) throw notFound('pipeline');
      const { currency } = catalogue.workspace;
      const sums = await sql.query<{ stage: string; n: number; amount: number }>(
        `select d.stage, count(*)::int as n, coalesce(sum(d.amount), 0)::bigint as amount from ${OF_PIPELINE} group by d.stage`,
        [pipeline.id, own?.owners ?? null],
      );
      const rows = await sql.query<BoardRow>(
        `select ${BOARD_COLUMNS}
           from (select d.*, row_number() over (partition by d.stage order by d.moved_at desc, d.id desc) as place from ${OF_PIPELINE}) d
           left join contact c on c.id = d.contact_id left join company o on o.id = d.company_id
          where d.place <= ${SHOWN_OF_STAGE} order by d.moved_at desc, d.id desc`,
        [pipeline.id, own?.owners ?? null],
      );
      return {
        currency,
        stages: pipeline.body.stages.map((stage) => {
          const sum = sums.find((each) => each.stage === stage.key);
          return { key: stage.key, deals: sum?.n ?? 0, amount: moneyText(sum?.amount ?? 0, currency) };
        }),
        deals: rows.map((row) => rowOf(row, currency)),
      };
    });
  }

  /** The stages that a deal went through. @param id the id of the deal; @param own only of contacts of theirs */
  async history(id: string, own: Own): Promise<DealHistory> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.seen(sql, own)).compiled;
      const [deal] = await sql.query<{ id: number; outside_id: string; holder_id: number }>(
        `select d.id, d.outside_id, d.holder_id from deal d left join contact c on c.id = d.contact_id where d.uid::text = $1 and ${ownSql('c.owner', 2)}`,
        [id.toLowerCase(), own?.owners ?? null],
      );
      if (!deal) throw notFound('deal');
      // Whoever held it before wrote its earlier stages.
      const rows = await sql.query<DealChange>(
        `select l.at, l.contact_id, l.cause_kind, l.cause_ref, l.definition_id as pipeline, coalesce(v.after, l.after) as after
           from ledger l left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
          where l.kind = 'deal' and l.verb in ('added', 'set') and l.channel = $2
            and (l.contact_id = $3 or l.contact_id in (select contact_id from ledger where kind = 'deal' and verb = 'removed' and definition_id is null and channel = $1))
          order by l.id`,
        [String(deal.id), deal.outside_id, deal.holder_id],
      );
      const moves = rows.filter((row, at) => {
        const before = rows[at - 1];
        return before?.pipeline !== row.pipeline || before.after.stage !== row.after.stage;
      });
      const because = await causeWords(sql, catalogue, moves);
      const { currency } = catalogue.workspace;
      return {
        stages: moves.map(({ at, pipeline, after: { stage, amount } }, index) => {
          const definition = catalogue.get('pipeline', pipeline);
          return {
            name: definition?.body.stages.find(({ key }) => key === stage)?.name ?? stage,
            pipeline: definition?.name ?? catalogue.absence(pipeline),
            since: at.toISOString(),
            until: moves[index + 1]?.at.toISOString() ?? null,
            amount: amount === null ? null : moneyText(amount, currency),
            because: because[index] ?? '',
          };
        }),
      };
    });
  }

  /** The deals of a pipeline in an order; who has nothing there comes last. @param own only those of contacts of theirs */
  async list(key: string, { sort, up, stage, limit, after }: DealListQuery, own: Own): Promise<DealList> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const pipeline = catalogue.find('pipeline', key);
    if (!pipeline) throw notFound('pipeline');
    const { currency } = catalogue.workspace;
    const { type, sql } = SORTED_BY[sort];
    const [last, id] = readCursor(after, [type === 'bigint' ? 'whole?' : 'text', 'id']) ?? [];
    const stages = pipeline.body.stages.map((each) => each.key);
    const rows = await this.database.query<BoardRow & { id: number; key: string }>(
      `select * from (
         select d.id, ${BOARD_COLUMNS}, array_position($4::text[], d.stage) as stage_place, ${sql(up)}::${type} as key
           from deal d left join contact c on c.id = d.contact_id left join company o on o.id = d.company_id
          where d.pipeline_id = $1 and ${ownSql('c.owner', 2)} and ($3::text is null or d.stage = $3)) d
        where $5::text is null or (d.key, d.id) ${up ? '>' : '<'} ($5::${type}, $6::bigint)
        order by d.key ${up ? 'asc' : 'desc'}, d.id ${up ? 'asc' : 'desc'} limit $7`,
      [pipeline.id, own?.owners ?? null, stage ?? null, stages, last ?? null, id ?? null, limit + 1],
    );
    const page = rows.slice(0, limit);
    const end = page.at(-1);
    return {
      currency,
      deals: page.map((row) => rowOf(row, currency)),
      after: rows.length > limit && end ? cursorOf(String(end.key), end.id) : null,
    };
  }

  /** What the stages of a pipeline are called, by their keys. */
  async stageWords(key: string): Promise<(stage: string) => string> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const stages = catalogue.find('pipeline', key)?.body.stages ?? [];
    return (stage) => stages.find((each) => each.key === stage)?.name ?? stage;
  }

  /** Makes or changes deals, and waits until that has been worked. */
  async put(request: PutDeals, cause: EditCause, own: Own): Promise<PutDealsAnswer> {
    const results = await this.edits.submit(cause, async (context) => {
      const named = async ({ value }: PutDeals['deals'][number]): Promise<string[]> => {
        const [known] = await context.sql.query<{ contact: string | null }>(
          'select c.uid as contact from deal d left join contact c on c.id = d.contact_id where d.outside_id = $1',
          [value?.outsideId],
        );
        return [...(known ? [known.contact ?? 'nobody'] : []), ...(value?.contact === undefined ? [] : [value.contact])];
      };
      return prepareDeals(context, { ...request, deals: await onlyOwn(context.sql, request.deals, named, own) }, cause);
    });
    return { results: results.map(({ uid, ...result }) => ({ ...result, deal: uid })) };
  }
}
