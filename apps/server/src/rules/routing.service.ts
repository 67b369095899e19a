import { Injectable } from '@nestjs/common';
import {
  holds,
  localDay,
  Moment,
  NO_TURNS,
  readDay,
  takeTurn,
  withTeams,
  toStoredBody,
  withDefinition,
  type Compiled,
  type Definition,
  type Instant,
  type RoutingBody,
} from '@eager-sieve/core';
import { type RoutingRehearsal } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { loadStates } from '../engine/load-states';
import { teamsOf } from '../engine/routing-turns';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

const DAYS = 30;
const DAY_MS = 86_400_000;
const AT_ONCE = 500;
/** The latest of them, where more came. */
const MOST = 20_000;
/** Stands for a routing table that is not kept yet. */
const NEW_ROUTING = 2_147_483_645;

interface Arrived {
  readonly id: number;
  readonly at: Date;
}

/** What a routing table would have handed to whom. */
@Injectable()
export class RoutingService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /**
   * Hands out the contacts of the last 30 days in the order in which they came, as they are now and with limits kept day by day. Who is away today
   * is away all the time, for the question is what the table does from now on.
   */
  async rehearse(written: unknown, key: string | undefined, who: 'handed out' | 'came'): Promise<RoutingRehearsal> {
    return this.database.snapshot(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const body = toStoredBody('routing', written, catalogue, []);
      if (!body.ok) throw faulty(body.faults, 'This routing table cannot work yet.');
      const known = key ? catalogue.find('routing', key) : undefined;
      const definition: Definition<'routing'> = {
        ...{ id: known?.id ?? NEW_ROUTING, kind: 'routing', key: key ?? 'new', name: known?.name ?? 'this table' },
        ...{ version: (known?.version ?? 0) + 1, retired: false, epoch: 0, body: body.value },
      };
      const on = withDefinition(compiled, definition);
      const table = on.routing.get(definition.id);
      if (!table)
        throw faulty(
          [{ path: ['rows'], code: 'routing.broken', expected: on.whyBroken.get(definition.id) ?? 'conditions that can be answered' }],
          'This routing table cannot work yet.',
        );
      const now = this.clock.now();
      const arrived = await (who === 'came' ? came(sql, now) : asked(sql, compiled, definition.id, now));
      const tally = new Handing(withTeams(asOfToday(body.value, now, catalogue.zone), await teamsOf(sql)), catalogue.zone);
      const moment = new Moment(now, catalogue.zone);
      for (let from = 0; from < arrived.length; from += AT_ONCE) {
        const portion = arrived.slice(from, from + AT_ONCE);
        const states = await loadStates(sql, catalogue, [...new Set(portion.map(({ id }) => id))], on.needs);
        for (const { id, at } of portion) {
          const state = states.get(id);
          if (state)
            tally.hand(
              table.rows.flatMap((row) => (holds(row.if, state, moment) ? [row.key] : [])),
              at.getTime(),
            );
        }
      }
      return tally.answer(arrived.length === MOST);
    });
  }
}

/** The contacts that were added in the time, each when it was. */
function came(sql: Sql, now: Instant): Promise<readonly Arrived[]> {
  return sql.query<Arrived>(
    `select * from (
       select c.id, l.at from ledger l join contact c on c.id = l.contact_id
        where l.kind = 'contact' and l.verb = 'added' and l.at >= $1 and c.merged_into is null and c.last_now is not null
        order by l.at desc limit ${MOST}) latest order by at, id`,
    [iso(now - DAYS * DAY_MS)],
  );
}

/** The contacts for whom rules ran that ask this table, each time that one did. */
function asked(sql: Sql, { rules }: Compiled, routing: number, now: Instant): Promise<readonly Arrived[]> {
  const asking = [...rules.values()].filter(({ steps }) =>
    steps.some(({ action }) => action.do === 'assign owner' && action.routing === routing),
  );
  return sql.query<Arrived>(
    `select * from (
       select c.id, l.at from ledger l join contact c on c.id = l.contact_id
        where l.kind = 'firing' and l.verb = 'fired' and l.definition_id = any($1::int[]) and l.at >= $2 and c.merged_into is null and c.last_now is not null
        order by l.at desc limit ${MOST}) latest order by at, id`,
    [asking.map(({ definition }) => definition.id), iso(now - DAYS * DAY_MS)],
  );
}

const FAR_AWAY = '9999-12-31';

/** The table with everybody either there or away, as today. */
function asOfToday(body: RoutingBody, now: Instant, zone: string): RoutingBody {
  const today = localDay(now, zone);
  const people = body.people?.map(({ backOn, ...person }) =>
    (readDay(backOn ?? '') ?? 0) > today ? { ...person, backOn: FAR_AWAY } : person,
  );
  return people ? { ...body, people } : body;
}

/** Hands out one after the other, and counts. */
class Handing {
  readonly #table: RoutingBody;
  readonly #zone: string;
  readonly #rows = new Map<string, number>();
  /** by person: how many on each day */
  readonly #people = new Map<string, Map<number, number>>();
  #turns = NO_TURNS;
  #contacts = 0;
  #nobody = 0;

  constructor(table: RoutingBody, zone: string) {
    this.#table = table;
    this.#zone = zone;
  }

  hand(rows: readonly string[], at: Instant): void {
    this.#contacts += 1;
    const taken = takeTurn(this.#table, this.#turns, rows, at, this.#zone);
    if (!taken) {
      this.#nobody += 1;
      return;
    }
    const { owner, row, turns } = taken;
    this.#turns = turns;
    this.#rows.set(row, (this.#rows.get(row) ?? 0) + 1);
    const days = this.#people.get(owner) ?? new Map<number, number>();
    const day = localDay(at, this.#zone);
    this.#people.set(owner, days.set(day, (days.get(day) ?? 0) + 1));
  }

  answer(more: boolean): RoutingRehearsal {
    const everyone = [...new Set(this.#table.rows.flatMap((row) => row.owners))];
    return {
      days: DAYS,
      contacts: this.#contacts,
      more,
      nobody: this.#nobody,
      rows: this.#table.rows.map(({ key }) => ({ key, contacts: this.#rows.get(key) ?? 0 })),
      people: everyone.map((who) => {
        const days = [...(this.#people.get(who)?.values() ?? [])];
        return { who, contacts: days.reduce((all, n) => all + n, 0), most: Math.max(0, ...days) };
      }),
    };
  }
}
