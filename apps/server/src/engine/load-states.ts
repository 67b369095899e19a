import { compareSignals, SubjectState, type Catalogue, type Needs } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { historyReadings, type LoadScope } from './load-history';
import { ReadSignals } from './load-signals';
import { ALL_PARTS, PARTS } from './parts';
import { type States, type StoredPart } from './parts/part';
import { UNFINISHED } from './queries/unfinished-builds';
import { holdCompanies } from './queries/hold-companies';
import { readTogether, type Reading } from './readings';

/** Hands out a contact that is known, if it is. */
export type Known = (id: number) => SubjectState | undefined;

const PARTS_OF_COMPANIES = ALL_PARTS.filter((part) => !part.onlyOfContacts);

interface SubjectRow {
  id: number;
  last_now: Date | null;
  due_at: Date | null;
  epoch: number;
  settled: number;
}
export interface LinkRow {
  stage_id: number | null;
  stage_since: Date | null;
  owner: string | null;
  company_id: number | null;
}

/**
 * The epoch to which builds have brought a subject: the present one, or that before the first build that has not come to it. They write down only whom
 * they change; others keep the epoch of their last pass.
 */
const SETTLED = `coalesce(
  (select min(b.epoch) - 1 from build b join build_lane n on n.build_id = b.id and n.lane = c.lane
    where b.${UNFINISHED} and not n.done and n.after_contact < c.id),
  (select epoch from workspace where id = 1)) as settled`;

/** Loads everything, for the page of one contact, where any condition may be evaluated. */
export const ALL: LoadScope = 'all';
/** Loads only the present state, without signals and histories. */
export const NOTHING_MORE: Needs = {
  signals: new Set(),
  data: new Set(),
  changes: new Set(),
  pastTags: new Set(),
  leavings: new Set(),
  contactsOfCompanies: false,
};

/**
 * The whole state of some contacts and companies. Of histories and signals only what definitions read is loaded.
 *
 * @param lock holds the companies that contacts read, and those that are worked, until the end of the transaction, as a pass does; ids: and these
 * @param known contacts that need not be loaded, by their ids
 */
export async function loadStates(
  sql: Sql,
  catalogue: Catalogue,
  ids: readonly number[],
  wanted: Needs | 'all',
  lock: boolean | readonly number[] = false,
  known: Known = () => undefined,
): Promise<Map<number, SubjectState>> {
  if (lock) await holdCompanies(sql, ids, lock === true ? [] : lock);
  const states = await loadContacts(sql, catalogue, ids, wanted, known);
  const others = ids.filter((id) => !states.has(id));
  if (others.length > 0) for (const [id, state] of await loadCompanies(sql, catalogue, others, wanted)) states.set(id, state);
  return states;
}

const recordOf = (row: SubjectRow) => ({
  id: row.id,
  isNew: row.last_now === null,
  lastNow: row.last_now?.getTime() ?? 0,
  dueAt: row.due_at?.getTime(),
  epoch: Math.max(row.epoch, row.settled),
});

/** Takes the links of a contact from its row. */
export function takeLinks(state: SubjectState, { stage_id, stage_since, owner, company_id }: LinkRow): void {
  if (stage_id !== null) state.stage = { id: stage_id, since: stage_since?.getTime() ?? 0 };
  state.owner = owner ?? undefined;
  state.company = company_id ?? undefined;
}

