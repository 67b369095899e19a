import { compareSignals, type Details, type Signal } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { append } from './append';
import { type LoadScope } from './load-history';
import { type States } from './parts/part';
import { type SignalKey } from './queries/feed-after';
import { signalsByKey } from './queries/signals-by-key';
import { signalsOf, type SignalsOfContact } from './queries/signals-of';

/** A signal as `signalsOf` gives it. */
type SignalParts = readonly [number, number, number, number, string, 0 | 1, Details, unknown?];

/** The signals of contacts, in order of time within each type. */
export async function loadSignals(sql: Sql, states: States, wanted: LoadScope): Promise<void> {
  const types = wanted === 'all' ? null : [...wanted.signals];
  await take(sql, states, await signalsOf(sql, [...states.keys()], types, wanted === 'all' ? [] : [...wanted.data]));
}

/** Single signals of contacts, in the same order. */
export async function loadSignalsByKey(
  sql: Sql,
  states: States,
  wanted: readonly { readonly contact: number; readonly key: SignalKey }[],
): Promise<void> {
  if (wanted.length > 0) await take(sql, states, await signalsByKey(sql, wanted));
}

async function take(sql: Sql, states: States, rows: readonly SignalsOfContact[]): Promise<void> {
  const read = rows.map((row) => ({ state: states.get(row.contact_id), parts: JSON.parse(`[${row.signals}]`) as readonly SignalParts[] }));
  const sources = await sourceNames(sql, new Set(read.flatMap(({ parts }) => parts.map(([, , , source]) => source))));
  for (const { state, parts } of read) {
    for (const [typeId, time, id, source, senderId, historic, details, data] of parts)
      append(state?.signals, typeId, {
        id,
        typeId,
        time,
        source: sources.get(source) ?? '',
        senderId,
        details,
        historic: historic === 1,
        ...(data === undefined ? {} : { data }),
      } satisfies Signal);
    for (const signals of state?.signals.values() ?? []) if (!inOrder(signals)) signals.sort(compareSignals);
  }
}

const inOrder = (signals: readonly Signal[]): boolean =>
  signals.every((signal, index) => index === 0 || compareSignals(signals[index - 1] as Signal, signal) < 0);

async function sourceNames(sql: Sql, ids: ReadonlySet<number>): Promise<ReadonlyMap<number, string>> {
  if (ids.size === 0) return new Map();
  const rows = await sql.query<{ id: number; name: string }>('select id, name from source where id = any($1::int[])', [[...ids]]);
  return new Map(rows.map((row) => [row.id, row.name]));
}
