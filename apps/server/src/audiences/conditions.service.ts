import { Injectable } from '@nestjs/common';
import {
  atClock,
  changesAt,
  Decided,
  explain,
  Moment,
  prepareColumn,
  readInstant,
  within,
  orThrow,
  restsOnDerived,
  toSql,
  withClock,
  type Compiled,
  type ConditionNode,
  type Column,
  type Group,
  type TableOf,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type ColumnSummary, type CountAnswer, type ExplainAnswer, type PeopleAnswer } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { mustBeOwn, type Own } from '../contacts/own';
import { type AskedClock } from '../counting/counting-index';
import { CountingService } from '../counting/counting.service';
import { Database } from '../database/database';
import { holding } from '../database/like';
import { iso } from '../engine/clock';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { faulty, notFound, ProblemError } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { peopleWithAccess } from '../settings/known-people';
import { listed, questionsOf, readGroup, type GroupNode } from './questions';
import { RowsService } from './rows.service';
import { countBySql, inTime } from './count-by-sql';
import { summaryOf } from './column-summary';
import { scan, STANDING } from './scan';
import { sortedRows, type SortKey } from './sorted';
import { columnSql } from './table-columns';
import { amongFew, namedSql, standing, tableOf, type ConditionRequest, type PeopleRequest, type PreparedSort } from './table-asked';
import { withWords } from './words';

interface Ready {
  readonly compiled: Compiled;
  readonly condition: Group;
  readonly node: GroupNode;
  readonly moment: Moment;
  /** `another`: not now, and the condition rests on what is stored as it is now, so that it has to be worked out */
  readonly clock: AskedClock;
  /** what every answer about the past says: tags, histories and lists stand as they are now */
  readonly recorded: { readonly recorded?: 'as of now' };
}

/** So few are looked for one by one, and put in order: along an index everyone would be passed over to find them. */
const FEW = 20_000;

/** So many different values of a column are looked at. */
const MOST_VALUES = 200_000;

interface ColumnAsked {
  readonly of: TableOf;
  readonly condition: WrittenCondition;
  readonly search?: string | undefined;
  readonly column: Column;
  readonly own?: Own;
}

/** How a scan is narrowed to contacts that are theirs. */
const theirs = (own: Own) => (own ? { where: { text: 'c.owner = any($1::text[])', values: [own.owners] } } : {});

