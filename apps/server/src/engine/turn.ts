import {
  pass,
  readFact,
  type Arrival,
  type Catalogue,
  type Change,
  type Compiled,
  type ContactState,
  type Effect,
  type Signal,
} from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { writeFeed } from './feed';
import { MOVED, type EditPayload, type SignalPayload } from './inbox';
import { loadStates } from './load-states';
import { writeStates, type WorkedContact } from './write-states';

const LANES_AT_ONCE = 16;
const ROWS_AT_ONCE = 500;
const DUE_AT_ONCE = 500;

interface InboxRow {
  lane: number;
  seq: number;
  contact_id: number;
  kind: 'signal' | 'edit';
  arrived_at: Date;
  payload: unknown;
}

/**
 * One turn of a worker, in one transaction: locks a few lanes that have something to do, works what waits there, writes all of it, and commits.
 * A crash anywhere leaves the whole turn undone, so everything is worked exactly once.
 *
 * @returns how many inbox rows and due contacts were worked; 0 when there was nothing to do
 */
export async function turn(database: Database, store: DefinitionStore, clock: Clock, owner: string): Promise<number> {
  return database
    .sharedEpoch(async (sql) => {
      const now = clock.now();
      const lanes = await lockLanes(sql, now, owner);
      if (lanes.length === 0) return 0;
      const rows = await sql.query<InboxRow>(
        'select lane, seq, contact_id, kind, arrived_at, payload from inbox where lane = any($1::smallint[]) order by seq limit $2',
        [lanes, ROWS_AT_ONCE],
      );
      const due = await sql.query<{ contact_id: number; lane: number }>(
        'select contact_id, lane from due where lane = any($1::smallint[]) and due_at <= $2 order by due_at limit $3',
        [lanes, iso(now), DUE_AT_ONCE],
      );
      if (rows.length + due.length === 0) return 0;
      const { compiled, epoch } = await store.current(sql);
      const laneOfContact = new Map([...rows, ...due].map((row) => [row.contact_id, row.lane]));
      const states = await loadStates(sql, compiled.catalogue, [...laneOfContact.keys()], compiled.signalTypesRead());
      const worked = new Map<number, WorkedContact & { effects: Effect[]; signals: number }>();
      for (const [id, state] of states) worked.set(id, { state, lane: laneOfContact.get(id) ?? 0, effects: [], signals: 0 });

      for (const row of rows) {
        const contact = worked.get(row.contact_id);
        if (!contact) continue;
        const arrivedAt = row.arrived_at.getTime();
        runOverdue(compiled, contact, arrivedAt);
        contact.effects.push(...pass(compiled, contact.state, arrivalOf(row, compiled.catalogue), arrivedAt));
        if (row.kind === 'signal') contact.signals += 1;
      }
      for (const contact of worked.values()) runOverdue(compiled, contact, now);

      await writeSignals(sql, rows);
      const all = [...worked.values()];
      await writeStates(sql, compiled.catalogue, epoch, all);
      await sql.query(
        'delete from inbox i using unnest($1::smallint[], $2::bigint[]) as r(lane, seq) where i.lane = r.lane and i.seq = r.seq',
        [rows.map((row) => row.lane), rows.map((row) => row.seq)],
      );
      await writeFeed(sql, all, [...new Set(all.map((contact) => contact.lane))], now);
      return rows.length + due.length;
    })
    .then(async (count) => {
      // After the commit, and on another connection: a NOTIFY inside the transaction would hold up everyone who commits.
      if (count > 0) await database.query(`select pg_notify('${MOVED}', '')`);
      return count;
    });
}

/** Lanes with something to do that nobody else holds, those worked before first. */
async function lockLanes(sql: Sql, now: number, owner: string): Promise<readonly number[]> {
  const rows = await sql.query<{ lane: number }>(
    `select l.lane from lane l
      where exists (select from inbox i where i.lane = l.lane) or exists (select from due d where d.lane = l.lane and d.due_at <= $1)
      order by (l.owner is not distinct from $2) desc, l.lane
      limit $3 for update skip locked`,
    [iso(now), owner, LANES_AT_ONCE],
  );
  return rows.map((row) => row.lane);
}

