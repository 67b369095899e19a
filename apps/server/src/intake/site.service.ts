import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { builtInSignalTypes, type Catalogue } from '@eager-sieve/core';
import { type Site, type SiteView, type Visit } from '@eager-sieve/contracts';
import { readSiteToken } from '../campaigns/tokens';
import { PublicAddress } from '../campaigns/public-address';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { faulty, ProblemError } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';
import { readEvent, SignalsService } from './signals.service';

export const SITE_SOURCE = 'site';
/** What an unknown visitor did is kept for so long, and so much of it. */
const KEPT_MS = 90 * 86_400_000;
const MOST_VISITS = 200;
const MOST_DATA = 4_000;
const LOOKED_AGAIN_MS = 5_000;
/** Stands for who is not known yet where a visit is checked. */
const SOMEBODY = 'somebody@nowhere.example';

/** Something that a visitor did. */
interface Waiting {
  readonly id: string;
  readonly at: Date;
  readonly type: string;
  readonly data: unknown;
}

interface KnownAs {
  /** an email address, or `id:` and an outside id */
  readonly subject: string;
  readonly contactId: number;
}

/** What pages of sites tell of their visitors: kept until somebody is recognised in one, and theirs from then on. */
@Injectable()
export class SiteService {
  #kept: { readonly until: number; readonly site: Site } | undefined;

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly store: DefinitionStore,
    private readonly signals: SignalsService,
    private readonly address: PublicAddress,
  ) {}

  async view(): Promise<SiteView> {
    const [counts] = await this.database.query<{ unknown: number; known: number }>(
      'select count(*) filter (where contact_id is null)::int as unknown, count(contact_id)::int as known from visitor',
    );
    return { ...(await this.#read()), script: `${this.address.url}/site.js`, unknown: counts?.unknown ?? 0, known: counts?.known ?? 0 };
  }

  async change(site: Site, by: string): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const wrong = site.types.filter((key) => !isOwn(key, catalogue));
    if (wrong.length > 0)
      throw faulty([{ path: ['types'], code: 'signal-type.own', expected: `types of your own, which ${wrong.join(', ')} is not` }]);
    await this.database.transaction(async (sql) => {
      await sql.query('update site set is_on = $1, origins = $2, types = $3 where id = 1', [
        site.isOn,
        JSON.stringify(site.origins),
        JSON.stringify(site.types),
      ]);
      await writeSetting(sql, 'sites changed', site, by, this.clock.now());
    });
    this.#kept = undefined;
  }

  /** Whether pages of this site may tell anything. */
  async allows(origin: string | undefined): Promise<boolean> {
    const site = await this.#site();
    return site.isOn && origin !== undefined && site.origins.includes(origin);
  }

  /** @throws ProblemError 422 where it is nothing that pages may send */
  async take(visit: Visit): Promise<void> {
    const site = await this.#site();
    if (visit.type !== 'page.visited' && !site.types.includes(visit.type))
      throw faulty([{ path: ['type'], code: 'signal-type.site', expected: 'a visit, or a type that pages may send' }]);
    const { timeZone, language } = visit;
    const data = { ...visit.data, ...(timeZone === undefined ? {} : { timeZone }), ...(language === undefined ? {} : { language }) };
    if (JSON.stringify(data).length > MOST_DATA)
      throw faulty([{ path: ['data'], code: 'data.size', expected: `at most ${MOST_DATA} characters` }]);
    const said = visit.me === undefined ? undefined : await this.#saidBy(visit.me);
    const before = await this.#knownAs(this.database, visit.visitor);
    const known = said ?? before;
    const now = this.clock.now();
    const at = iso(now);
    const event = { id: visit.id, at: new Date(now), type: visit.type, data };
    if (!known) {
      await this.#check(event, now);
      await this.database.transaction(async (sql) => {
        await this.#touch(sql, visit, null, at);
        await this.#wait(sql, visit.visitor, event);
      });
      return;
    }
    const waiting = await this.#waiting(visit.visitor);
    const { rejected } = await this.#send(known, [...waiting, event], async (sql) => {
      await this.#touch(sql, visit, known.contactId, at);
      await this.#told(sql, waiting);
    });
    const own = rejected.find(({ index }) => index === waiting.length);
    if (own) throw faulty([own]);
  }

  /**
   * Somebody is recognised in a visitor: what they did until then is theirs.
   *
   * @param subject by which the contact is known
   */
  async recognise(visitor: string, contactId: number, subject: string): Promise<void> {
    const [row] = await this.database.query<{ contact_id: number | null }>('select contact_id from visitor where id = $1::uuid', [visitor]);
    if (!row || row.contact_id === contactId) return;
    const waiting = await this.#waiting(visitor);
    await this.#send({ subject, contactId }, waiting, async (sql) => {
      await sql.query('update visitor set contact_id = $2 where id = $1::uuid', [visitor, contactId]);
      await this.#told(sql, waiting);
    });
  }

  /** How a visitor came first, for whoever is made when they are recognised. */
  async firstOf(visitor: string): Promise<{ readonly firstPage?: string }> {
    const [row] = await this.database.query<{ first_page: string | null }>('select first_page from visitor where id = $1::uuid', [visitor]);
    return row?.first_page ? { firstPage: row.first_page } : {};
  }

  /**
   * Somebody downloads a file of ours: a signal of whoever is known by their link or by their visits, or kept with the visits of who is not yet.
   *
   * @param also written with it
   */
  async downloaded(
    { sieve, visitor }: { readonly sieve?: string | undefined; readonly visitor?: string | undefined },
    file: string,
    also: (sql: Sql) => Promise<unknown>,
  ): Promise<void> {
    const said = sieve === undefined ? undefined : await this.#saidBy(sieve);
    const known = said ?? (visitor === undefined ? undefined : await this.#knownAs(this.database, visitor));
    const happened = { id: randomUUID(), at: new Date(this.clock.now()), type: 'file.downloaded', data: { file } };
    if (known) {
      await this.#send(known, [happened], also);
      return;
    }
    await this.database.transaction(async (sql) => {
      await also(sql);
      if (visitor === undefined) return;
      const [row] = await sql.query('select 1 from visitor where id = $1::uuid', [visitor]);
      if (row) await this.#wait(sql, visitor, happened);
    });
  }

  /** A visitor does not agree any more: nothing more is told of them, and what is nobody's is gone. */
  async forget(visitor: string): Promise<void> {
    await this.database.transaction((sql) => sql.query('delete from visitor where id = $1::uuid', [visitor]));
  }

  #send({ subject }: KnownAs, visits: readonly Waiting[], also: (sql: Sql) => Promise<unknown>): ReturnType<SignalsService['take']> {
    return this.signals.take(
      visits.map((visit) => eventOf(visit, subject)),
      SITE_SOURCE,
      also,
    );
  }

  /** What waits has to be right when it comes: later there is nobody to tell. @throws ProblemError 422 */
  async #check(visit: Waiting, now: number): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const read = readEvent(eventOf(visit, SOMEBODY), catalogue, now);
    if (!read.ok) throw faulty(read.faults);
  }

  /** Keeps what an unknown visitor did until somebody is recognised in them. */
  async #wait(sql: Sql, visitor: string, { id, at, type, data }: Waiting): Promise<void> {
    await sql.query(
      `insert into visit (id, visitor_id, at, type, data) select $1, $2, $3, $4, $5::jsonb
        where (select count(*) from visit where visitor_id = $2) < ${MOST_VISITS} on conflict do nothing`,
      [id, visitor, at, type, JSON.stringify(data)],
    );
  }

  async #touch(sql: Sql, visit: Visit, contactId: number | null, at: string): Promise<void> {
    const { url } = visit.data;
    const [made] = await sql.query<{ fresh: boolean }>(
      `insert into visitor (id, contact_id, first_at, last_at, first_page) values ($1, $2, $3, $3, $4)
       on conflict (id) do update set last_at = $3, contact_id = coalesce($2, visitor.contact_id)
       returning first_at = last_at as fresh`,
      [visit.visitor, contactId, at, typeof url === 'string' ? url.slice(0, 1_000) : null],
    );
    // With each new visitor those go who have not been back.
    if (made?.fresh) await sql.query('delete from visitor where contact_id is null and last_at < $1', [iso(this.clock.now() - KEPT_MS)]);
  }

  /** Takes away what has been told; what came meanwhile waits for the next visit. */
  async #told(sql: Sql, visits: readonly Waiting[]): Promise<void> {
    if (visits.length > 0) await sql.query('delete from visit where id = any($1::uuid[])', [visits.map(({ id }) => id)]);
  }

  #waiting(visitor: string): Promise<Waiting[]> {
    return this.database.query('select id, at, type, data from visit where visitor_id = $1::uuid order by at, id', [visitor]);
  }

  async #knownAs(sql: Sql, visitor: string): Promise<KnownAs | undefined> {
    const [row] = await sql.query<ContactRow>(
      `select coalesce(m.id, c.id) as id, coalesce(m.email, c.email) as email, coalesce(m.outside_id, c.outside_id) as outside_id
         from visitor v join contact c on c.id = v.contact_id left join contact m on m.id = c.merged_into where v.id = $1::uuid`,
      [visitor],
    );
    return row && knownBy(row);
  }

  async #saidBy(me: string): Promise<KnownAs | undefined> {
    const [workspace] = await this.database.query<{ secret: string }>('select secret from workspace where id = 1');
    const token = readSiteToken(me, workspace?.secret ?? '', this.clock.now());
    if (!token) return undefined;
    const [row] = await this.database.query<ContactRow>(
      'select id, email, outside_id from contact where uid = $1::uuid and merged_into is null',
      [token.contactUid],
    );
    return row && knownBy(row);
  }

  async #site(): Promise<Site> {
    const now = this.clock.now();
    if (!this.#kept || this.#kept.until < now) this.#kept = { until: now + LOOKED_AGAIN_MS, site: await this.#read() };
    return this.#kept.site;
  }

  async #read(): Promise<Site> {
    const [row] = await this.database.query<Site>('select is_on as "isOn", origins, types from site where id = 1');
    if (!row) throw new ProblemError(500, 'site.missing', 'The settings of sites are missing.');
    return row;
  }
}

const eventOf = ({ id, at, type, data }: Waiting, subject: string): object => ({
  ...{ specversion: '1.0', source: SITE_SOURCE, id, type, subject, data },
  time: at.toISOString(),
});

interface ContactRow {
  readonly id: number;
  readonly email: string | null;
  readonly outside_id: string | null;
}
const knownBy = ({ id, email, outside_id: outsideId }: ContactRow): KnownAs | undefined => {
  const subject = email ?? (outsideId === null ? null : `id:${outsideId}`);
  return subject === null ? undefined : { contactId: id, subject };
};

/** Pages of a site are anybody's hands: what they send is never taken for an order or an answer. */
const isOwn = (key: string, catalogue: Catalogue): boolean =>
  !builtInSignalTypes.some((type) => type.key === key) && catalogue.find('signalType', key) !== undefined;
