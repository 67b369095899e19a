import { Injectable } from '@nestjs/common';
import { readDay, readInstant, startOfDay, type Change } from '@eager-sieve/core';
import { type PinsAnswer, type putPinSchema } from '@eager-sieve/contracts';
import { type z } from 'zod';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { Database, type Sql } from '../database/database';
import { EditsService, type EditCause } from '../engine/edits.service';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

const SHOWN = 200;

/** Pins of live audiences: somebody's word, with a reason, that someone is always in or never. */
@Injectable()
export class PinsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
  ) {}

  async list(key: string): Promise<PinsAnswer> {
    const { id } = await this.#audience(this.database, key);
    const rows = await this.database.query<{
      uid: string;
      name: string;
      is_in: boolean;
      reason: string;
      since: Date;
      until: Date | null;
      said_by: string;
      every: number;
    }>(
      `select count(*) over ()::int as every, coalesce(c.uid, k.uid) as uid, coalesce(c.name, k.name) as name, p.is_in, p.reason, p.since, p.until, p.said_by
         from contact_pin p left join contact c on c.id = p.contact_id left join company k on k.id = p.contact_id
        where p.audience_id = $1 and c.merged_into is null order by p.since desc, p.contact_id limit ${SHOWN}`,
      [id],
    );
    return {
      pins: rows.map((row) => ({
        subject: row.uid,
        name: row.name,
        in: row.is_in,
        reason: row.reason,
        since: row.since.toISOString(),
        until: row.until?.toISOString() ?? null,
        by: row.said_by,
      })),
      all: rows[0]?.every ?? 0,
    };
  }

  /** Pins someone in or out, in the place of what was pinned before, and waits until that has been worked. */
  async put(key: string, asked: z.output<typeof putPinSchema>, cause: EditCause): Promise<PinsAnswer> {
    await this.#change(key, asked.subject, cause, (zone) => {
      const day = asked.until === null ? undefined : readDay(asked.until);
      const until = asked.until === null ? undefined : day === undefined ? readInstant(asked.until, zone) : startOfDay(day, zone);
      if (asked.until !== null && (until === undefined || until <= this.clock.now()))
        throw faulty([{ path: ['until'], code: 'time.past', expected: 'a day or an instant that is still to come' }]);
      return { in: asked.in, reason: asked.reason, until, by: cause.ref };
    });
    return this.list(key);
  }

  /** Takes a pin away: the conditions decide again. */
  clear(key: string, subject: string, cause: EditCause): Promise<void> {
    return this.#change(key, subject, cause, () => undefined);
  }

  async #change(
    key: string,
    named: string,
    cause: EditCause,
    pinIn: (zone: string) => Extract<Change, { kind: 'pin' }>['pin'],
  ): Promise<void> {
    await this.edits.ask(cause, async ({ sql }) => {
      const { id, of, zone } = await this.#audience(sql, key);
      const pin = pinIn(zone);
      const subject = of === 'company' ? await this.companies.find(sql, named) : await this.contacts.find(sql, named);
      return { subject, changes: [{ kind: 'pin', audience: id, pin }] };
    });
  }

  async #audience(sql: Sql, key: string): Promise<{ id: number; of: 'contact' | 'company'; zone: string }> {
    const { catalogue } = (await this.store.current(sql)).compiled;
    const audience = catalogue.find('audience', key);
    if (!audience || audience.retired) throw notFound('audience');
    if (audience.body.kind === 'fixed')
      throw faulty([{ path: ['audience'], code: 'audience.fixed', expected: 'a live audience: a fixed list is filled by hand anyway' }]);
    return { id: audience.id, of: audience.body.of, zone: catalogue.zone };
  }
}
