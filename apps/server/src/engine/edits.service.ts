import { Injectable } from '@nestjs/common';
import { type Catalogue, type Change } from '@eager-sieve/core';
import { type PutContactsAnswer } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { DefinitionStore } from '../settings/definition-store';
import { iso } from './clock';
import { Follower } from './follower';
import { appendToInbox, WAKE, type InboxEntry } from './inbox';
import { ServerClock } from './server-clock';

/** Who asked for an edit, as the ledger names them. */
export interface EditCause {
  readonly kind: 'person' | 'api' | 'import';
  readonly ref: string;
}

type Result = PutContactsAnswer['results'][number];
/** The result for one item of a request, before it has been worked. */
export interface EditResult extends Pick<Result, 'index' | 'faults'> {
  /** the contact or company whose ledger shows whether anything changed */
  readonly subject?: number;
  /** the id of the item itself, where it is here */
  readonly uid: string | null;
  readonly status: Exclude<Result['status'], 'unchanged'>;
  /** it was given an address or an outside id, which the ledger does not show */
  readonly isCompleted?: boolean;
}
export interface PreparedEdits {
  readonly entries: readonly InboxEntry[];
  readonly results: readonly EditResult[];
}
/** What edits are read against. Definitions do not change until the edits are enqueued. */
export interface EditContext {
  readonly sql: Sql;
  readonly catalogue: Catalogue;
  /** milliseconds since 1970 */
  readonly now: number;
}

/** The result of an item with faults. */
export const rejected = (
  index: number,
  faults: readonly { readonly path: readonly (string | number)[]; readonly code: string; readonly expected: string }[],
): EditResult => ({
  index,
  uid: null,
  status: 'rejected',
  faults: faults.map((fault) => ({ ...fault, path: [...fault.path] })),
});

/** The one entry point for changes requested by people and programs: contacts, companies, deals, pins, tasks. */
@Injectable()
export class EditsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
  ) {}

  /** Enqueues edits, without waiting until they have been worked. */
  async enqueue(prepare: (context: EditContext) => Promise<PreparedEdits>) {
    const done = await this.database.sharedEpoch(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const now = this.clock.now();
      const lastEffect = await lastOfLedger(sql);
      const { entries, results } = await prepare({ sql, catalogue, now });
      return { results, lastEffect, seqs: await appendToInbox(sql, entries, iso(now)) };
    });
    if (done.seqs.length > 0) await this.database.query(`select pg_notify('${WAKE}', '')`);
    return done;
  }

  /** Enqueues edits and waits until they have been worked, so that the answer says what really changed. */
  async submit(
    cause: EditCause,
    prepare: (context: EditContext) => Promise<PreparedEdits>,
  ): Promise<readonly (Omit<Result, 'contact'> & { readonly uid: string | null })[]> {
    const { results, seqs, lastEffect } = await this.enqueue(prepare);
    await this.follower.worked(seqs, 60_000);
    const subjects = [...new Set(results.flatMap((result) => result.subject ?? []))];
    const changed = await changedSince(this.database, subjects, lastEffect, cause);
    return results.map(({ subject, isCompleted, ...result }) => ({
      ...result,
      status: result.status === 'updated' && !isCompleted && subject !== undefined && !changed.has(subject) ? 'unchanged' : result.status,
    }));
  }

  /** Requests changes to one contact or company, and waits until they have been worked. */
  async ask(
    cause: EditCause,
    find: (context: EditContext) => Promise<{
      readonly subject: { readonly id: number; readonly lane: number };
      readonly changes: readonly Change[];
    }>,
  ): Promise<void> {
    const { seqs } = await this.enqueue(async (context) => {
      const { subject, changes } = await find(context);
      return {
        entries: [{ kind: 'edit', contactId: subject.id, lane: subject.lane, payload: { cause, asked: changes } }],
        results: [],
      };
    });
    await this.follower.worked(seqs);
  }
}

/** The last id of the ledger that was given out before something is done. The sequence knows it without a look at the ledger, wherever its rows lie. */
async function lastOfLedger(sql: Sql): Promise<number> {
  const [row] = await sql.query<{ last: number }>('select case when is_called then last_value else 0 end as last from ledger_id_seq');
  return row?.last ?? 0;
}

/** Which subjects have effects of a cause since then. */
async function changedSince(sql: Sql, ids: readonly number[], last: number, cause: EditCause): Promise<ReadonlySet<number>> {
  const rows = await sql.query<{ contact_id: number }>(
    'select distinct contact_id from ledger where contact_id = any($1::bigint[]) and id > $2 and cause_kind = $3 and cause_ref = $4',
    [ids, last, cause.kind, cause.ref],
  );
  return new Set(rows.map((row) => row.contact_id));
}