async function loadContacts(
  sql: Sql,
  catalogue: Catalogue,
  ids: readonly number[],
  wanted: Needs | 'all',
  known: Known = () => undefined,
): Promise<Map<number, SubjectState>> {
  const states = new Map<number, SubjectState>();
  if (ids.length === 0) return states;
  const loaded = new Map<number, SubjectState>();
  const rows = await sql.query<SubjectRow & LinkRow>(
    `select c.id, c.last_now, c.epoch, c.stage_id, c.stage_since, c.owner, c.company_id, d.due_at, ${SETTLED}
       from contact c left join due d on d.contact_id = c.id where c.id = any($1::bigint[]) and c.merged_into is null`,
    [ids],
  );
  for (const row of rows) {
    const record = recordOf(row);
    const here = known(row.id);
    const state = here ?? new SubjectState(record);
    if (here) bringUp(here, record);
    else loaded.set(row.id, state);
    takeLinks(state, row);
    states.set(row.id, state);
  }
  const signals = new ReadSignals(loaded);
  const here = [...loaded.keys()];
  await readTogether(sql, [
    ...readingsOfCompanies(catalogue, [...states.values()]),
    // Deals can move from holder to holder without a pass of the one that they leave.
    ...(loaded.size < states.size ? readingsOf([PARTS.deals], catalogue, without(loaded, states)) : []),
    ...(loaded.size > 0
      ? [...readingsOf(ALL_PARTS, catalogue, loaded, here), ...historyReadings(loaded, here, wanted), signals.of(here, wanted)]
      : []),
  ]);
  await signals.take(sql, catalogue);
  return states;
}

const readingsOf = (parts: readonly StoredPart[], catalogue: Catalogue, states: States, ids = [...states.keys()]): readonly Reading[] =>
  parts.flatMap((part) => part.readings(catalogue, states, ids));

/** What others than passes may have changed of a contact that is known: builds bring it to an epoch, and some also say when it is due. */
function bringUp(state: SubjectState, { dueAt, epoch }: ReturnType<typeof recordOf>): void {
  state.dueAt = dueAt;
  state.epoch = epoch;
  state.deals.clear();
  state.dealDetails.clear();
}

const without = (some: States, all: States): States => new Map([...all].filter(([id]) => !some.has(id)));

/** What contacts read of their companies. */
function readingsOfCompanies(catalogue: Catalogue, contacts: readonly SubjectState[]): readonly Reading[] {
  const ids = [...new Set(contacts.flatMap((state) => state.company ?? []))].sort((a, b) => a - b);
  if (ids.length === 0) return [];
  const companies = new Map(ids.map((id) => [id, new SubjectState({ id, kind: 'company', isNew: false, lastNow: 0, dueAt: undefined })]));
  for (const state of contacts) if (state.company !== undefined) state.companyFacts = companies.get(state.company)?.facts;
  return PARTS.facts.readings(catalogue, companies, ids);
}

async function loadCompanies(
  sql: Sql,
  catalogue: Catalogue,
  ids: readonly number[],
  wanted: Needs | 'all',
): Promise<Map<number, SubjectState>> {
  const rows = await sql.query<SubjectRow>(
    `select c.id, c.last_now, c.epoch, d.due_at, ${SETTLED} from company c left join due d on d.contact_id = c.id where c.id = any($1::bigint[])`,
    [ids],
  );
  const states = new Map(rows.map((row) => [row.id, new SubjectState({ ...recordOf(row), kind: 'company' })]));
  if (states.size === 0) return states;
  const here = [...states.keys()];
  await readTogether(sql, [...readingsOf(PARTS_OF_COMPANIES, catalogue, states, here), ...historyReadings(states, here, wanted)]);
  if (wanted === 'all' || wanted.contactsOfCompanies) await loadPeople(sql, catalogue, states, wanted);
  return states;
}

/** Loads the contacts of companies; their signals count as the company's. */
async function loadPeople(
  sql: Sql,
  catalogue: Catalogue,
  companies: ReadonlyMap<number, SubjectState>,
  wanted: Needs | 'all',
): Promise<void> {
  const rows = await sql.query<{ id: number }>(
    'select id from contact where company_id = any($1::bigint[]) and last_now is not null and merged_into is null order by id',
    [[...companies.keys()]],
  );
  const contacts = await loadContacts(
    sql,
    catalogue,
    rows.map((row) => row.id),
    wanted,
  );
  for (const [id, company] of companies) {
    const own = [...contacts.values()].filter((contact) => contact.company === id);
    company.contacts = own;
    for (const contact of own)
      for (const [type, signals] of contact.signals) company.signals.set(type, [...(company.signals.get(type) ?? []), ...signals]);
    for (const signals of company.signals.values()) signals.sort(compareSignals);
  }
}
