import { Injectable } from '@nestjs/common';
import { compileMap, toStoredBody, withDefinition, type CompiledMap, type Definition } from '@eager-sieve/core';
import { type MapValues, type MapValuesQuery, type RuleRehearsal } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { rehearseRun, runOf, type Candidate } from './dry-passes';

const DAYS = 90;
const DAY_MS = 86_400_000;
const MOST_VALUES = 500;
/** Stands for a map that is not kept yet. */
const NEW_MAP = 2_147_483_646;

/** Everyone of whom there is a signal that a map reads, as a query of `id` and `company_id`. */
export const mapCandidatesSql = ({ adds, takes }: CompiledMap): { readonly text: string; readonly values: readonly unknown[] } => ({
  text: `select c.id, c.company_id from contact c
          where c.last_now is not null and c.merged_into is null
            and c.id in (select contact_id from signal_sum where type_id = any($1::int[])) order by c.company_id nulls last, c.id`,
  values: [[...new Set([...adds, ...takes])]],
});

/** What signal maps have rows for and what not, and what a map would make of the signals there are. */
@Injectable()
export class MapsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /** What signals have named lately, the most frequent first. */
  async values({ types, path }: MapValuesQuery): Promise<MapValues> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const ids = types.flatMap((key) => catalogue.find('signalType', key)?.id ?? []);
    const [first = '', inner] = path.split('.');
    const from = iso(this.clock.now() - DAYS * DAY_MS);
    const rows = await this.database.query<{ value: string; signals: number; people: number; last: Date }>(
      `select v.value, count(*)::int as signals, count(distinct s.contact_id)::int as people, max(s.time) as last
         from signal s cross join lateral (
           ${
             inner === undefined
               ? `select s.data->>$3 as value`
               : `select distinct e->>$4 as value from jsonb_array_elements(case jsonb_typeof(s.data->$3) when 'array' then s.data->$3 end) e`
           }) v
        where s.type_id = any($1::int[]) and s.time >= $2 and v.value is not null and v.value <> ''
        group by 1 order by 3 desc, 1 limit ${MOST_VALUES}`,
      [ids, from, first, ...(inner === undefined ? [] : [inner])],
    );
    return { days: DAYS, values: rows.map(({ last, ...row }) => ({ ...row, lastAt: last.toISOString() })) };
  }

  /** What a map, as it is written, would make of the signals there are, by the passes that would do it. Nothing is kept. */
  async rehearse(written: unknown, key: string | undefined): Promise<RuleRehearsal> {
    return this.database.snapshot(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const body = toStoredBody('map', written, catalogue, []);
      if (!body.ok) throw faulty(body.faults, 'This map cannot work yet.');
      const known = key ? catalogue.find('map', key) : undefined;
      const definition: Definition<'map'> = {
        ...{ id: known?.id ?? NEW_MAP, kind: 'map', key: key ?? 'new', name: known?.name ?? 'this map' },
        ...{ version: (known?.version ?? 0) + 1, retired: false, epoch: 0, body: { ...body.value, on: true } },
      };
      const checked = compileMap(definition, catalogue);
      if (!checked.ok) throw faulty(checked.faults, 'This map cannot work yet.');
      const now = this.clock.now();
      const asked = mapCandidatesSql(checked.value);
      const candidates = await sql.query<Candidate>(asked.text, asked.values);
      return rehearseRun(sql, {
        compiled: withDefinition(compiled, definition),
        arrival: runOf(definition.id),
        now,
        candidates,
        words: ['sent such signals', 'would be touched'],
      });
    });
  }
}
