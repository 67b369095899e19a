import { type SweepRunView } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { type SweepRun } from '../database/entities';

/** How far a run is, and what it did. */
export async function runView(sql: Sql, run: SweepRun): Promise<SweepRunView> {
  const [waiting] = await sql.query<{ n: number }>(
    `select (select count(*)::int from sweep_waiting where run_id = $1)
          + (select count(*)::int from inbox where kind = 'sweep' and payload->>'run' = $2 or kind = 'edit' and payload->'cause' @> jsonb_build_object('kind', 'sweep', 'ref', $2::text)) as n`,
    [run.id, String(run.id)],
  );
  const rows = await sql.query<{ name: string; n: number }>(
    `select kind || ' ' || verb as name, count(*)::int as n from ledger where cause_kind = 'sweep' and cause_ref = $1 group by 1`,
    [String(run.id)],
  );
  const [of] = await sql.query<{ touched: number; refused: number }>(
    `select count(distinct l.contact_id) filter (where d.kind is distinct from 'rule' or l.kind = 'firing' and l.verb = 'fired' and l.definition_id = d.id)::int as touched,
            count(distinct l.contact_id) filter (where l.kind = 'firing' and l.verb = 'refused' and l.definition_id = d.id)::int as refused
       from ledger l left join definition d on d.id = $2 where l.cause_kind = 'sweep' and l.cause_ref = $1`,
    [String(run.id), run.definitionId],
  );
  const changes: Record<string, number> = {};
  for (const { name, n } of rows) if (!name.startsWith('firing ')) changes[name] = (changes[name] ?? 0) + n;
  return {
    id: run.id,
    of: run.of,
    version: run.version,
    what: run.what,
    by: run.byRef,
    plannedFor: run.plannedFor?.toISOString() ?? null,
    state: run.state,
    total: run.total,
    looked: run.state === 'done' ? run.total : run.total - (waiting?.n ?? 0),
    touched: of?.touched ?? 0,
    refused: of?.refused ?? 0,
    changes,
    startedAt: run.startedAt.toISOString(),
    endedAt: run.endedAt?.toISOString() ?? null,
  };
}
