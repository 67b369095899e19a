import { type Catalogue, type Change, type TagReason } from '@eager-sieve/core';
import { importOptionsSchema, type ImportOptions } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { type Watch } from '../database/entities';
import { type EditResult } from '../engine/edits.service';
import { type InboxEntry } from '../engine/inbox';
import { kindOf } from './import-kinds';
import { type ImportRow } from './import-row';

/** More than so many at once, and than so large a part of all, are not believed to be gone until somebody says so. */
const MANY = 5;
const LARGE_PART = 0.2;
const AT_ONCE = 500;
/** The key of rows that nobody can be told from. */
const UNREADABLE = '';

/** Why those in a watched file have its tags: the same each time that it is read. */
export const reasonOf = (watch: number): TagReason => ({ kind: 'import', ref: `watch/${watch}` });
const goneReason = (watch: number): TagReason => ({ kind: 'import', ref: `watch/${watch}/gone` });

type Watched = Pick<Watch, 'id' | 'options' | 'gone'>;

/** A watched file as far as its rows need it; nothing where it is watched no more. */
export async function watchOf(sql: Sql, id: number): Promise<Watched | undefined> {
  const [watch] = await sql.query<Watched>('select id, options, gone from watch where id = $1', [id]);
  return watch && { ...watch, options: importOptionsSchema.parse(watch.options) };
}

/**
 * Notes who is in a watched file, in the transaction in which rows of it are taken in.
 *
 * @param results of the rows without faults, in their order
 * @returns what those are told who were gone and are in it again
 */
export async function noteRows(
  sql: Sql,
  catalogue: Catalogue,
  watch: Watched,
  run: { readonly id: number; readonly options: ImportOptions },
  rows: readonly ImportRow[],
  results: readonly EditResult[],
): Promise<readonly InboxEntry[]> {
  const kind = kindOf(run.options);
  const contacts = new Map<string, number | null>();
  let place = 0;
  for (const row of rows) {
    const result = row.faults.length === 0 ? results[place++] : undefined;
    const key = row.write === undefined ? UNREADABLE : kind.keyOf(row.write, run.options).slice(0, 300);
    contacts.set(key, result?.subject ?? contacts.get(key) ?? null);
  }
  const keys = [...contacts.keys()];
  const back = await sql.query<{ contact_id: number }>(
    'select contact_id from watch_row where watch_id = $1 and key = any($2::text[]) and is_gone and contact_id is not null',
    [watch.id, keys],
  );
  await sql.query(
    `insert into watch_row as w (watch_id, key, contact_id, import_id)
     select $1, r.key, r.contact_id, $2 from unnest($3::text[], $4::bigint[]) as r(key, contact_id)
     on conflict (watch_id, key) do update
       set import_id = excluded.import_id, is_gone = false, contact_id = coalesce(excluded.contact_id, w.contact_id)`,
    [watch.id, run.id, keys, [...contacts.values()]],
  );
  const tag = watch.gone.tag === undefined ? undefined : catalogue.find('tag', watch.gone.tag);
  if (!tag) return [];
  const change: Change = { kind: 'tag', tag: tag.id, add: false, reasons: goneReason(watch.id) };
  return entriesFor(sql, back, [change], run.id);
}

/** How many are gone from a file that has been read to its end, and whether that can be believed. */
export async function countGone(
  sql: Sql,
  watch: number,
  importId: number,
): Promise<{ readonly gone: number; readonly isDoubtful: boolean }> {
  const [row] = await sql.query<{ gone: number; here: number; unreadable: number }>(
    `select count(*) filter (where import_id <> $2 and key <> '')::int as gone,
            count(*) filter (where import_id = $2 and key <> '')::int as here,
            count(*) filter (where import_id = $2 and key = '')::int as unreadable
       from watch_row where watch_id = $1 and not is_gone`,
    [watch, importId],
  );
  const { gone = 0, here = 0, unreadable = 0 } = row ?? {};
  return { gone, isDoubtful: gone > 0 && (unreadable > 0 || (gone > MANY && gone > LARGE_PART * (gone + here))) };
}

/**
 * Takes some of those who are gone from a file out of it.
 *
 * @param acts whether what is set for them is done, or they stay as they are
 * @returns what they are told; nobody is left when none were gone
 */
export async function takeGone(
  sql: Sql,
  catalogue: Catalogue,
  watch: Watched,
  importId: number,
  acts: boolean,
): Promise<{ readonly taken: number; readonly entries: readonly InboxEntry[] }> {
  const rows = await sql.query<{ contact_id: number | null }>(
    `update watch_row w set is_gone = true from (
       select key from watch_row where watch_id = $1 and import_id <> $2 and not is_gone and key <> '' order by key limit ${AT_ONCE} for update) r
      where w.watch_id = $1 and w.key = r.key returning w.contact_id`,
    [watch.id, importId],
  );
  // Whoever was merged with somebody who is in it is in it.
  const contacts = await sql.query<{ contact_id: number }>(
    `select c.id as contact_id from contact c
      where c.id = any($1::bigint[]) and not exists (
        select from watch_row h join contact k on k.id = h.contact_id
         where h.watch_id = $2 and h.import_id = $3 and coalesce(k.merged_into, k.id) = coalesce(c.merged_into, c.id))`,
    [rows.flatMap(({ contact_id }) => contact_id ?? []), watch.id, importId],
  );
  return { taken: rows.length, entries: acts ? await entriesFor(sql, contacts, changesOf(catalogue, watch), importId) : [] };
}

/** What is done to whoever is gone. */
function changesOf(catalogue: Catalogue, { id, options, gone }: Watched): readonly Change[] {
  const changes: Change[] = [];
  if (gone.takeOff) {
    for (const key of options.addTags) {
      const tag = catalogue.find('tag', key);
      if (tag) changes.push({ kind: 'tag', tag: tag.id, add: false, reasons: reasonOf(id) });
    }
    const list = options.list === undefined ? undefined : catalogue.find('audience', options.list);
    if (list) changes.push({ kind: 'list', audience: list.id, on: false });
  }
  const tag = gone.tag === undefined ? undefined : catalogue.find('tag', gone.tag);
  if (tag) changes.push({ kind: 'tag', tag: tag.id, add: true, reason: goneReason(id) });
  return changes;
}

/** Those who were merged are told where they are now; who was erased is not. */
async function entriesFor(
  sql: Sql,
  rows: readonly { readonly contact_id: number }[],
  asked: readonly Change[],
  importId: number,
): Promise<readonly InboxEntry[]> {
  if (rows.length === 0 || asked.length === 0) return [];
  const found = await sql.query<{ id: number; lane: number }>(
    `select distinct into_.id, into_.lane from contact c join contact into_ on into_.id = coalesce(c.merged_into, c.id)
      where c.id = any($1::bigint[]) order by into_.id`,
    [rows.map(({ contact_id }) => contact_id)],
  );
  const cause = { kind: 'import', ref: String(importId) } as const;
  return found.map(({ id, lane }) => ({ kind: 'edit', contactId: id, lane, payload: { cause, asked } }));
}
