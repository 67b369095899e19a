import { Injectable } from '@nestjs/common';
import { fold, type Catalogue } from '@eager-sieve/core';
import { type LedgerRow, type TimelineEntry, type TimelinePage, type TimelineQuery } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { LedgerService, SHOWN } from '../ledger/ledger.service';
import { DefinitionStore } from '../settings/definition-store';
import { findContact } from './find-contact';
import { type Own } from './own';
import { signalView, type SignalRow } from './signal-view';

/** So many are looked through at a time for what is searched for, and in all before the answer says how far it came. */
const SEARCHED_AT_ONCE = 500;
const SEARCHED_AT_MOST = 5_000;
/** More of what one change did is only counted. */
const SHOWN_EFFECTS = 40;
const LATELY_MS = 90 * 86_400_000;

/** Where an entry stands: its time, whether it is a change or a signal, and its id. Of the same moment, changes come before signals. */
interface Place {
  readonly at: string;
  readonly rank: number;
  readonly id: number;
}
const SIGNAL = 0;
const CHANGE = 1;
type Placed = Place & { readonly entry: TimelineEntry };

/** Whose timeline it is. */
interface Whose {
  readonly contacts: readonly number[];
  /** whose changes stand on it too; undefined for those of a company */
  readonly changesOf: number | undefined;
}

