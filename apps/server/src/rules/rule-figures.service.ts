import { Injectable } from '@nestjs/common';
import { type RuleFigures } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { DefinitionStore } from '../settings/definition-store';

const LATELY_MS = 30 * 86_400_000;

/** How often rules run. */
@Injectable()
export class RuleFiguresService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async figures(): Promise<RuleFigures> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const rows = await this.database.query<{ id: number; fired: number; refused: number; last: Date | null }>(
      `select d.id, coalesce(n.fired, 0)::int as fired, coalesce(n.refused, 0)::int as refused,
              (select l.at from ledger l where l.kind = 'firing' and l.definition_id = d.id and l.verb = 'fired' order by l.id desc limit 1) as last
         from definition d
         left join (select definition_id, count(*) filter (where verb = 'fired') as fired, count(*) filter (where verb = 'refused') as refused
                      from ledger where kind = 'firing' and at >= $1 group by 1) n on n.definition_id = d.id
        where d.kind = 'rule'`,
      [iso(this.clock.now() - LATELY_MS)],
    );
    const byId = new Map(rows.map((row) => [row.id, row]));
    return {
      rules: catalogue.all('rule').map(({ id, key }) => {
        const row = byId.get(id);
        return { key, fired: row?.fired ?? 0, refused: row?.refused ?? 0, lastAt: row?.last?.toISOString() ?? null };
      }),
    };
  }
}
