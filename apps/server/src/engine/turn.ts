import {
  hopOf,
  LANES,
  lookedAtAgain,
  pass,
  type Arrival,
  type Compiled,
  type Effect,
  type Fact,
  type SubjectState,
} from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { arrivalOf, companiesIn, isPassRow, takeFromInbox, type CompanyFacts, type InboxRow, type PassRow } from './arrivals';
import { iso, type Clock } from './clock';
import { commitPasses } from './commit';
import { MOVED, WAKE } from './inbox';
import { type KeptStates } from './kept-states';
import { loadStates } from './load-states';
import { lockBusyLanes } from './queries/busy-lanes';
import { type SignalKey } from './queries/feed-after';
import { takeTouched, workControls, type TouchedCompany } from './follow-ups';
import { type WorkDelays } from './work-delays';
import { writeSignals } from './write-signals';
import { type WorkedSubject } from './worked';

/** How much of what waits a turn takes at most. */
export interface Portion {
  /** only this lane; any that is free if it is left out */
  readonly lane?: number;
  /** how many lanes are taken at once: the others are left to other workers */
  readonly lanes: number;
  /** entries of the inbox */
  readonly rows: number;
  /** subjects whose time has come */
  readonly due: number;
  /** companies that their contacts touched */
  readonly companies: number;
  /** the other workers that are at work, where the lanes that they have are left to them */
  readonly others?: readonly string[];
  /** only this one of them, by the sequence number of the entry or the id of the subject */
  readonly only?: number;
}
export const USUAL: Portion = { lanes: 16, rows: 500, due: 500, companies: 50 };
/** For a worker that has nobody to leave lanes to, and where nobody waits for what comes next: the more in a turn, the fewer statements. */
export const ALONE: Portion = { lanes: LANES, rows: 2_500, due: 2_500, companies: 250 };

interface Working extends WorkedSubject {
  readonly effects: Effect[];
  readonly arrived: SignalKey[];
  hop: number;
}

/**
 * One turn of a worker, in one transaction: locks a few lanes that have something to do, works what waits there, writes all of it, and commits.
 * A crash anywhere leaves the whole turn undone, so everything is worked exactly once.
 *
 * @param kept what the worker still knows of contacts
 */
export async function turn(
  database: Database,
  store: DefinitionStore,
  clock: Clock,
  owner: string,
  portion = USUAL,
  delays?: WorkDelays,
  kept?: KeptStates,
): Promise<Turn> {
  const { arrivals, now, written, ...worked } = await database.sharedEpoch((sql) => oneTurn(sql, store, clock, owner, portion, kept), {
    isPrepared: true,
  });
  if (written) kept?.keep(written.worked, written.revisions);
  delays?.add(arrivals, now);
  // After the commit, and on another connection: a NOTIFY inside the transaction would hold up everyone who commits.
  if (worked.count > 0) await database.query(`select pg_notify(channel, '') from unnest($1::text[]) as channel`, [told(worked)]);
  return worked;
}

/** Who else should look: those who follow what moves, and the workers where something was left to them. */
const told = ({ hasFollowUps }: Turn): readonly string[] => (hasFollowUps ? [MOVED, WAKE] : [MOVED]);

export interface Turn {
  /** how many inbox rows and subjects whose time had come were worked; 0 when there was nothing to do */
  readonly count: number;
  /** whether more waited than it took */
  readonly isMore: boolean;
  /** whether what it worked left more to do, here or in other lanes */
  readonly hasFollowUps: boolean;
}
const NOTHING = { count: 0, isMore: false, hasFollowUps: false, arrivals: [] };

interface Written extends Turn {
  /** when what came by the inbox had arrived */
  readonly arrivals: readonly number[];
  readonly now: number;
  readonly written?: { readonly worked: readonly WorkedSubject[]; readonly revisions: ReadonlyMap<number, number> };
}