/** Everything that happened to a contact, or that the contacts of a company did, with what came of it. */
@Injectable()
export class TimelineService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly ledger: LedgerService,
  ) {}

  ofContact(named: string, query: TimelineQuery, own: Own): Promise<TimelinePage> {
    return this.database.snapshot(async (sql) => {
      const { id } = await findContact(sql, named);
      const { catalogue } = (await this.store.seen(sql, own)).compiled;
      return this.#page(sql, catalogue, { contacts: [id], changesOf: id }, query);
    });
  }

  ofCompany(companyId: number, query: TimelineQuery): Promise<TimelinePage> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const rows = await sql.query<{ id: number }>('select id from contact where company_id = $1 and merged_into is null', [companyId]);
      return this.#page(sql, catalogue, { contacts: rows.map(({ id }) => id), changesOf: undefined }, query);
    });
  }

  async #page(sql: Sql, catalogue: Catalogue, whose: Whose, query: TimelineQuery): Promise<TimelinePage> {
    const begin = readCursor(query.after, ['time', 'id', 'id']);
    let place: Place | undefined = begin && { at: begin[0], rank: begin[1], id: begin[2] };
    const wanted = fold(query.search?.trim() ?? '');
    const types = place ? null : await this.#types(sql, catalogue, whose.contacts);
    const entries: TimelineEntry[] = [];
    const size = wanted === '' ? query.limit : SEARCHED_AT_ONCE;
    for (let looked = 0; looked < SEARCHED_AT_MOST;) {
      const found: readonly Placed[] = await this.#some(sql, catalogue, whose, query, place, size);
      for (const each of found) {
        place = each;
        if (wanted === '' || says(each.entry, wanted)) entries.push(each.entry);
        if (entries.length === query.limit) return { entries, after: cursorOf(each.at, each.rank, each.id), types };
      }
      if (found.length < size) return { entries, after: null, types };
      looked += found.length;
    }
    return { entries, after: place ? cursorOf(place.at, place.rank, place.id) : null, types };
  }

  /** The next of them, whatever they say. */
  async #some(
    sql: Sql,
    catalogue: Catalogue,
    { contacts, changesOf }: Whose,
    { show, type }: TimelineQuery,
    after: Place | undefined,
    size: number,
  ): Promise<readonly Placed[]> {
    const ofType = type === undefined ? null : (catalogue.find('signalType', type)?.id ?? -1);
    const signals = show === 'changes' ? [] : await this.#signals(sql, catalogue, contacts, ofType, after, size);
    const changes =
      show === 'signals' || ofType !== null || changesOf === undefined ? [] : await this.#changes(sql, catalogue, changesOf, after, size);
    const byPlace = (a: Place, b: Place): number => (a.at === b.at ? b.rank - a.rank || b.id - a.id : a.at < b.at ? 1 : -1);
    return [...signals, ...changes].sort(byPlace).slice(0, size);
  }

  async #signals(
    sql: Sql,
    catalogue: Catalogue,
    contacts: readonly number[],
    type: number | null,
    after: Place | undefined,
    size: number,
  ): Promise<readonly Placed[]> {
    // The latest of each contact along its own index, and of those the latest of all.
    const rows = await sql.query<SignalRow & { contact_id: number; who: string; name: string }>(
      `select s.id, s.contact_id, s.type_id, s.time, s.received_at, o.name as source, s.sender_id, s.data,
              c.uid as who, coalesce(nullif(c.name, ''), c.email, 'someone unnamed') as name
         from contact c
         cross join lateral (
           select * from signal g
            where g.contact_id = c.id and ($2::int is null or g.type_id = $2)
              and ($3::timestamptz is null or (g.time, ${SIGNAL}, g.id) < ($3::timestamptz, $4::int, $5::bigint))
            order by g.time desc, g.id desc limit $6) s
         join source o on o.id = s.source_id
        where c.id = any($1::bigint[])
        order by s.time desc, s.id desc limit $6`,
      [contacts, type, after?.at ?? null, after?.rank ?? null, after?.id ?? null, size],
    );
    const did = await this.ledger.ofSignals(
      sql,
      catalogue,
      [...new Set(rows.map((row) => row.contact_id))],
      rows.map((row) => row.id),
    );
    const isOne = contacts.length === 1;
    return rows.map((row) => {
      const signal = signalView(row, catalogue);
      const words = [signal.verb, signal.summary].filter(Boolean).join(': ');
      const contact = isOne ? null : { id: row.who, name: row.name };
      const entry = { key: `signal ${row.id}`, at: signal.time, words, signal, contact, ...shown(did.get(String(row.id)) ?? []) };
      return { at: signal.time, rank: SIGNAL, id: row.id, entry };
    });
  }

  /** What was done without a signal, or because of one that is not kept any more: what was done at once for one reason together. */
  async #changes(sql: Sql, catalogue: Catalogue, id: number, after: Place | undefined, size: number): Promise<readonly Placed[]> {
    const rows = await sql.query<{ at: Date; first: number; ids: number[] }>(
      `select l.at, min(l.id) as first, array_agg(l.id order by l.id) as ids
         from ledger l left join (select g.id::text as ref from signal g where g.contact_id = $1) s on l.cause_kind = 'signal' and s.ref = l.cause_ref
        where l.contact_id = $1 and s.ref is null and ${SHOWN(2)}
        group by l.at, l.cause_kind, l.cause_ref
       having $3::timestamptz is null or (l.at, ${CHANGE}, min(l.id)) < ($3::timestamptz, $4::int, $5::bigint)
        order by l.at desc, first desc limit $6`,
      [id, [...catalogue.hidden], after?.at ?? null, after?.rank ?? null, after?.id ?? null, size],
    );
    const ids = rows.flatMap((row) => row.ids.slice(0, SHOWN_EFFECTS));
    const effects = new Map((await this.ledger.ofIds(sql, catalogue, ids)).map((row) => [row.id, row]));
    return rows.map(({ at, first, ids: all }) => {
      const did = all.flatMap((each) => effects.get(Number(each)) ?? []);
      const entry: TimelineEntry = {
        ...{ key: `change ${first}`, at: iso(at.getTime()), words: did[0]?.cause.words ?? '', signal: null, contact: null },
        ...{ did, more: all.length - did.length },
      };
      return { at: iso(at.getTime()), rank: CHANGE, id: first, entry };
    });
  }

  async #types(sql: Sql, catalogue: Catalogue, contacts: readonly number[]): Promise<NonNullable<TimelinePage['types']>> {
    const rows = await sql.query<{ type_id: number; signals: number; lately: number; people: number; last: Date }>(
      `select type_id, count(*)::int as signals, (count(*) filter (where time >= $2))::int as lately,
              count(distinct contact_id)::int as people, max(time) as last
         from signal where contact_id = any($1::bigint[]) group by type_id order by count(*) desc, type_id`,
      [contacts, iso(this.clock.now() - LATELY_MS)],
    );
    return rows.flatMap(({ type_id: id, last, ...counted }) => {
      const type = catalogue.get('signalType', id);
      return type ? [{ key: type.key, verb: type.body.verb, ...counted, lastAt: last.toISOString() }] : [];
    });
  }
}

const shown = (did: readonly LedgerRow[]): Pick<TimelineEntry, 'did' | 'more'> => ({
  did: did.slice(0, SHOWN_EFFECTS),
  more: Math.max(0, did.length - SHOWN_EFFECTS),
});

/** The texts and numbers in what was sent, however deep. */
function* textsIn(value: unknown): Generator<string> {
  if (typeof value === 'string' || typeof value === 'number') yield String(value);
  else if (typeof value === 'object' && value !== null) for (const each of Object.values(value)) yield* textsIn(each);
}

function says({ words, signal, contact, did }: TimelineEntry, wanted: string): boolean {
  const texts = [words, contact?.name ?? '', ...did.flatMap((row) => [row.words, row.rule ?? ''])];
  if (signal) texts.push(signal.typeName, signal.source, signal.senderId, ...textsIn(signal.data));
  return texts.some((text) => fold(text).includes(wanted));
}
