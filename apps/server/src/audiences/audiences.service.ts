import { Injectable } from '@nestjs/common';
import {
  atClock,
  changesAt,
  explain,
  Moment,
  readInstant,
  restsOnDerived,
  toSql,
  toSqlTogether,
  withClock,
  type Catalogue,
  type Compiled,
  type ConditionNode,
  type Group,
  type WrittenCondition,
} from '@eager-sieve/core';
import {
  type AudienceView,
  type CountAnswer,
  type ExplainAnswer,
  type Movements,
  type PeopleAnswer,
  type PersonRow,
  type Page,
} from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { holding } from '../database/like';
import { UNFINISHED } from '../engine/builds';
import { iso } from '../engine/clock';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { faulty, notFound } from '../http/problem';
import { CountingService } from '../counting/counting.service';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { DefinitionStore } from '../settings/definition-store';
import { peopleWithAccess } from '../settings/known-people';
import { causeWords, viaWords } from '../ledger/words';
import { listed, questionsOf, readGroup, type GroupNode, type WhichList } from './questions';
import { scan, STANDING } from './scan';
import { sentenceOf, withWords } from './words';

/** Parts of a condition's asking that every call shares. */
interface Asked {
  readonly condition: WrittenCondition;
  readonly of: 'contact' | 'company';
  readonly at?: string | undefined;
}

interface Ready {
  readonly compiled: Compiled;
  readonly condition: Group;
  readonly node: GroupNode;
  readonly moment: Moment;
  /** `another`: not now, and the condition rests on what is stored as it is now, so that it has to be worked out */
  readonly clock: 'now' | 'given' | 'another';
  /** what every answer about the past says: tags, histories and lists stand as they are now */
  readonly recorded: { readonly recorded?: 'as of now' };
}

