import { Injectable } from '@nestjs/common';
import { type SetAsideView } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { WAKE, type SignalPayload } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { AGAIN_MS } from '../engine/set-aside';
import { notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';

const SHOWN = 200;
/** What is tried again by itself is shown for a little longer than until then: it has been worked if it does not come back. */
const GRACE_MS = 300_000;

interface AsideRow extends SubjectRow {
  readonly id: number;
  readonly kind: SetAsideView['kind'];
  readonly payload: unknown;
  readonly arrived_at: Date;
  readonly set_aside_at: Date;
  readonly code: string;
}

/** What could not be worked: shown, tried again, dropped. */
@Injectable()
export class SetAsideService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly store: DefinitionStore,
  ) {}

  async list(): Promise<SetAsideView[]> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const rows = await this.database.query<AsideRow>(
      `select s.id, s.kind, s.payload, s.arrived_at, s.set_aside_at, s.code, ${SUBJECT_COLUMNS}
         from set_aside s ${subjectJoins('s.contact_id')} where s.seq is not null or s.set_aside_at > $1 order by s.id limit ${SHOWN}`,
      [this.#stillDue()],
    );
    return rows.map((row) => ({
      id: row.id,
      kind: row.kind,
      what:
        row.kind === 'signal' ? (catalogue.get('signalType', (row.payload as SignalPayload).typeId)?.name ?? 'a signal') : WORDS[row.kind],
      ...subjectView(row),
      arrivedAt: row.arrived_at.toISOString(),
      setAsideAt: row.set_aside_at.toISOString(),
      code: row.code,
    }));
  }

  async count(): Promise<number> {
    const [row] = await this.database.query<{ n: number }>(
      'select count(*)::int as n from set_aside where seq is not null or set_aside_at > $1',
      [this.#stillDue()],
    );
    return row?.n ?? 0;
  }

  #stillDue(): string {
    return iso(this.clock.now() - AGAIN_MS - GRACE_MS);
  }

  /** It comes behind what waits by now, and as of the time at which it arrived. */
  async tryAgain(id: number, by: string): Promise<void> {
    await this.database.transaction((sql) => this.#again(sql, id, by));
    await this.database.query(`select pg_notify('${WAKE}', '')`);
  }

  async #again(sql: Sql, id: number, by: string): Promise<void> {
    await this.#take(sql, id, by, 'set aside tried again', async ({ seq, contact_id, kind }) => {
      if (seq !== null) {
        await sql.query(
          `insert into inbox (lane, seq, contact_id, kind, arrived_at, payload)
           select lane, nextval('inbox_seq'), contact_id, kind, arrived_at, payload from set_aside where id = $1`,
          [id],
        );
      } else if (kind === 'due') await sql.query('update due set due_at = $2 where contact_id = $1', [contact_id, iso(this.clock.now())]);
      else await sql.query('update company_touched set since = $2 where company_id = $1', [contact_id, iso(this.clock.now())]);
    });
  }

  /** All that was set aside because of one error: each as it would be alone. */
  async tryAllAgain(code: string, by: string): Promise<number> {
    const tried = await this.database.transaction(async (sql) => {
      const rows = await sql.query<{ id: number }>(
        'select id from set_aside where code = $1 and seq is not null order by id limit $2 for update skip locked',
        [code, SHOWN],
      );
      for (const { id } of rows) await this.#again(sql, id, by);
      return rows.length;
    });
    await this.database.query(`select pg_notify('${WAKE}', '')`);
    return tried;
  }

  async drop(id: number, by: string): Promise<void> {
    await this.database.transaction((sql) => this.#take(sql, id, by, 'set aside dropped', () => Promise.resolve()));
  }

  async #take(
    sql: Sql,
    id: number,
    by: string,
    verb: string,
    work: (row: { readonly seq: number | null; readonly contact_id: number; readonly kind: string }) => Promise<void>,
  ): Promise<void> {
    const [row] = await sql.query<{ seq: number | null; contact_id: number; kind: string }>(
      'select seq, contact_id, kind from set_aside where id = $1 for update',
      [id],
    );
    if (!row) throw notFound('entry');
    await work(row);
    await sql.query('delete from set_aside where id = $1', [id]);
    await writeSetting(sql, verb, { entry: id }, by, this.clock.now());
  }
}

const WORDS: Record<Exclude<SetAsideView['kind'], 'signal'>, string> = {
  edit: 'a change of facts',
  touch: 'a change elsewhere that it reads',
  fan: 'a change of a company, for its contacts',
  turn: 'whose turn it is',
  due: 'a moment of the clock',
  company: 'a change of its contacts',
};
