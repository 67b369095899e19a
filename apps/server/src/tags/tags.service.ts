import { Injectable } from '@nestjs/common';
import { TAG_WEEKS, type TagFiguresView } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { DefinitionStore } from '../settings/definition-store';

const WEEK_MS = 7 * 86_400_000;
/** Pairs of which fewer share are of no use to anybody. */
const FEWEST_SHARED = 5;
const LEAST_SHARE = 0.8;

/** What there is to count about the tags of the plan. */
@Injectable()
export class TagsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  figures(): Promise<TagFiguresView> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const now = this.clock.now();
      const held = await sql.query<{ tag: number; people: number; bare: number }>(
        'select tag_id as tag, count(*)::int as people, count(*) filter (where value is null)::int as bare from contact_tag group by 1',
      );
      const moved = await sql.query<{ tag: number; verb: string; weeks_ago: number; n: number }>(
        `select definition_id as tag, verb, floor(extract(epoch from $1::timestamptz - at) * 1000 / ${WEEK_MS})::int as weeks_ago, count(*)::int as n
           from ledger where kind = 'tag' and verb in ('added', 'removed') and at > $2 and at <= $1 group by 1, 2, 3`,
        [iso(now), iso(now - TAG_WEEKS * WEEK_MS)],
      );
      const last = await sql.query<{ tag: number; at: Date | null }>(
        `select d.id as tag,
                (select l.at from ledger l where l.kind = 'tag' and l.definition_id = d.id and l.verb in ('added', 'reason added', 'valued')
                  order by l.id desc limit 1) as at
           from definition d where d.kind = 'tag'`,
      );
      const others = new Set(
        (
          await sql.query<{ tag: number }>(`select distinct tag_id as tag from contact_tag_reason where kind in ('hand', 'import', 'api')`)
        ).map((row) => row.tag),
      );
      const weeks = (tag: number, verb: string): number[] => {
        const counted = new Array<number>(TAG_WEEKS).fill(0);
        for (const row of moved) if (row.tag === tag && row.verb === verb) counted[TAG_WEEKS - 1 - row.weeks_ago] = row.n;
        return counted;
      };
      const people = new Map(held.map((row) => [row.tag, row]));
      return {
        tags: catalogue.all('tag').map(({ id, key, body }) => {
          const lastGiven = last.find((row) => row.tag === id)?.at;
          return {
            key,
            people: people.get(id)?.people ?? 0,
            withoutValue: body.value === undefined ? 0 : (people.get(id)?.bare ?? 0),
            given: weeks(id, 'added'),
            lost: weeks(id, 'removed'),
            lastGivenAt: lastGiven?.toISOString() ?? null,
            givenByOthers: others.has(id),
          };
        }),
        overlaps: await this.#overlaps(sql, people, (id) => catalogue.get('tag', id)?.key),
      };
    });
  }

  async #overlaps(
    sql: Sql,
    people: ReadonlyMap<number, { readonly people: number }>,
    keyOf: (tag: number) => string | undefined,
  ): Promise<TagFiguresView['overlaps']> {
    const pairs = await sql.query<{ a: number; b: number; n: number }>(
      `select a.tag_id as a, b.tag_id as b, count(*)::int as n from contact_tag a
         join contact_tag b on b.contact_id = a.contact_id and b.tag_id > a.tag_id group by 1, 2 having count(*) >= ${FEWEST_SHARED}`,
    );
    return pairs.flatMap(({ a, b, n }): TagFiguresView['overlaps'] => {
      const either = (people.get(a)?.people ?? 0) + (people.get(b)?.people ?? 0) - n;
      const keys = [keyOf(a), keyOf(b)];
      if (n < either * LEAST_SHARE || keys[0] === undefined || keys[1] === undefined) return [];
      return [{ tags: [keys[0], keys[1]], both: n }];
    });
  }
}
