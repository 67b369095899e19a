import { differences, type Difference } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { type Clock } from './clock';
import { loadStates } from './load-states';
import { ALL_PARTS } from './parts';
import { lastAlone } from './parts/checks';
import { type Check } from './parts/part';

const CHUNK = 500;
const KEPT = 200;

export interface Verified {
  readonly contacts: number;
  /** contacts that a build has not reached yet; their derived state is of an older epoch and is not compared */
  readonly waiting: number;
  readonly differences: number;
  readonly byKind: Readonly<Record<string, number>>;
  readonly first: readonly { readonly contact: string; readonly what: string }[];
}

/** Queries for contacts whose recorded state disagrees with the last effect on it. */
const RECORDED: readonly Check[] = [
  ...ALL_PARTS.flatMap((part) => part.checks),
  {
    kind: 'stage',
    sql: `select c.id as contact_id, c.stage_id as definition_id from contact c left join (${lastAlone('stage')}) l on l.contact_id = c.id
           where c.merged_into is null and c.stage_id is distinct from (l.after->>'stage')::int`,
  },
  {
    kind: 'owner',
    sql: `select c.id as contact_id, null::int as definition_id from contact c left join (${lastAlone('owner')}) l on l.contact_id = c.id
           where c.merged_into is null and c.owner is distinct from (l.after #>> '{}')`,
  },
  {
    kind: 'company of a contact',
    sql: `select c.id as contact_id, null::int as definition_id from contact c left join (${lastAlone('company')} and l.verb in ('set', 'cleared')) l on l.contact_id = c.id
           where c.merged_into is null and c.company_id is distinct from (l.after #>> '{}')::bigint`,
  },
  {
    kind: 'signal sums',
    sql: `select u.contact_id, u.type_id as definition_id from signal_sum u
            left join (select contact_id, type_id, count(*)::int as n, min(time) as first, max(time) as last from signal group by 1, 2) s using (contact_id, type_id)
           where (u.n, u.first, u.last) is distinct from (s.n, s.first, s.last)`,
  },
];

/**
 * Works out all derived state of every contact from scratch and compares it exactly with what is kept, and recorded state with the ledger.
 * Each chunk of contacts is read from one snapshot, so this can run while signals flow.
 */
export async function verify(
  database: Database,
  store: DefinitionStore,
  clock: Clock,
  progress: (done: number) => void = () => undefined,
): Promise<Verified> {
  const byKind: Record<string, number> = {};
  const first: { contactId: number; what: string }[] = [];
  const found = (contactId: number, kind: string, what: string): void => {
    byKind[kind] = (byKind[kind] ?? 0) + 1;
    if (first.length < KEPT) first.push({ contactId, what });
  };
  let contacts = 0;
  let waiting = 0;
  let after = 0;
  for (;;) {
    const ids = await database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      // Messages still waiting for a company or contact are the worker's business.
      const rows = await sql.query<{ id: number; told: boolean }>(
        `select s.id, not exists (select from company_touched t where t.company_id = s.id)
                  and not exists (select from inbox i where i.contact_id = s.id and i.kind in ('touch', 'edit'))
                  and not exists (select from inbox i where i.contact_id = s.company_id and i.kind = 'fan') as told
           from (select id, company_id from contact where id > $1 and last_now is not null and merged_into is null
                 union all select id, null from company where id > $1 and last_now is not null) s
          order by s.id limit $2`,
        [after, CHUNK],
      );
      waiting += await checkDerived(
        sql,
        store,
        clock,
        rows.filter((row) => row.told).map((row) => row.id),
        found,
      );
      waiting += rows.filter((row) => !row.told).length;
      return rows.map((row) => row.id);
    });
    contacts += ids.length;
    progress(contacts);
    if (ids.length < CHUNK) break;
    after = ids.at(-1) as number;
  }
  for (const check of RECORDED) {
    for (const row of await database.query<{ contact_id: number; definition_id: number | null }>(check.sql))
      found(row.contact_id, check.kind, `${check.kind} ${row.definition_id ?? ''}`);
  }
  const names = await database.query<{ id: number; uid: string }>(
    'select id, uid from contact where id = any($1::bigint[]) union all select id, uid from company where id = any($1::bigint[])',
    [first.map((each) => each.contactId)],
  );
  return {
    contacts,
    waiting,
    differences: Object.values(byKind).reduce((sum, n) => sum + n, 0),
    byKind,
    first: first.map(({ contactId, what }) => ({ contact: names.find((row) => row.id === contactId)?.uid ?? String(contactId), what })),
  };
}

async function checkDerived(
  sql: Sql,
  store: DefinitionStore,
  clock: Clock,
  ids: readonly number[],
  found: (contactId: number, kind: string, what: string) => void,
): Promise<number> {
  if (ids.length === 0) return 0;
  let waiting = 0;
  const { compiled } = await store.current(sql);
  const states = await loadStates(sql, compiled.catalogue, ids, compiled.needs);
  const now = clock.now();
  for (const state of states.values()) {
    if (compiled.derivedFor(state.kind).some((derived) => derived.epoch > state.epoch)) {
      waiting += 1;
      continue;
    }
    // Due work is the worker's business: compare as of the last instant worked.
    const at = state.dueAt !== undefined && state.dueAt <= now ? state.dueAt - 1 : now;
    for (const difference of differences(compiled, state, Math.max(at, state.lastNow))) found(state.id, difference.kind, words(difference));
  }
  return waiting;
}

const words = (difference: Difference): string =>
  `${difference.kind} of ${difference.definition ?? '-'}: kept ${JSON.stringify(difference.kept)}, worked out ${JSON.stringify(difference.fresh)}`;
