import { Injectable } from '@nestjs/common';
import { type Catalogue, type Compiled, type Moment, type PreparedColumn, type TableOf } from '@eager-sieve/core';
import { type Cell, type PeopleAnswer, type PersonRow } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { Database, type Sql } from '../database/database';
import { cursorOf } from '../http/page';
import { cellsOf } from './table-columns';

/** What tables show of contacts and companies. */
@Injectable()
export class RowsService {
  constructor(
    private readonly database: Database,
    private readonly companies: CompaniesService,
  ) {}

  /** A page of those whose ids these are; where it is full there may be more. */
  async page(compiled: Compiled, of: 'contact' | 'company', ids: readonly number[], limit: number): Promise<PeopleAnswer> {
    const last = ids.length === limit ? ids.at(-1) : undefined;
    return { ...(await this.of(compiled, of, ids)), after: last === undefined ? null : cursorOf(last) };
  }

  /** What chosen columns say of contacts or companies, beside what every table says of them. */
  async withCells(
    answer: PeopleAnswer,
    { catalogue }: Compiled,
    columns: readonly PreparedColumn[],
    moment: Moment,
    of: TableOf,
  ): Promise<PeopleAnswer> {
    const ids = (of === 'company' ? (answer.companies ?? []) : answer.contacts).map(({ id }) => id);
    const cells: ReadonlyMap<string, readonly Cell[]> = await cellsOf(this.database, ids, columns, { catalogue, moment, of });
    const withTheirs = <Row extends { readonly id: string }>(row: Row) => ({ ...row, cells: [...(cells.get(row.id) ?? [])] });
    if (of === 'company') return { ...answer, companies: (answer.companies ?? []).map(withTheirs) };
    return { ...answer, contacts: answer.contacts.map(withTheirs) };
  }

  /** Of contacts or of companies, in the order of the ids. */
  async of(compiled: Compiled, of: 'contact' | 'company', ids: readonly number[]): Promise<Omit<PeopleAnswer, 'after'>> {
    const { catalogue } = compiled;
    if (of === 'contact') return { contacts: await personRows(this.database, catalogue, ids) };
    return { contacts: [], companies: await this.companies.rows(this.database, catalogue, ids) };
  }
}

/** In the order of the ids. */
async function personRows(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<PersonRow[]> {
  if (ids.length === 0) return [];
  const theirs = catalogue.signalTypes('from them');
  const rows = await sql.query<{
    id: number;
    uid: string;
    name: string;
    email: string | null;
    tags: number[];
    made_at: Date;
    scores: { s: number; p: number; b: string }[] | null;
    last_type: number | null;
    last_time: Date | null;
  }>(
    `select c.id, c.uid, c.name, c.email, c.tags, c.made_at, s.scores, l.type_id as last_type, l.last as last_time
         from contact c
         left join lateral (select jsonb_agg(jsonb_build_object('s', s.scorecard_id, 'p', s.points, 'b', s.band)) as scores from contact_score s where s.contact_id = c.id) s on true
         left join lateral (select u.type_id, u.last from signal_sum u where u.contact_id = c.id and u.type_id = any($2::int[]) order by u.last desc limit 1) l on true
        where c.id = any($1::bigint[])`,
    [ids, theirs],
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  return ids.flatMap((id): PersonRow[] => {
    const row = byId.get(id);
    if (!row) return [];
    return [
      {
        id: row.uid,
        name: row.name || row.email || 'someone unnamed',
        email: row.email,
        tags: row.tags.flatMap((tag) => catalogue.get('tag', tag)?.key ?? []),
        scores: (row.scores ?? []).flatMap((score) => {
          const card = catalogue.get('scorecard', score.s);
          return card && !card.retired ? [{ key: card.key, points: score.p / 1_000, band: score.b }] : [];
        }),
        lastFromThem:
          row.last_type === null || row.last_time === null
            ? null
            : { verb: catalogue.body('signalType', row.last_type)?.verb ?? '', time: row.last_time.toISOString() },
        added: row.made_at.toISOString(),
      },
    ];
  });
}
