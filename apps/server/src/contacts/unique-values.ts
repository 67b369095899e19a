import { readFact, type Catalogue, type Definition, type Fact, type Fault } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type InboxEntry } from '../engine/inbox';

/** The space of advisory locks in which fields are locked while values are looked for. */
const LOCKS = 7_301;

interface Held {
  readonly id: number;
  readonly fact: Fact;
}

/**
 * What of these changes would give somebody a value that another one has, in a field of which no two have the same. What waits to be worked counts as
 * had, and of two that want the same value at once the first one gets it: until the transaction ends, nobody else may ask.
 *
 * @returns the faults of each change by its place among the entries
 */
export async function sharingFaults(
  sql: Sql,
  catalogue: Catalogue,
  of: 'contact' | 'company',
  entries: readonly InboxEntry[],
): Promise<ReadonlyMap<number, readonly Fault[]>> {
  const faults = new Map<number, Fault[]>();
  for (const field of catalogue.all('field')) {
    if (!field.body.unique || field.body.of !== of) continue;
    const asked = entries.flatMap((entry, at) => {
      const fact = factIn(entry, field, catalogue);
      return fact === undefined ? [] : [{ at, id: entry.contactId, fact }];
    });
    if (asked.length === 0) continue;
    await sql.query('select pg_advisory_xact_lock($1, $2)', [LOCKS, field.id]);
    // What waits is looked at first: it may be worked meanwhile, and then it is had.
    const waits = await waiting(sql, field, catalogue);
    const held = [...waits, ...(await had(sql, field, [...new Set(asked.map(({ fact }) => fact))]))];
    for (const { at, id, fact } of asked) {
      if (held.some((each) => each.id !== id && each.fact === fact)) {
        const expected = `a value that nobody else has: no two have the same ${field.name}`;
        faults.set(at, [...(faults.get(at) ?? []), { path: ['fields', field.key], code: 'value.taken', expected }]);
      } else held.push({ id, fact });
    }
  }
  return faults;
}

function factIn(entry: InboxEntry, field: Definition<'field'>, catalogue: Catalogue): Fact | undefined {
  return entry.kind === 'edit' ? factOfValue(entry.payload.fields?.[field.id], field, catalogue) : undefined;
}

function factOfValue(value: unknown, field: Definition<'field'>, catalogue: Catalogue): Fact | undefined {
  const read = readFact(field.body, value, catalogue.workspace);
  return read.ok ? read.value?.fact : undefined;
}

/** Who has one of these values. */
async function had(sql: Sql, field: Definition<'field'>, facts: readonly Fact[]): Promise<readonly Held[]> {
  const isNumber = typeof facts[0] === 'number';
  const rows = await sql.query<{ id: number; folded: string | null; number: number | null }>(
    isNumber
      ? 'select contact_id as id, folded, number from contact_fact where field_id = $1 and number = any($2::bigint[])'
      : `select contact_id as id, folded, number from contact_fact
          where field_id = $1 and left(folded, 100) in (select left(each, 100) from unnest($2::text[]) each) and folded = any($2::text[])`,
    [field.id, facts],
  );
  return rows.map(({ id, folded, number }) => ({ id, fact: folded ?? number ?? '' }));
}

/** Who is about to get a value. */
async function waiting(sql: Sql, field: Definition<'field'>, catalogue: Catalogue): Promise<readonly Held[]> {
  const rows = await sql.query<{ id: number; value: unknown }>(
    `select contact_id as id, payload -> 'fields' -> $1::text as value from inbox where kind = 'edit' and payload -> 'fields' ? $1::text`,
    [String(field.id)],
  );
  return rows.flatMap(({ id, value }) => {
    const fact = factOfValue(value, field, catalogue);
    return fact === undefined ? [] : [{ id, fact }];
  });
}

/** What has been prepared of a request, and of which of its items each entry is. */
export interface Unshared<Prepared> {
  readonly prepared: Prepared;
  readonly entries: readonly InboxEntry[];
  readonly items: readonly number[];
}

/**
 * Prepares a request without the items that would give somebody a value that another one has: what they made is undone, and they are prepared again
 * with their faults.
 */
export async function unshared<Prepared>(
  sql: Sql,
  catalogue: Catalogue,
  of: 'contact' | 'company',
  prepare: (faultsOf: ReadonlyMap<number, readonly Fault[]>) => Promise<Unshared<Prepared>>,
): Promise<Unshared<Prepared>> {
  if (!catalogue.all('field').some(({ body }) => body.unique && body.of === of)) return prepare(new Map());
  await sql.query('savepoint unshared');
  const first = await prepare(new Map());
  const faults = await sharingFaults(sql, catalogue, of, first.entries);
  if (faults.size === 0) return first;
  await sql.query('rollback to savepoint unshared');
  return prepare(new Map([...faults].map(([at, each]) => [first.items[at] ?? -1, each])));
}