@Injectable()
export class AudiencesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
    private readonly counting: CountingService,
  ) {}

  async #ready(asked: Asked): Promise<Ready> {
    const { compiled } = await this.store.current(this.database);
    const { catalogue } = compiled;
    const now = this.clock.now();
    const at = asked.at === undefined ? now : readInstant(asked.at, catalogue.zone);
    if (at === undefined) throw faulty([{ path: ['at'], code: 'time.malformed', expected: 'a time like 2026-11-25T14:00:00Z' }]);
    const read = readGroup(asked.condition, compiled, asked.of, await peopleWithAccess(this.database));
    return {
      compiled,
      ...read,
      moment: new Moment(at, catalogue.zone),
      clock: asked.at === undefined ? 'now' : restsOnDerived(compiled, read.node) ? 'another' : 'given',
      recorded: asked.at !== undefined && at < now ? { recorded: 'as of now' } : {},
    };
  }

  /** Exactly how many, over one snapshot; with `sieve` also what each line lets through. */
  async count(request: Asked & { readonly sieve: boolean }): Promise<CountAnswer> {
    const { compiled, node, moment, clock, recorded } = await this.#ready(request);
    const another = clock === 'another';
    if (request.of === 'contact') {
      const counted = await this.counting.count({ condition: request.condition, instant: moment.instant, another }, request.sieve);
      if (counted) return { ...counted, ...recorded };
    }
    const { nodes, read } = questionsOf(node, request.of, request.sieve);
    if (another) {
      const counts = await this.database.snapshot(async (sql) => {
        const counted = nodes.map(() => 0);
        await scan(sql, compiled, nodes, { of: request.of, moment }, (_id, holding) =>
          holding.forEach((each, index) => (counted[index] = (counted[index] ?? 0) + (each ? 1 : 0))),
        );
        return counted;
      });
      return { ...read((index) => counts[index] ?? 0, iso(moment.instant)), ...recorded };
    }
    const { lines, texts, values } = toSqlTogether(nodes, moment, 1, request.of);
    const asked = ['c.id', ...lines.map((line, index) => `${line} as l${index}`)].join(', ');
    const columns = texts.map((text, index) => `count(*) filter (where ${text}) as c${index}`);
    // "offset 0" keeps the planner from asking a line again in each count.
    const [row] = await this.database.query<Record<string, number>>(
      `select ${columns.join(', ')} from (select ${asked} from ${request.of} c where ${STANDING[request.of]} offset 0) q`,
      values,
    );
    return { ...read((index) => Number(row?.[`c${index}`] ?? 0), iso(moment.instant)), ...recorded };
  }

  async people(
    asked: Asked & WhichList & { readonly limit: number; readonly after?: string | undefined; readonly search?: string | undefined },
  ): Promise<PeopleAnswer> {
    const { compiled, node, moment, clock, recorded } = await this.#ready(asked);
    const { limit, after, search } = asked;
    const another = clock === 'another';
    if (asked.of === 'contact' && !search?.trim()) {
      const before = readCursor(after)?.[0];
      const ids = await this.counting.newest(
        { condition: asked.condition, instant: moment.instant, another },
        { missedBy: asked.missedBy, beside: asked.beside },
        { limit, before: before === undefined ? undefined : Number(before) },
      );
      if (ids) return { ...(await this.#pageOf(compiled, 'contact', ids, limit)), ...recorded };
    }
    if (another) return { ...(await this.#scannedPage(compiled, listed(node, asked), moment, asked)), ...recorded };
    const { text, values } = toSql(listed(node, asked), moment, 1, asked.of);
    return { ...(await this.#page(compiled, asked.of, `${STANDING[asked.of]} and ${text}`, values, limit, after, search)), ...recorded };
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
    }: Pick<Asked, 'of'> & { readonly limit: number; readonly after?: string | undefined; readonly search?: string | undefined },
  ): Promise<PeopleAnswer> {
    const before = readCursor(after)?.[0] ?? null;
    const also = of === 'contact' ? ' or c.email_folded like $2' : '';
    const where = {
      text: `($1::bigint is null or c.id < $1::bigint) and ($2::text is null or c.name_folded like $2${also})`,
      values: [before, search?.trim() ? holding(search) : null],
    };
    const ids = await this.database.snapshot(async (sql) => {
      const found: number[] = [];
      await scan(sql, compiled, [node], { of, moment, where }, (id, [holds]) => {
        if (holds) found.push(id);
        return found.length < limit;
      });
      return found;
    });
    return this.#pageOf(compiled, of, ids, limit);
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
    const cursor = readCursor(after);
    const n = values.length;
    const also = of === 'contact' ? ` or c.email_folded like $${n + 3}` : '';
    const searching = search?.trim() ? ` and (c.name_folded like $${n + 3}${also})` : '';
    const rows = await this.database.query<{ id: number }>(
      `select c.id from ${of} c
        where ${where} and ($${n + 1}::bigint is null or c.id < $${n + 1}::bigint)${searching}
        order by c.id desc limit $${n + 2}`,
      [...values, cursor?.[0] ?? null, limit, ...(searching ? [holding(search ?? '')] : [])],
    );
    return this.#pageOf(
      compiled,
      of,
      rows.map((row) => row.id),
      limit,
    );
  }

  /** A page of those whose ids these are; where it is full there may be more. */
  async #pageOf(compiled: Compiled, of: 'contact' | 'company', ids: readonly number[], limit: number): Promise<PeopleAnswer> {
    const last = ids.length === limit ? ids.at(-1) : undefined;
    return { ...(await this.#rowsOf(compiled, of, ids)), after: last === undefined ? null : cursorOf(last) };
  }

  async #rowsOf(compiled: Compiled, of: 'contact' | 'company', ids: readonly number[]): Promise<Omit<PeopleAnswer, 'after'>> {
    const { catalogue } = compiled;
    if (of === 'contact') return { contacts: await this.rows(this.database, catalogue, ids) };
    return { contacts: [], companies: await this.companies.rows(this.database, catalogue, ids) };
  }

  /** What tables show of contacts, in the order of the ids. */
  async rows(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<PersonRow[]> {
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

  async explain(asked: Asked & { readonly contact?: string | undefined; readonly company?: string | undefined }): Promise<ExplainAnswer> {
    const { compiled, condition, node, moment, clock, recorded } = await this.#ready(asked);
    const named = asked[asked.of];
    if (named === undefined) throw faulty([{ path: [asked.of], code: `${asked.of}.missing`, expected: `the ${asked.of} that is asked` }]);
    const { id } =
      asked.of === 'company' ? await this.companies.find(this.database, named) : await this.contacts.find(this.database, named);
    const state = (await loadStates(this.database, compiled.catalogue, [id], ALL)).get(id);
    if (!state) throw notFound(asked.of);
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

  async list(): Promise<AudienceView[]> {
    const { compiled } = await this.store.current(this.database);
    return this.#views(compiled, compiled.catalogue.all('audience'));
  }

  async view(key: string): Promise<AudienceView> {
    const { compiled } = await this.store.current(this.database);
    const audience = compiled.catalogue.find('audience', key);
    if (!audience || audience.retired) throw notFound('audience');
    const [view] = await this.#views(compiled, [audience]);
    return view as AudienceView;
  }

  async #views(compiled: Compiled, audiences: ReturnType<Catalogue['all']>): Promise<AudienceView[]> {
    const ids = audiences.map((audience) => audience.id);
    const yesterday = new Moment(this.clock.now(), compiled.catalogue.zone).lastStart(1, 'days');
    const sizes = await this.database.query<{ definition_id: number; members: number; reachable: number }>(
      `select m.definition_id, count(*) as members, count(*) filter (where k.state = 'given') as reachable
         from membership m left join contact_consent k on k.contact_id = m.contact_id and k.channel = 'email'
        where m.definition_id = any($1::int[]) group by 1`,
      [ids],
    );
    const moves = await this.database.query<{ definition_id: number; came: number; gone: number }>(
      `select definition_id, count(*) filter (where verb = 'joined') as came, count(*) filter (where verb = 'left') as gone
         from ledger where kind = 'membership' and definition_id = any($1::int[]) and at >= $2 and cause_kind <> 'definition' group by 1`,
      [ids, iso(yesterday)],
    );
    const pins = await this.database.query<{ audience_id: number; is_in: boolean; n: number }>(
      `select p.audience_id, p.is_in, count(*) as n from contact_pin p left join contact c on c.id = p.contact_id
        where p.audience_id = any($1::int[]) and c.merged_into is null group by 1, 2`,
      [ids],
    );
    const pinned = (id: number, isIn: boolean): number => pins.find((row) => row.audience_id === id && row.is_in === isIn)?.n ?? 0;
    const building = await this.database.query<{ id: number }>(`select distinct unnest(definitions) as id from build where ${UNFINISHED}`);
    return audiences.map((audience) => {
      const definition = compiled.catalogue.get('audience', audience.id as number);
      const size = sizes.find((row) => row.definition_id === audience.id);
      const move = moves.find((row) => row.definition_id === audience.id);
      return {
        key: audience.key,
        name: audience.name,
        version: audience.version,
        kind: definition?.body.kind ?? 'live',
        of: definition?.body.of ?? 'contact',
        sentence: definition ? sentenceOf(definition, compiled.catalogue) : '',
        members: size?.members ?? 0,
        reachable: size?.reachable ?? 0,
        came: move?.came ?? 0,
        left: move?.gone ?? 0,
        pinned: { in: pinned(audience.id as number, true), out: pinned(audience.id as number, false) },
        building: building.some((row) => row.id === audience.id),
        broken: compiled.isBroken(audience.id),
        ...(compiled.isBroken(audience.id) ? { because: compiled.whyBroken.get(audience.id) } : {}),
      };
    });
  }

  /** Those whose membership is kept now, the latest to join first. */
  async members(key: string, page: Page): Promise<PeopleAnswer> {
    const { compiled } = await this.store.current(this.database);
    const audience = compiled.catalogue.find('audience', key);
    if (!audience) throw notFound('audience');
    const cursor = readCursor(page.after);
    const rows = await this.database.query<{ contact_id: number; since: Date }>(
      `select contact_id, since from membership where definition_id = $1 and ($2::timestamptz is null or (since, contact_id) < ($2::timestamptz, $3::bigint))
        order by since desc, contact_id desc limit $4`,
      [audience.id, cursor?.[0] ?? null, cursor?.[1] ?? null, page.limit],
    );
    const members = await this.#rowsOf(
      compiled,
      compiled.catalogue.get('audience', audience.id)?.body.of ?? 'contact',
      rows.map((row) => row.contact_id),
    );
    const last = rows.length === page.limit ? rows.at(-1) : undefined;
    const since = <T extends object>(row: T, index: number): T & { since: string } => ({
      ...row,
      since: rows[index]?.since.toISOString() ?? '',
    });
    return {
      contacts: members.contacts.map(since),
      ...(members.companies ? { companies: members.companies.map(since) } : {}),
      after: last ? cursorOf(last.since.toISOString(), last.contact_id) : null,
    };
  }

  async movements(key: string, page: Page): Promise<Movements> {
    const { compiled } = await this.store.current(this.database);
    const audience = compiled.catalogue.find('audience', key);
    if (!audience) throw notFound('audience');
    const rows = await this.database.query<{
      id: number;
      uid: string;
      name: string;
      at: Date;
      verb: string;
      cause_kind: string;
      cause_ref: string | null;
      contact_id: number;
      via: string | null;
    }>(
      `select l.id, l.contact_id, coalesce(c.uid, k.uid) as uid, coalesce(c.name, k.name) as name, l.at, l.verb, l.cause_kind, l.cause_ref, l.via
           from ledger l left join contact c on c.id = l.contact_id left join company k on k.id = l.contact_id
        where l.kind = 'membership' and l.definition_id = $1 and ($2::bigint is null or l.id < $2::bigint) order by l.id desc limit $3`,
      [audience.id, readCursor(page.after)?.[0] ?? null, page.limit],
    );
    const words = await causeWords(this.database, compiled.catalogue, rows);
    return {
      movements: rows.map((row, index) => ({
        id: row.id,
        contact: row.uid,
        name: row.name,
        at: row.at.toISOString(),
        joined: row.verb === 'joined',
        cause: movedBy(viaWords(row.via, compiled.catalogue), words[index] ?? ''),
      })),
      after: rows.length === page.limit ? cursorOf(rows.at(-1)?.id ?? 0) : null,
    };
  }
}

/** What it read that changed, and why that did; a signal that it read is itself the cause. */
const movedBy = (read: string, cause: string): string => (read === '' ? cause : `${read} changed: ${cause}`);
