import { compareSignals, type Catalogue, type Details, type Signal } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { append } from './append';
import { iso } from './clock';
import { type LoadScope } from './load-history';
import { type States } from './parts/part';
import { type SignalKey } from './queries/feed-after';
import { SIGNALS_BY_KEY, SIGNALS_OF } from './queries/signals-of';
import { type Reading } from './readings';

/** A contact with its signals as they are read. */
type SignalsOfContact = readonly [number, readonly SignalParts[]];
type SignalParts = readonly [number, number, number, number, string, 0 | 1, Details, unknown?];

/** Signals that were read; the names of their sources are still to be asked for. */
export class ReadSignals {
  readonly #states: States;
  #read: readonly SignalsOfContact[] = [];

  constructor(states: States) {
    this.#states = states;
  }

  /** The signals of contacts. */
  of(contacts: readonly number[], wanted: LoadScope): Reading {
    const types = wanted === 'all' ? null : [...wanted.signals];
    return this.#reading(SIGNALS_OF, [contacts, types, wanted === 'all' ? [] : [...wanted.data]]);
  }

  /** Single signals of contacts. */
  byKey(wanted: readonly { readonly contact: number; readonly key: SignalKey }[]): Reading {
    return this.#reading(SIGNALS_BY_KEY, [
      wanted.map(({ contact }) => contact),
      wanted.map(({ key: [type] }) => type),
      wanted.map(({ key: [, time] }) => iso(time)),
      wanted.map(({ key: [, , id] }) => id),
    ]);
  }

  #reading(text: string, values: readonly unknown[]): Reading {
    return {
      text,
      values,
      take: (answer) => {
        this.#read = answer as readonly SignalsOfContact[];
      },
    };
  }

  /** Puts them into the states, in order of time within each type. */
  async take(sql: Sql, catalogue: Catalogue): Promise<void> {
    const sources = await sourceNames(
      sql,
      catalogue,
      new Set(this.#read.flatMap(([, signals]) => signals.map(([, , , source]) => source))),
    );
    for (const [contact, signals] of this.#read) {
      const state = this.#states.get(contact);
      for (const [typeId, time, id, source, senderId, historic, details, data] of signals)
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
      for (const some of state?.signals.values() ?? []) if (!inOrder(some)) some.sort(compareSignals);
    }
  }
}

const inOrder = (signals: readonly Signal[]): boolean =>
  signals.every((signal, index) => index === 0 || compareSignals(signals[index - 1] as Signal, signal) < 0);

/** A source keeps its name for ever, so each is asked for once; with the definitions of the next epoch they are forgotten. */
const known = new WeakMap<Catalogue, Map<number, string>>();
const MOST_KNOWN = 10_000;

async function sourceNames(sql: Sql, catalogue: Catalogue, ids: ReadonlySet<number>): Promise<ReadonlyMap<number, string>> {
  const before = known.get(catalogue);
  const names = before && before.size < MOST_KNOWN ? before : new Map<number, string>();
  known.set(catalogue, names);
  const missing = [...ids].filter((id) => !names.has(id));
  if (missing.length === 0) return names;
  const rows = await sql.query<{ id: number; name: string }>('select id, name from source where id = any($1::int[])', [missing]);
  for (const { id, name } of rows) names.set(id, name);
  return names;
}
