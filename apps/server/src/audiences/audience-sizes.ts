import { Injectable } from '@nestjs/common';
import { type Compiled } from '@eager-sieve/core';
import { ownSubjectSql, type Own } from '../contacts/own';
import { CountingService } from '../counting/counting.service';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { isLarge } from './count-by-sql';

export interface AudienceSize {
  readonly members: number;
  /** how many of them can be reached by email */
  readonly reachable: number;
}

/** How many are in audiences. Over many contacts the counting index says so, since counting their rows takes a second over a million. */
@Injectable()
export class AudienceSizes {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly counting: CountingService,
  ) {}

  /** By the id of the audience. @param own only those whom they look after are counted */
  async of({ catalogue, whyBroken }: Compiled, ids: readonly number[], own: Own): Promise<ReadonlyMap<number, AudienceSize>> {
    const sizes = new Map<number, AudienceSize>();
    if (await isLarge(this.database, 'contact')) {
      const instant = this.clock.now();
      for (const id of ids) {
        const audience = catalogue.get('audience', id);
        if (!audience || whyBroken.has(id) || (audience.body.of ?? 'contact') !== 'contact') continue;
        const condition = { kind: 'audience', audience: audience.key, op: 'in' } as const;
        const counted = await this.counting.count({ condition, instant, clock: 'now', own: own?.owners }, false);
        if (!counted) break;
        sizes.set(id, { members: counted.count, reachable: counted.reachable });
      }
    }
    const others = ids.filter((id) => !sizes.has(id));
    if (others.length > 0) for (const [id, size] of await this.#bySql(others, own)) sizes.set(id, size);
    return sizes;
  }

  async #bySql(ids: readonly number[], own: Own): Promise<ReadonlyMap<number, AudienceSize>> {
    const rows = await this.database.query<{ definition_id: number; members: number; reachable: number }>(
      `select m.definition_id, count(*) as members, count(*) filter (where k.state = 'given') as reachable
         from membership m left join contact_consent k on k.contact_id = m.contact_id and k.channel = 'email'
        where m.definition_id = any($1::int[]) and ${ownSubjectSql('m.contact_id', 2)} group by 1`,
      [ids, own?.owners ?? null],
    );
    return new Map(rows.map(({ definition_id, members, reachable }) => [definition_id, { members, reachable }]));
  }
}