async function oneTurn(
  sql: Sql,
  store: DefinitionStore,
  clock: Clock,
  owner: string,
  portion: Portion,
  kept: KeptStates | undefined,
): Promise<Written> {
  const now = clock.now();
  const locked = await lockBusyLanes(sql, iso(now), owner, portion.lanes, portion);
  const lanes = locked.map(({ lane }) => lane);
  if (lanes.length === 0) return { ...NOTHING, now };
  const rows = await sql.query<InboxRow>(
    `select lane, seq, contact_id, kind, arrived_at, payload from inbox
      where lane = any($1::smallint[]) and ($3::bigint is null or seq = $3) order by seq limit $2`,
    [lanes, portion.rows, portion.only ?? null],
  );
  const due = await sql.query<{ contact_id: number; lane: number }>(
    `select contact_id, lane from due
      where lane = any($1::smallint[]) and due_at <= $2 and ($4::bigint is null or contact_id = $4) order by due_at limit $3`,
    [lanes, iso(now), portion.due, portion.only ?? null],
  );
  const companies = await takeTouched(sql, lanes, now, portion.companies, portion.only);
  if (rows.length + due.length + companies.length === 0) return { ...NOTHING, now };

  const epoch = await store.current(sql);
  const { compiled } = epoch;
  const own = rows.filter(isPassRow);
  const laneOfSubject = new Map([...own, ...due].map((row) => [row.contact_id, row.lane]));
  for (const { id, lane } of companies) laneOfSubject.set(id, lane);
  kept?.begin(compiled, locked);
  const states = await loadStates(sql, compiled.catalogue, [...laneOfSubject.keys()], compiled.needs, companiesIn(own), (id) =>
    kept?.take(id),
  );
  const worked = new Map<number, Working>();
  for (const [id, state] of states) worked.set(id, { state, lane: laneOfSubject.get(id) ?? 0, effects: [], arrived: [], hop: 0 });

  await workRows(sql, compiled, own, worked, now);
  for (const company of companies) lookAgain(compiled, company, worked.get(company.id), now);
  for (const subject of worked.values()) runOverdue(compiled, subject, now, now);

  const all = [...worked.values()];
  await writeSignals(
    sql,
    own.flatMap((row) =>
      row.kind === 'signal' && worked.has(row.contact_id)
        ? [{ contactId: row.contact_id, receivedAt: row.arrived_at.toISOString(), payload: row.payload }]
        : [],
    ),
  );
  const { revisions, hasFollowUps } = await commitPasses(
    sql,
    epoch,
    all,
    now,
    rows.map((row) => row.lane),
    owner,
  );
  const controls = rows.filter((row) => !isPassRow(row));
  await workControls(sql, compiled, controls, now);
  await takeFromInbox(sql, rows);
  return {
    count: rows.length + due.length + companies.length,
    isMore:
      lanes.length >= portion.lanes || rows.length >= portion.rows || due.length >= portion.due || companies.length >= portion.companies,
    hasFollowUps: hasFollowUps || controls.length > 0,
    arrivals: rows.map((row) => row.arrived_at.getTime()),
    now,
    written: { worked: all, revisions },
  };
}

/** Works inbox rows in order; for each subject, due times before a row's arrival are worked first. */
async function workRows(
  sql: Sql,
  compiled: Compiled,
  rows: readonly PassRow[],
  worked: ReadonlyMap<number, Working>,
  now: number,
): Promise<void> {
  const facts = await companyFacts(sql, compiled, rows);
  for (const row of rows) {
    const subject = worked.get(row.contact_id);
    if (!subject) continue;
    const arrivedAt = row.arrived_at.getTime();
    runOverdue(compiled, subject, arrivedAt, now);
    const arrival = arrivalOf(row, compiled.catalogue, facts);
    subject.effects.push(...pass(compiled, subject.state, arrival, arrivedAt));
    subject.hop = Math.max(subject.hop, hopOf(arrival));
    if (row.kind === 'signal') subject.arrived.push([row.payload.typeId, row.payload.time, row.payload.id]);
  }
}

/** Facts of the companies that these rows link contacts to. The companies are locked already. */
async function companyFacts(sql: Sql, compiled: Compiled, rows: readonly PassRow[]): Promise<CompanyFacts> {
  const ids = companiesIn(rows);
  if (ids.length === 0) return new Map();
  const none = { ...compiled.needs, contactsOfCompanies: false };
  const states = await loadStates(sql, compiled.catalogue, ids, none);
  return new Map([...states].map(([id, state]): [number, ReadonlyMap<number, Fact>] => [id, state.facts]));
}

function lookAgain(compiled: Compiled, touched: TouchedCompany, company: Working | undefined, now: number): void {
  if (!company) return;
  runOverdue(compiled, company, now, now);
  const { cause, parent, hop } = touched;
  const arrival: Arrival = {
    kind: 'touch',
    on: lookedAtAgain(compiled),
    cause: cause ?? { kind: 'clock' },
    hop,
    ...(parent === null ? {} : { parent }),
  };
  company.effects.push(...pass(compiled, company.state, arrival, now));
  company.hop = Math.max(company.hop, hop);
}

/**
 * The steps of the clock that lie before `until`, in order, each with its own instant as *now*.
 *
 * @param now how late it really is: a date rule that is looked at too long after its instant is missed
 */
export function runOverdue(
  compiled: Compiled,
  subject: { readonly state: SubjectState; readonly effects: Effect[] },
  until: number,
  now: number,
): void {
  const { state } = subject;
  while (state.dueAt !== undefined && state.dueAt <= until) {
    const at = state.dueAt;
    subject.effects.push(...pass(compiled, state, { kind: 'due', lateMs: Math.max(0, now - at) }, at));
    // If the clock was moved, the subject can be ahead of its own due time: one pass then covers it.
    if (state.dueAt !== undefined && state.dueAt <= at) state.dueAt = undefined;
  }
}
