import { differences, type Difference } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { type Clock } from './clock';
import { loadStates } from './load-states';

const CHUNK = 500;
const KEPT = 200;

export interface Verified {
  readonly contacts: number;
  /** contacts that a build has not come to yet; their derived state is of an older epoch, and is not compared */
  readonly waiting: number;
  readonly differences: number;
  readonly byKind: Readonly<Record<string, number>>;
  readonly first: readonly { readonly contact: string; readonly what: string }[];
}

/** Everyone there is: not those that were merged into others, nor those that were erased. */
const STANDING = 'select id from contact where merged_into is null union all select id from company';
/** The last effect on each definition_id of each subject. */
const lastOf = (kind: string): string =>
  `select distinct on (l.contact_id, l.definition_id) l.contact_id, l.definition_id, l.verb, l.after from ledger l join (${STANDING}) s on s.id = l.contact_id where l.kind = '${kind}' order by l.contact_id, l.definition_id, l.id desc`;
/** The last effect on what there is one of for each contact. */
const lastAlone = (kind: string): string =>
  `select l.contact_id, l.after from ledger l where l.kind = '${kind}' and not exists (select from ledger n where n.contact_id = l.contact_id and n.kind = l.kind and n.id > l.id)`;

/** Recorded state against the last effect on it, each a query for the contacts where the two disagree. */
const RECORDED: readonly { readonly kind: string; readonly sql: string }[] = [
  {
    kind: 'tag without effect',
    sql: `select t.contact_id, t.tag_id as definition_id from contact_tag t
           where coalesce((select l.verb from ledger l where l.contact_id = t.contact_id and l.kind = 'tag' and l.definition_id = t.tag_id order by l.id desc limit 1), 'none') not in ('added', 'reason added', 'reason removed', 'valued')`,
  },
  {
    kind: 'tag without reason',
    sql: `select t.contact_id, t.tag_id as definition_id from contact_tag t where not exists (select from contact_tag_reason r where r.contact_id = t.contact_id and r.tag_id = t.tag_id)`,
  },
  {
    kind: 'reason without tag',
    sql: `select r.contact_id, r.tag_id as definition_id from contact_tag_reason r where not exists (select from contact_tag t where r.contact_id = t.contact_id and r.tag_id = t.tag_id)`,
  },
  {
    kind: 'tags of the contact row',
    sql: `select c.id as contact_id, null::int as definition_id from contact c
           where c.tags is distinct from coalesce((select array_agg(t.tag_id order by t.tag_id) from contact_tag t where t.contact_id = c.id), '{}')`,
  },
  {
    kind: 'membership without effect',
    sql: `select m.contact_id, m.definition_id as definition_id from membership m join definition d on d.id = m.definition_id and d.kind = 'audience'
           where coalesce((select l.verb from ledger l where l.contact_id = m.contact_id and l.kind = 'membership' and l.definition_id = m.definition_id order by l.id desc limit 1), 'none') <> 'joined'`,
  },
  {
    kind: 'pin without effect',
    sql: `select p.contact_id, p.audience_id as definition_id from contact_pin p join (${STANDING}) s on s.id = p.contact_id
            left join (${lastOf('pin')}) l on l.contact_id = p.contact_id and l.definition_id = p.audience_id
           where l.verb is distinct from 'set' or (l.after->>'in')::boolean is distinct from p.is_in`,
  },
  {
    kind: 'effect without pin',
    sql: `select l.contact_id, l.definition_id from (${lastOf('pin')}) l join definition d on d.id = l.definition_id and not d.deleted and not d.retired
           where l.verb = 'set' and not exists (select from contact_pin p where p.contact_id = l.contact_id and p.audience_id = l.definition_id)`,
  },
  {
    kind: 'firing count',
    sql: `select f.contact_id, f.rule_id as definition_id from rule_firing f
            left join lateral (select l.id, (l.after->>'times')::int as times from ledger l where l.contact_id = f.contact_id and l.kind = 'firing' and l.verb = 'merged' and l.definition_id = f.rule_id
                                  and not exists (select from ledger r where r.reverses = l.id) order by l.id desc limit 1) m on true
           where f.times <> coalesce(m.times, 0) + (select count(*) from ledger l where l.contact_id = f.contact_id and l.kind = 'firing' and l.verb = 'fired' and l.definition_id = f.rule_id and l.id > coalesce(m.id, 0)
                               and not exists (select from ledger r where r.reverses = l.id and r.verb = 'taken back'))`,
  },
  {
    kind: 'effect without tag',
    sql: `select l.contact_id, l.definition_id from (${lastOf('tag')}) l
           where l.verb in ('added', 'reason added', 'reason removed', 'valued') and not exists (select from contact_tag t where t.contact_id = l.contact_id and t.tag_id = l.definition_id)`,
  },
  {
    kind: 'fact without effect',
    sql: `select f.contact_id, f.field_id as definition_id from contact_fact f join (${STANDING}) s on s.id = f.contact_id left join (${lastOf('field')}) l on l.contact_id = f.contact_id and l.definition_id = f.field_id
           where l.verb is distinct from 'set' and l.verb is distinct from 'increased'`,
  },
  {
    kind: 'effect without fact',
    sql: `select l.contact_id, l.definition_id from (${lastOf('field')}) l
           where l.verb in ('set', 'increased') and not exists (select from contact_fact f where f.contact_id = l.contact_id and f.field_id = l.definition_id)`,
  },
  {
    kind: 'list without effect',
    sql: `select l.contact_id, l.definition_id from (${lastOf('membership')}) l join definition d on d.id = l.definition_id and d.body->>'kind' = 'fixed' and not d.deleted
           where (l.verb = 'joined') is distinct from exists (select from membership m where m.contact_id = l.contact_id and m.definition_id = l.definition_id)`,
  },
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
    kind: 'consent',
    sql: `select k.contact_id, null::int as definition_id from contact_consent k
           where k.state is distinct from coalesce((select l.after #>> '{}' from ledger l where l.contact_id = k.contact_id and l.kind = 'consent' and l.channel = k.channel order by l.id desc limit 1), 'unknown')`,
  },
  {
    kind: 'points given',
    sql: `select coalesce(p.contact_id, g.contact_id) as contact_id, null::int as definition_id from (select p.* from contact_points p join (${STANDING}) s on s.id = p.contact_id) p
            full join (select l.contact_id, l.after->>'ref' as ref from ledger l join (${STANDING}) s on s.id = l.contact_id where l.kind = 'points' and l.verb = 'given'
                          and not exists (select from ledger r where r.reverses = l.id and r.verb = 'taken back')) g on g.contact_id = p.contact_id and g.ref = p.ref
           where p.contact_id is null or g.contact_id is null`,
  },
  {
    kind: 'deal stage',
    sql: `select d.holder_id as contact_id, null::int as definition_id from deal d
           where d.stage is distinct from (select l.after->>'stage' from ledger l where l.kind = 'deal' and l.channel = d.outside_id and l.verb <> 'removed' order by l.id desc limit 1)`,
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
      // What a company or a contact has still to be told belongs to the worker.
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
    // What is due but not worked yet belongs to the worker: compare as of the last instant that has been worked.
    const at = state.dueAt !== undefined && state.dueAt <= now ? state.dueAt - 1 : now;
    for (const difference of differences(compiled, state, Math.max(at, state.lastNow))) found(state.id, difference.kind, words(difference));
  }
  return waiting;
}

const words = (difference: Difference): string =>
  `${difference.kind} of ${difference.definition ?? '-'}: kept ${JSON.stringify(difference.kept)}, worked out ${JSON.stringify(difference.fresh)}`;
