import { builtInFields, ownFields, type FieldBody } from '@eager-sieve/core';
import { iso } from '../engine/clock';
import { writeSetting } from '../ledger/settings-ledger';
import { type Sql } from './database';

/** A field of the workspace whose key the product needs for one of its own. */
export interface GivenAnotherKey {
  readonly name: string;
  readonly from: string;
  readonly to: string;
}

interface Stored {
  readonly id: number;
  readonly key: string;
  readonly name: string;
  readonly version: number;
  readonly body: FieldBody;
}

/**
 * A new version of the product can bring a field under a key that the workspace has given to one of its own. Where that one is of the same
 * kind, it serves as the product's. Otherwise the product would write into it what it is not for, or keep people from it: then it is given
 * another key, with everything that is known by it, and what names it by its key names it by the new one. A field of deals stays, since
 * deals and conditions know it by its key.
 */
export async function freeKeysInUse(sql: Sql, now: number): Promise<readonly GivenAnotherKey[]> {
  // What the product brought has no first version: nobody saved it.
  const own = await sql.query<Stored>(
    `select d.id, d.key, d.name, d.version, d.body from definition d
      where d.kind = 'field' and d.key = any($1::text[]) and d.body->>'of' <> 'deal'
        and exists (select from definition_version v where v.definition_id = d.id and v.version = 1) order by d.id`,
    [builtInFields.map(({ key }) => key)],
  );
  const inTheWay = own.filter((field) => !servesAsOurs(field));
  const given: GivenAnotherKey[] = [];
  for (const { id, key, name, version } of inTheWay) {
    const to = await freeKey(sql, key);
    await sql.query('update definition set key = $2, changed_at = $3 where id = $1', [id, to, iso(now)]);
    await nameAnew(sql, key, to);
    await writeSetting(sql, 'changed', { version, key: { from: key, to } }, 'upgrade', now, id);
    given.push({ name, from: key, to });
  }
  return given;
}

/** Whether a field of the workspace holds just what the product's own of that key would. */
function servesAsOurs({ key, body }: Stored): boolean {
  const ours = builtInFields.find((each) => each.key === key)?.body;
  const options = new Set((body.options ?? []).map((option) => option.key));
  return (
    ours !== undefined &&
    !ownFields.includes(key) &&
    body.of === ours.of &&
    body.type === ours.type &&
    (ours.options ?? []).every((option) => options.has(option.key))
  );
}

async function freeKey(sql: Sql, key: string): Promise<string> {
  for (let n = 1; ; n += 1) {
    const free = n === 1 ? `own-${key}` : `own-${key}-${n}`;
    const [taken] = await sql.query(`select from definition where kind = 'field' and key = $1`, [free]);
    if (!taken) return free;
  }
}

/** Definitions name fields by their ids; by their keys do the texts of messages, and the columns of imports, watched places, hooks and lists. */
async function nameAnew(sql: Sql, from: string, to: string): Promise<void> {
  for (const [table, column] of [
    ['import_run', 'options'],
    ['watch', 'options'],
    ['hook', 'reads'],
  ] as const)
    await sql.query(
      `update ${table} set ${column} = jsonb_set(${column}, '{mapping}',
              (${column}->'mapping') - $1::text || jsonb_build_object($2::text, ${column}->'mapping'->$1::text))
        where ${column}->'mapping' ? $1::text`,
      [`field:${from}`, `field:${to}`],
    );
  await sql.query(
    `update definition set body = regexp_replace(body::text, '\\[' || $1 || '(\\]|\\s+or\\s)', '[' || $2 || '\\1', 'g')::jsonb where kind = 'message'`,
    [from.replaceAll('.', '\\.'), to],
  );
  const lists = await sql.query<{ id: number; columns: unknown }>('select id, columns from worklist where columns::text like $1', [
    `%${from}%`,
  ]);
  for (const { id, columns } of lists)
    await sql.query('update worklist set columns = $2::jsonb where id = $1', [id, JSON.stringify(withField(columns, from, to))]);
}

/** The same, with another field wherever one is named by that key. */
function withField(value: unknown, from: string, to: string): unknown {
  if (Array.isArray(value)) return value.map((each) => withField(each, from, to));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, inner]) => [name, name === 'field' && inner === from ? to : withField(inner, from, to)]),
  );
}