/** The steps of the clock that lie before `until`, in order, each with its own instant as *now*. */
export function runOverdue(compiled: Compiled, contact: { readonly state: ContactState; readonly effects: Effect[] }, until: number): void {
  while (contact.state.dueAt !== undefined && contact.state.dueAt <= until) {
    const at = contact.state.dueAt;
    contact.effects.push(...pass(compiled, contact.state, { kind: 'due' }, at));
    // A clock that was moved can leave the contact ahead of its own due time: one pass has then covered it.
    if (contact.state.dueAt !== undefined && contact.state.dueAt <= at) contact.state.dueAt = undefined;
  }
}

function arrivalOf(row: InboxRow, catalogue: Catalogue): Arrival {
  if (row.kind === 'signal') {
    const payload = row.payload as SignalPayload;
    return { kind: 'signal', signal: signalOf(payload), data: payload.data };
  }
  const payload = row.payload as EditPayload;
  return { kind: 'edit', changes: changesOf(payload, catalogue, row.arrived_at.getTime()), cause: payload.cause };
}

const signalOf = (payload: SignalPayload): Signal => ({
  id: payload.id,
  typeId: payload.typeId,
  time: payload.time,
  source: payload.source,
  senderId: payload.senderId,
  details: payload.details,
  historic: payload.historic,
});

function changesOf(payload: EditPayload, catalogue: Catalogue, at: number): readonly Change[] {
  const changes: Change[] = [];
  for (const [id, value] of Object.entries(payload.fields ?? {})) {
    const field = catalogue.get('field', Number(id));
    const read = field && readFact(field.body, value, catalogue.zone);
    if (read?.ok) changes.push({ kind: 'field', field: Number(id), value: read.value });
  }
  const reason = payload.reason ?? { kind: 'api', ref: '' };
  for (const tag of payload.addTags ?? []) changes.push({ kind: 'tag', tag, add: true, reason });
  for (const tag of payload.removeTags ?? []) changes.push({ kind: 'tag', tag, add: false, reason });
  for (const [channel, state] of Object.entries(payload.consent ?? {}))
    changes.push({ kind: 'consent', channel: channel as 'email', state, at });
  return changes;
}

async function writeSignals(sql: Sql, rows: readonly InboxRow[]): Promise<void> {
  const signals = rows.filter((row) => row.kind === 'signal');
  if (signals.length === 0) return;
  await sql.query(
    `insert into signal (contact_id, type_id, time, id, source_id, sender_id, day, amount, historic, received_at, details, data)
     select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, type_id int, time timestamptz, id bigint, source_id int, sender_id text, day int, amount bigint,
            historic boolean, received_at timestamptz, details jsonb, data jsonb)`,
    [
      JSON.stringify(
        signals.map((row) => {
          const payload = row.payload as SignalPayload;
          return {
            contact_id: row.contact_id,
            type_id: payload.typeId,
            time: iso(payload.time),
            id: payload.id,
            source_id: payload.sourceId,
            sender_id: payload.senderId,
            day: payload.day,
            amount: payload.details['amount'] ?? null,
            historic: payload.historic,
            received_at: row.arrived_at.toISOString(),
            details: payload.details,
            data: payload.data,
          };
        }),
      ),
    ],
  );
  await sql.query(
    `insert into signal_sum (contact_id, type_id, n, first, last)
     select contact_id, type_id, count(*), min(time), max(time) from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, type_id int, time timestamptz) group by 1, 2
     on conflict (contact_id, type_id) do update
        set n = signal_sum.n + excluded.n, first = least(signal_sum.first, excluded.first), last = greatest(signal_sum.last, excluded.last)`,
    [
      JSON.stringify(
        signals.map((row) => {
          const payload = row.payload as SignalPayload;
          return { contact_id: row.contact_id, type_id: payload.typeId, time: iso(payload.time) };
        }),
      ),
    ],
  );
}
