import {
  ContactColumns,
  LineSets,
  countTogether,
  holds,
  Moment,
  orThrow,
  prepare,
  toSql,
  toSqlTogether,
  type Condition,
  type SubjectKind,
  type SubjectState,
} from '@eager-sieve/core';
import fc from 'fast-check';
import {
  catalogue,
  companyConditions,
  conditions,
  NOW,
  statesOf,
  worlds,
  ZONE,
  type MadeWorld,
} from '../../../packages/core/src/testing/world';
import { localDay } from '../../../packages/core/src/time/zone';
import { iso } from '../src/engine/clock';
import { ALL, loadStates } from '../src/engine/load-states';
import { writeSignals } from '../src/engine/write-signals';
import { writeStates } from '../src/engine/write-states';
import { testDatabase, type TestDatabase } from './harness';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 60);
const CONDITIONS_A_WORLD = 20;
const PARTS = ['facts', 'tags', 'consent', 'scores', 'memberships', 'deals'] as const;

/** Writes a generated world into the real tables, through the engine's own writers. */
async function putWorld({ database }: TestDatabase, world: MadeWorld): Promise<ReturnType<typeof statesOf>> {
  const states = statesOf(world);
  await database.transaction(async (sql) => {
    await sql.query(
      `truncate contact, company, deal, deal_score, contact_fact, contact_tag, contact_tag_reason, contact_tag_past, contact_consent, contact_score,
                contact_change, membership, membership_past, signal, signal_sum, source, due, ledger`,
    );
    const uid = `('00000000-0000-7000-8000-' || lpad(n::text, 12, '0'))::uuid`;
    await sql.query(`insert into contact (id, uid, lane, made_at) select n, ${uid}, 0, $2 from unnest($1::bigint[]) n`, [
      states.contacts.map((state) => state.id),
      iso(NOW),
    ]);
    await sql.query(
      `insert into company (id, uid, lane, outside_id, made_at) select n, ${uid}, 0, n::text, $2 from unnest($1::bigint[]) n`,
      [states.companies.map((state) => state.id), iso(NOW)],
    );
    const all = [...states.contacts, ...states.companies];
    for (const state of all) for (const part of PARTS) for (const key of state[part].keys()) (state.changed[part] as Set<unknown>).add(key);
    for (const state of all) state.lastNow = NOW;
    const deals = states.contacts.flatMap((state) => [...state.deals.values()].map((deal) => ({ id: deal.id, holder: state.id })));
    await sql.query(
      `insert into deal (id, uid, outside_id, holder_id, pipeline_id, stage, name, opened_at, moved_at, details)
       select n, ${uid}, n::text, h, 0, '', '', $3, $3, '{}' from unnest($1::bigint[], $2::bigint[]) as r(n, h)`,
      [deals.map((deal) => deal.id), deals.map((deal) => deal.holder), iso(NOW)],
    );
    await writeStates(
      sql,
      catalogue,
      1,
      all.map((state) => ({ state, lane: 0, effects: [] })),
    );
    await putSignals(sql, states.contacts);
  });
  return states;
}

async function putSignals(sql: Parameters<typeof writeSignals>[0], contacts: readonly SubjectState[]): Promise<void> {
  const signals = contacts.flatMap((state) => [...state.signals.values()].flat().map((signal) => ({ contact: state.id, signal })));
  // The sequence gives the numbers, as on the server: a source's number is never another's later, and its name may be remembered.
  const sources = await sql.query<{ id: number; name: string }>(
    'insert into source (name) select distinct unnest($1::text[]) returning id, name',
    [signals.map(({ signal }) => signal.source)],
  );
  const idOf = new Map(sources.map(({ id, name }) => [name, id]));
  await writeSignals(
    sql,
    signals.map(({ contact, signal }) => ({
      contactId: contact,
      receivedAt: iso(signal.time),
      payload: { ...signal, sourceId: idOf.get(signal.source) ?? 0, day: localDay(signal.time, ZONE), data: null },
    })),
  );
}

/** The counting index's columns, filled from the tables. */
async function columnsOf({ database }: TestDatabase, contacts: readonly SubjectState[]): Promise<ContactColumns> {
  const ids = contacts.map((state) => state.id);
  const columns = new ContactColumns();
  for (const state of (await loadStates(database, catalogue, ids, ALL)).values()) columns.put(state);
  return columns;
}

describe('the evaluators', () => {
  let test: TestDatabase;
  beforeAll(async () => {
    test = await testDatabase();
  });
  afterAll(() => test.drop());

  it.each<[SubjectKind & ('contact' | 'company'), fc.Arbitrary<Condition>]>([
    ['contact', conditions],
    ['company', companyConditions],
  ])('agree on every condition and every %s, in memory, in SQL and in columns, and both truths occur often', async (kind, any) => {
    let truths = 0;
    let asked = 0;
    await fc.assert(
      fc.asyncProperty(worlds, fc.array(any, { minLength: CONDITIONS_A_WORLD, maxLength: CONDITIONS_A_WORLD }), async (world, asks) => {
        const states = await putWorld(test, world);
        const moment = new Moment(NOW, ZONE);
        const nodes = asks.map((condition) => orThrow(prepare(condition, catalogue, kind)));
        const { lines, texts, values } = toSqlTogether(nodes, moment, 1, kind);
        const columns = ['c.id', ...lines.map((line, index) => `${line} as l${index}`)].join(', ');
        const rows = await test.database.query<Record<string, boolean>>(
          `select ${texts.map((text, index) => `(${text}) as c${index}`).join(', ')} from (select ${columns} from ${kind} c) q order by id`,
          values,
        );
        const one = toSql(nodes[0] as (typeof nodes)[number], moment, 1, kind);
        expect(await test.database.query(`select ${one.text} as c0 from ${kind} c order by c.id`, one.values)).toEqual(
          rows.map((row) => ({ c0: row['c0'] })),
        );
        if (kind === 'contact') {
          const columns = await columnsOf(test, states.contacts);
          expect({ asks, counts: countTogether(new LineSets(columns), nodes, moment) }).toEqual({
            asks,
            counts: nodes.map((_, index) => rows.filter((row) => row[`c${index}`]).length),
          });
        }
        (kind === 'contact' ? states.contacts : states.companies).forEach((state, at) => {
          nodes.forEach((node, index) => {
            const truth = holds(node, state, moment);
            asked += 1;
            truths += truth ? 1 : 0;
            expect({ condition: asks[index], subject: at, sql: rows[at]?.[`c${index}`] }).toEqual({
              condition: asks[index],
              subject: at,
              sql: truth,
            });
          });
        });
      }),
      { numRuns: RUNS },
    );
    expect(asked).toBeGreaterThan(RUNS * CONDITIONS_A_WORLD);
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });
});
