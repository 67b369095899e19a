import { Injectable } from '@nestjs/common';
import { type Catalogue } from '@eager-sieve/core';
import { type CircleView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { Follower } from '../engine/follower';
import { appendToInbox, WAKE, type InboxEntry } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';

/** So many effects are looked back from where it was stopped, to find the rules that came round again. */
const ROUND_LOOKED_BACK = 200;
/** So many contacts are let on in one transaction. */
const AT_ONCE = 1_000;

/** Rules that set each other off in a circle, for whom they are held back since, and the way on. */
@Injectable()
export class CirclesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
  ) {}

  /** Every rule that is held back for somebody, with the rules that went round with it where that happened last. */
  async list(catalogue: Catalogue): Promise<readonly CircleView[]> {
    const rows = await this.database.query<{ rule_id: number; held: number; last: Date; round: number[] | null }>(
      `select h.rule_id, h.held, h.last, r.round from (
         select rule_id, count(*)::int as held, max(since) as last, (array_agg(contact_id order by since desc))[1] as latest
           from suspended_rule group by rule_id) h
       left join lateral (
         with recursive up(id, parent, kind, verb, definition_id, step) as (
           select l.id, l.parent, l.kind, l.verb, l.definition_id, 1 from ledger l
            where l.contact_id = h.latest and l.at = h.last and l.kind = 'firing' and l.verb = 'circling' and l.definition_id = h.rule_id
           union all
           select p.id, p.parent, p.kind, p.verb, p.definition_id, step + 1 from up join ledger p on p.id = up.parent where step < ${ROUND_LOOKED_BACK})
         select array_agg(f.definition_id) as round from (
           select definition_id from up where kind = 'firing' and verb = 'fired' group by definition_id having count(*) > 1) f) r on true
       order by h.last desc`,
    );
    return rows.flatMap(({ rule_id, held, last, round }): CircleView[] => {
      const rule = catalogue.get('rule', rule_id);
      if (!rule || rule.retired) return [];
      const others = (round ?? []).filter((id) => id !== rule_id).flatMap((id) => catalogue.get('rule', id) ?? []);
      return [
        {
          key: rule.key,
          name: rule.name,
          held,
          of: rule.body.of,
          since: last.toISOString(),
          with: others.map((other) => ({ key: other.key, name: other.name })),
        },
      ];
    });
  }

  async of(key: string): Promise<CircleView | null> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    return (await this.list(catalogue)).find((circle) => circle.key === key) ?? null;
  }

  /** Lets a rule run again for everyone for whom it was held back, and waits until that has been worked. */
  async letOn(key: string, by: string): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const rule = catalogue.find('rule', key);
    if (!rule) throw notFound('rule');
    for (let after = 0; ;) {
      const { last, seqs } = await this.database.sharedEpoch(async (sql) => {
        const rows = await sql.query<{ id: number; lane: number }>(
          `select s.id, s.lane from suspended_rule h join (select id, lane from contact union all select id, lane from company) s on s.id = h.contact_id
            where h.rule_id = $1 and s.id > $2 order by s.id limit $3`,
          [rule.id, after, AT_ONCE],
        );
        const entries = rows.map(({ id, lane }): InboxEntry => ({
          kind: 'edit',
          contactId: id,
          lane,
          payload: { cause: { kind: 'person', ref: by }, asked: [{ kind: 'let on', rule: rule.id }] },
        }));
        return { last: rows.at(-1)?.id, seqs: await appendToInbox(sql, entries, iso(this.clock.now())) };
      });
      if (last === undefined) return;
      await this.database.query(`select pg_notify('${WAKE}', '')`);
      await this.follower.worked(seqs, 60_000);
      after = last;
    }
  }
}
