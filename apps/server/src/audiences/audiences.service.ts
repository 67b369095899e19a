import { Injectable } from '@nestjs/common';
import { Moment, type AudienceBody, type Compiled, type Definition } from '@eager-sieve/core';
import { type AudienceView, type Movements, type Page, type PeopleAnswer } from '@eager-sieve/contracts';
import { ownSubjectSql, ownSql, type Own } from '../contacts/own';
import { Database } from '../database/database';
import { UNFINISHED } from '../engine/queries/unfinished-builds';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
import { causeWords, viaWords } from '../ledger/words';
import { DefinitionStore } from '../settings/definition-store';
import { AudienceSizes } from './audience-sizes';
import { RowsService } from './rows.service';
import { sentenceOf } from './words';

/** The audiences that are defined: how many are in, who, and who came and left. */
@Injectable()
export class AudiencesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly rows: RowsService,
    private readonly sizes: AudienceSizes,
  ) {}

  async list(own: Own): Promise<AudienceView[]> {
    const { compiled } = await this.store.seen(this.database, own);
    return this.#views(
      compiled,
      compiled.catalogue.all('audience').filter(({ body }) => isShown(body, own)),
      own,
    );
  }

  async view(key: string, own: Own): Promise<AudienceView> {
    const { compiled, audience } = await this.#find(key, own);
    if (audience.retired) throw notFound('audience');
    const [view] = await this.#views(compiled, [audience], own);
    return view as AudienceView;
  }

  /** @throws ProblemError 404, also for what they are not shown */
  async #find(key: string, own: Own): Promise<{ readonly compiled: Compiled; readonly audience: Definition<'audience'> }> {
    const { compiled } = await this.store.seen(this.database, own);
    const audience = compiled.catalogue.find('audience', key);
    if (!audience || !isShown(audience.body, own)) throw notFound('audience');
    return { compiled, audience };
  }

  async #views(compiled: Compiled, audiences: readonly Definition<'audience'>[], own: Own): Promise<AudienceView[]> {
    const ids = audiences.map((audience) => audience.id);
    const yesterday = new Moment(this.clock.now(), compiled.catalogue.zone).lastStart(1, 'days');
    const sizes = await this.sizes.of(compiled, ids, own);
    const moves = await this.database.query<{ definition_id: number; came: number; gone: number }>(
      `select definition_id, count(*) filter (where verb = 'joined') as came, count(*) filter (where verb = 'left') as gone
         from ledger where kind = 'membership' and definition_id = any($1::int[]) and at >= $2 and cause_kind <> 'definition'
          and ${ownSubjectSql('contact_id', 3)} group by 1`,
      [ids, iso(yesterday), own?.owners ?? null],
    );
    const pins = await this.database.query<{ audience_id: number; is_in: boolean; n: number }>(
      `select p.audience_id, p.is_in, count(*) as n from contact_pin p left join contact c on c.id = p.contact_id
        where p.audience_id = any($1::int[]) and c.merged_into is null and ${ownSql('c.owner', 2)} group by 1, 2`,
      [ids, own?.owners ?? null],
    );
    const pinned = (id: number, isIn: boolean): number => pins.find((row) => row.audience_id === id && row.is_in === isIn)?.n ?? 0;
    const building = await this.database.query<{ id: number }>(`select distinct unnest(definitions) as id from build where ${UNFINISHED}`);
    return audiences.map((audience) => {
      const { id, key, name, version, body } = audience;
      const size = sizes.get(id);
      const move = moves.find((row) => row.definition_id === id);
      return {
        ...{ key, name, version, kind: body.kind, of: body.of, team: body.team ?? null },
        sentence: sentenceOf(audience, compiled.catalogue),
        members: size?.members ?? 0,
        reachable: size?.reachable ?? 0,
        came: move?.came ?? 0,
        left: move?.gone ?? 0,
        pinned: { in: pinned(id, true), out: pinned(id, false) },
        building: building.some((row) => row.id === id),
        broken: compiled.isBroken(id),
        ...(compiled.isBroken(id) ? { because: compiled.whyBroken.get(id) } : {}),
      };
    });
  }

  /** Those whose membership is kept now, the latest to join first. */
  async members(key: string, page: Page, own: Own): Promise<PeopleAnswer> {
    const { compiled, audience } = await this.#find(key, own);
    const cursor = readCursor(page.after, ['time', 'id']);
    const rows = await this.database.query<{ contact_id: number; since: Date }>(
      `select contact_id, since from membership where definition_id = $1 and ($2::timestamptz is null or (since, contact_id) < ($2::timestamptz, $3::bigint))
          and ${ownSubjectSql('contact_id', 5)} order by since desc, contact_id desc limit $4`,
      [audience.id, cursor?.[0] ?? null, cursor?.[1] ?? null, page.limit, own?.owners ?? null],
    );
    const members = await this.rows.of(
      compiled,
      audience.body.of,
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

  async movements(key: string, page: Page, own: Own): Promise<Movements> {
    const { compiled, audience } = await this.#find(key, own);
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
        where l.kind = 'membership' and l.definition_id = $1 and ($2::bigint is null or l.id < $2::bigint) and ${ownSql('c.owner', 4)}
        order by l.id desc limit $3`,
      [audience.id, readCursor(page.after, ['id'])?.[0] ?? null, page.limit, own?.owners ?? null],
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

/** Whether somebody is shown an audience that is not kept from their team: who sees only their own contacts sees none of companies. */
const isShown = ({ of }: AudienceBody, own: Own): boolean => own === undefined || of === 'contact';

/** What it read that changed, and why that did; a signal that it read is itself the cause. */
const movedBy = (read: string, cause: string): string => (read === '' ? cause : `${read} changed: ${cause}`);
