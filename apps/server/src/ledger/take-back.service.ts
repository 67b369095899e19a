import { Injectable } from '@nestjs/common';
import { effectWords } from '@eager-sieve/core';
import { type TakeBackAnswer } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { takeBackEffects } from '../engine/take-back';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from './ledger.service';

/** So many firings at a time, so that lanes are held for a moment only. */
const FIRINGS_AT_ONCE = 200;
const STAYS_TOLD = 200;

/** Takes back an effect, or all that a rule did, with everything that came of it; says what stays and why. */
@Injectable()
export class TakeBackService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /** @param id in the ledger */
  async effect(id: number, by: string): Promise<TakeBackAnswer> {
    const [found] = await this.database.query(`select id from ledger where id = $1 and contact_id is not null and reverses is null`, [id]);
    if (!found) throw notFound('effect');
    return this.#take([id], by);
  }

  /**
   * Everything that a rule did and that still stands, of all its versions, newest first.
   *
   * @param since only what it did from then on, in ms
   */
  async rule(key: string, since: number | undefined, by: string): Promise<TakeBackAnswer> {
    const { compiled } = await this.store.current(this.database);
    const rule = compiled.catalogue.find('rule', key);
    if (!rule) throw notFound('rule');
    const total = { effects: 0, subjects: 0, stays: [] as TakeBackAnswer['stays'] };
    // Those that stay would be found again: each is looked at once.
    let before: number | null = null;
    for (;;) {
      const rows: readonly { id: number }[] = await this.database.query<{ id: number }>(
        `select l.id from ledger l
          where l.kind = 'firing' and l.verb = 'fired' and l.thing = $1 and ($2::bigint is null or l.id < $2::bigint)
            and ($3::timestamptz is null or l.at >= $3::timestamptz) and not exists (select from ledger r where r.reverses = l.id)
          order by l.id desc limit $4`,
        [rule.id, before, since === undefined ? null : new Date(since).toISOString(), FIRINGS_AT_ONCE],
      );
      const last = rows.at(-1);
      if (!last) return total;
      const part = await this.#take(
        rows.map((row) => row.id),
        by,
      );
      total.effects += part.effects;
      total.subjects += part.subjects;
      total.stays.push(...part.stays.slice(0, STAYS_TOLD - total.stays.length));
      before = last.id;
    }
  }

  async #take(roots: readonly number[], by: string): Promise<TakeBackAnswer> {
    const { effects, subjects, stays } = await takeBackEffects(this.database, this.store, this.clock, roots, by);
    if (stays.length === 0) return { effects, subjects, stays: [] };
    const { compiled } = await this.store.current(this.database);
    const rows = await this.database.query<StoredEffect>(`select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.id = any($1::bigint[])`, [
      stays.map((each) => each.entry),
    ]);
    const byId = new Map(rows.map((row) => [row.id, row]));
    return {
      effects,
      subjects,
      stays: stays.slice(0, STAYS_TOLD).map(({ entry, why }) => {
        const row = byId.get(entry);
        return {
          contact: row?.uid ?? null,
          name: row?.contact_name ?? null,
          what: row ? effectWords({ ...row, ruleVersion: row.rule_version }, compiled.catalogue) : 'an effect',
          why,
        };
      }),
    };
  }
}