/** What is asked of any condition, whether or not it is that of an audience: how many, who, and why. */
@Injectable()
export class ConditionsService {
  #byteOrdered: boolean | undefined;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
    private readonly counting: CountingService,
    private readonly rows: RowsService,
  ) {}

  /** The definitions as they are asked now. */
  async compiled(): Promise<Compiled> {
    return (await this.store.current(this.database)).compiled;
  }

  /** Whether the database has texts in the order of their characters. */
  async #isByteOrdered(): Promise<boolean> {
    if (this.#byteOrdered === undefined) {
      const [row] = await this.database.query<{ is: boolean }>(
        `select datcollate in ('C', 'POSIX') or datcollate ilike 'C.UTF%8' as is from pg_database where datname = current_database()`,
      );
      this.#byteOrdered = row?.is ?? false;
    }
    return this.#byteOrdered;
  }

  async #ready(request: ConditionRequest): Promise<Ready> {
    if (request.own && request.of !== 'contact')
      throw faulty([{ path: ['of'], code: 'own.contacts', expected: 'contacts: your role sees only those that it looks after' }]);
    const { compiled } = await this.store.seen(this.database, request.own);
    const { catalogue } = compiled;
    const now = this.clock.now();
    const at = request.at === undefined ? now : readInstant(request.at, catalogue.zone);
    if (at === undefined) throw faulty([{ path: ['at'], code: 'time.malformed', expected: 'a time like 2026-11-25T14:00:00Z' }]);
    const read = readGroup(request.condition, compiled, request.of, await peopleWithAccess(this.database));
    return {
      compiled,
      ...read,
      moment: new Moment(at, catalogue.zone),
      clock: request.at === undefined ? 'now' : restsOnDerived(compiled, read.node) ? 'another' : 'given',
      recorded: request.at !== undefined && at < now ? { recorded: 'as of now' } : {},
    };
  }

  /**
   * Exactly how many, over one snapshot; with `sieve` also what each line lets through.
   *
   * @param waited by which it is given up when nobody waits
   */
  async count(request: ConditionRequest & { readonly sieve: boolean }, waited?: AbortSignal): Promise<CountAnswer> {
    const { compiled, node, moment, clock, recorded } = await this.#ready(request);
    const another = clock === 'another';
    if (request.of === 'contact') {
      const { condition, own } = request;
      const counted = await this.counting.count({ condition, instant: moment.instant, clock, own: own?.owners }, request.sieve, waited);
      if (waited?.aborted) throw new ProblemError(499, 'count.given-up', 'Nobody waits for this any more.');
      if (counted) return { ...counted, ...recorded };
    }
    const { nodes, deciding, read } = questionsOf(node, request.of, request.sieve);
    if (another) {
      const decided = new Decided(deciding.of.length);
      const counts = await this.database.snapshot(async (sql) => {
        const counted = nodes.map(() => 0);
        await scan(sql, compiled, nodes, { of: request.of, moment, ...theirs(request.own) }, (_id, holding) => {
          holding.forEach((each, index) => (counted[index] = (counted[index] ?? 0) + (each ? 1 : 0)));
          decided.ask(deciding, (index) => holding[index] === true);
        });
        return counted;
      });
      return { ...read((index) => counts[index] ?? 0, decided, iso(moment.instant)), ...recorded };
    }
    const { counts, decided } = await countBySql(this.database, { nodes, deciding, moment, of: request.of, own: request.own });
    return { ...read((index) => counts[index] ?? 0, decided, iso(moment.instant)), ...recorded };
  }

  async people(request: PeopleRequest): Promise<PeopleAnswer> {
    const ready = await this.#ready(request);
    const { columns, sort } = tableOf(request, ready.compiled);
    const page = sort.length > 0 || (request.skip ?? 0) > 0 ? await this.#sorted(request, ready, sort) : await this.#newest(request, ready);
    return columns.length === 0 ? page : this.rows.withCells(page, ready.compiled, columns, ready.moment, request.of);
  }

  /** Contacts or companies in an order of one's own. */
  async #sorted(request: PeopleRequest, { compiled, node, moment }: Ready, sort: readonly PreparedSort[]): Promise<PeopleAnswer> {
    const { catalogue } = compiled;
    const { limit, of } = request;
    const skip = request.after === undefined ? (request.skip ?? 0) : 0;
    const isByteOrdered = await this.#isByteOrdered();
    /** A statement of its own, since a parameter that is not used has no type. @param few those of whom it is so, where they are known and few */
    const asked = (few?: readonly number[]) => {
      const { where, bind, values } = few ? amongFew(few) : standing(of, listed(node, request), moment, request.search, request.own);
      return {
        of,
        where,
        bind,
        values,
        by: sort.map(({ column, down }) => {
          const { kept, ...written } = columnSql(column, { bind, moment, catalogue, of, isByteOrdered });
          return { column: kept && !few ? { ...written, kept } : written, down };
        }),
      };
    };
    const { by } = asked();
    const key = readCursor(request.after, [
      ...by.map(({ column }) => (column.type === 'text' ? 'text?' : 'whole?') as 'text?'),
      'id' as const,
    ]);
    const after = key && { key: key.slice(0, -1) as SortKey, id: Number(key.at(-1)) };
    const { condition, search, own, missedBy, beside } = request;
    const question = { condition, instant: moment.instant, own: own?.owners };
    const isCounted = of === 'contact' && !search?.trim();
    const counted = isCounted
      ? await this.counting.inOrder(question, { missedBy, beside }, request.sort ?? [], { after, limit, skip })
      : undefined;
    const few = isCounted && !counted ? await this.counting.few(question, { missedBy, beside }, FEW) : undefined;
    const rows = counted ?? (await inTime(this.database, (sql) => sortedRows(sql, () => asked(few ?? undefined), { after, limit, skip })));
    const last = rows.length === limit ? rows.at(-1) : undefined;
    const ids = rows.map(({ id }) => id);
    return {
      ...(await this.rows.of(compiled, of, ids)),
      after: last ? cursorOf(...last.key, last.id) : null,
    };
  }

  /** What a column comes to over everyone of whom the condition is so. */
  async summary({ of, condition, search, column, own }: ColumnAsked): Promise<ColumnSummary> {
    const { compiled, node, moment } = await this.#ready({ condition, of, own });
    const { catalogue, whyBroken } = compiled;
    const prepared = orThrow(within(['column'], prepareColumn(column, catalogue, whyBroken, of)));
    const { where, bind, values } = standing(of, node, moment, search, own);
    const { value, cell } = columnSql(prepared, { bind, moment, catalogue, of });
    const rows = await inTime(this.database, (sql) =>
      sql.query<{ v: never; n: number }>(
        `select v, count(*)::int as n from (select ${value()} as v from ${of} c where ${where}) c group by v limit ${MOST_VALUES + 1}`,
        values,
      ),
    );
    if (rows.length > MOST_VALUES)
      throw faulty([
        { path: ['column'], code: 'column.values', expected: `at most ${MOST_VALUES} different values: narrow the table down` },
      ]);
    return summaryOf(rows.map(({ v, n }) => ({ cell: cell(v), n })));
  }

  /** Whoever came last comes first. */
  async #newest(request: PeopleRequest, { compiled, node, moment, clock, recorded }: Ready): Promise<PeopleAnswer> {
    const { limit, after, search, own } = request;
    const another = clock === 'another';
    if (request.of === 'contact' && !search?.trim()) {
      const before = readCursor(after, ['id'])?.[0];
      const ids = await this.counting.newest(
        { condition: request.condition, instant: moment.instant, clock, own: own?.owners },
        { missedBy: request.missedBy, beside: request.beside },
        { limit, before: before === undefined ? undefined : Number(before) },
      );
      if (ids) return { ...(await this.rows.page(compiled, 'contact', ids, limit)), ...recorded };
    }
    if (another) return { ...(await this.#scannedPage(compiled, listed(node, request), moment, request)), ...recorded };
    const { text, values } = toSql(listed(node, request), moment, 1, request.of);
    const where = `${STANDING[request.of]} and ${text}${own ? ` and c.owner = any($${values.length + 1}::text[])` : ''}`;
    return {
      ...(await this.#page(compiled, request.of, where, own ? [...values, own.owners] : values, limit, after, search)),
      ...recorded,
    };
  }

  /** A page at another clock, without the counting index. */
  async #scannedPage(
    compiled: Compiled,
    node: ConditionNode,
    moment: Moment,
    {
      of,
      limit,
      after,
      search,
      own,
    }: Pick<ConditionRequest, 'of' | 'own'> & {
      readonly limit: number;
      readonly after?: string | undefined;
      readonly search?: string | undefined;
    },
  ): Promise<PeopleAnswer> {
    const before = readCursor(after, ['id'])?.[0] ?? null;
    const also = of === 'contact' ? ' or c.email_folded like $2' : '';
    const where = {
      text: `($1::bigint is null or c.id < $1::bigint) and ($2::text is null or c.name_folded like $2${also})${own ? ' and c.owner = any($3::text[])' : ''}`,
      values: [before, search?.trim() ? holding(search) : null, ...(own ? [own.owners] : [])],
    };
    const ids = await this.database.snapshot(async (sql) => {
      const found: number[] = [];
      await scan(sql, compiled, [node], { of, moment, where }, (id, [holds]) => {
        if (holds) found.push(id);
        return found.length < limit;
      });
      return found;
    });
    return this.rows.page(compiled, of, ids, limit);
  }

  async #page(
    compiled: Compiled,
    of: 'contact' | 'company',
    where: string,
    values: readonly unknown[],
    limit: number,
    after: string | undefined,
    search?: string,
  ): Promise<PeopleAnswer> {
    const cursor = readCursor(after, ['id']);
    const n = values.length;
    const named = namedSql(of, `$${n + 3}`);
    const searching = search?.trim() ? ` and ${named}` : '';
    const rows = await this.database.query<{ id: number }>(
      `select c.id from ${of} c
        where ${where} and ($${n + 1}::bigint is null or c.id < $${n + 1}::bigint)${searching}
        order by c.id desc limit $${n + 2}`,
      [...values, cursor?.[0] ?? null, limit, ...(searching ? [holding(search ?? '')] : [])],
    );
    return this.rows.page(
      compiled,
      of,
      rows.map((row) => row.id),
      limit,
    );
  }

  async explain(
    request: ConditionRequest & { readonly contact?: string | undefined; readonly company?: string | undefined },
  ): Promise<ExplainAnswer> {
    const { compiled, condition, node, moment, clock, recorded } = await this.#ready(request);
    const named = request[request.of];
    if (named === undefined)
      throw faulty([{ path: [request.of], code: `${request.of}.missing`, expected: `the ${request.of} that is asked` }]);
    if (request.of === 'contact') await mustBeOwn(this.database, named, request.own);
    const { id } =
      request.of === 'company' ? await this.companies.find(this.database, named) : await this.contacts.find(this.database, named);
    const state = (await loadStates(this.database, compiled.catalogue, [id], ALL)).get(id);
    if (!state) throw notFound(request.of);
    const subject = clock === 'now' ? withClock(compiled, state, moment) : atClock(compiled, state, moment);
    const changes = changesAt(node, subject, moment);
    const explanation = explain(node, subject, moment);
    return {
      holds: explanation.holds,
      changesAt: Number.isFinite(changes) ? iso(changes) : null,
      asOf: iso(moment.instant),
      ...recorded,
      explanation: withWords(explanation, condition, compiled.catalogue),
    };
  }
}
