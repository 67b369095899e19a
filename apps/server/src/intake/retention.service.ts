import { Injectable } from '@nestjs/common';
import { localDay, lookingFurtherBack, startOfDay } from '@eager-sieve/core';
import { type OlderSignals } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { forgetSome } from '../engine/forget';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

/** Forgets signals that are older than their type is kept: once a day, and when definitions change. */
@Injectable()
export class RetentionService {
  /** the day and the epoch in which nothing more was found */
  #done = '';
  #isGoing = false;

  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /** What is older than so many days, and what asks for it all the same. */
  async older(key: string, days: number): Promise<OlderSignals> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const type = catalogue.find('signalType', key);
    if (!type) throw notFound('signal type');
    const before = iso(startOfDay(localDay(this.clock.now(), catalogue.zone) - days, catalogue.zone));
    const [row] = await this.database.query<{ signals: number; people: number }>(
      'select count(*)::int as signals, count(distinct contact_id)::int as people from signal where type_id = $1 and time < $2',
      [type.id, before],
    );
    const definitions = lookingFurtherBack(catalogue, type.id, days);
    return {
      ...{ signals: row?.signals ?? 0, people: row?.people ?? 0 },
      definitions: definitions.map(({ kind, key: named, name }) => ({ kind, key: named, name })),
    };
  }

  /** Begins to forget what is due, without holding up whoever asks. */
  due(): void {
    if (this.#isGoing) return;
    this.#isGoing = true;
    void this.#forget()
      // It is tried again when it is looked at the next time.
      .catch(() => undefined)
      .finally(() => (this.#isGoing = false));
  }

  async #forget(): Promise<void> {
    const { compiled, epoch } = await this.store.current(this.database);
    const { catalogue } = compiled;
    const today = localDay(this.clock.now(), catalogue.zone);
    const state = `${today} ${epoch}`;
    if (state === this.#done) return;
    for (const { id, body } of catalogue.every('signalType')) {
      if (body.keepDays === undefined) continue;
      while (await forgetSome(this.database, this.store, this.clock, id, today));
    }
    this.#done = state;
  }
}
