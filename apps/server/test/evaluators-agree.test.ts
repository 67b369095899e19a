import { holds, Moment, orThrow, prepare, toSql, toSqlTogether } from '@eager-sieve/core';
import fc from 'fast-check';
import { stateOf } from '../../../packages/core/src/testing/state-of';
import { catalogue, conditions, contacts, NOW, ZONE, type MadeContact } from '../../../packages/core/src/testing/world';
import { iso } from '../src/engine/clock';
import { writeStates } from '../src/engine/write-states';
import { testDatabase, type TestDatabase } from './harness';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 60);
const CONDITIONS_A_WORLD = 25;

/** Writes generated contacts into the real tables, through the engine's own writer where there is one. */
async function putWorld({ database }: TestDatabase, world: readonly MadeContact[]): Promise<void> {
  await database.transaction(async (sql) => {
    await sql.query(
      'truncate contact, contact_fact, contact_tag, contact_tag_reason, contact_consent, contact_score, membership, signal, signal_sum, due, ledger',
    );
    await sql.query(
      `insert into contact (id, uid, lane, made_at) select n, ('00000000-0000-7000-8000-' || lpad(n::text, 12, '0'))::uuid, 0, $2 from generate_series(1, $1::int) n`,
      [world.length, iso(NOW)],
    );
    const worked = world.map((made, index) => {
      const state = stateOf(made, index + 1);
      for (const part of ['facts', 'tags', 'consent', 'scores', 'memberships'] as const)
        for (const key of state[part].keys()) state.changed[part].add(key);
      state.lastNow = NOW;
      return { state, lane: 0, effects: [] };
    });
    await writeStates(sql, catalogue, 1, worked);
    await sql.query(
      `insert into signal (contact_id, type_id, time, id, source_id, sender_id, day, historic, received_at, details)
       select contact_id, type_id, time, id, 1, sender_id, 0, false, time, details
         from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, type_id int, time timestamptz, id bigint, sender_id text, details jsonb)`,
      [
        JSON.stringify(
          world.flatMap((made, index) =>
            made.signals.map((signal) => ({
              contact_id: index + 1,
              type_id: signal.typeId,
              time: iso(signal.time),
              id: signal.id,
              sender_id: signal.senderId,
              details: signal.details,
            })),
          ),
        ),
      ],
    );
  });
}

describe('the evaluators', () => {
  let test: TestDatabase;
  beforeAll(async () => {
    test = await testDatabase();
  });
  afterAll(() => test.drop());

  it('agree on every condition and every contact, in memory and in SQL, and both truths occur often', async () => {
    let truths = 0;
    let asked = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.array(contacts, { minLength: 1, maxLength: 8 }),
        fc.array(conditions, { minLength: CONDITIONS_A_WORLD, maxLength: CONDITIONS_A_WORLD }),
        async (world, asks) => {
          await putWorld(test, world);
          const moment = new Moment(NOW, ZONE);
          const nodes = asks.map((condition) => orThrow(prepare(condition, catalogue)));
          const { lines, texts, values } = toSqlTogether(nodes, moment);
          const columns = ['c.id', ...lines.map((line, index) => `${line} as l${index}`)].join(', ');
          const rows = await test.database.query<Record<string, boolean>>(
            `select ${texts.map((text, index) => `(${text}) as c${index}`).join(', ')} from (select ${columns} from contact c) q order by id`,
            values,
          );
          const [alone] = nodes;
          const one = toSql(alone as (typeof nodes)[number], moment);
          expect(await test.database.query(`select ${one.text} as c0 from contact c order by c.id`, one.values)).toEqual(
            rows.map((row) => ({ c0: row['c0'] })),
          );
          world.forEach((made, at) => {
            const state = stateOf(made, at + 1);
            nodes.forEach((node, index) => {
              const truth = holds(node, state, moment);
              asked += 1;
              truths += truth ? 1 : 0;
              expect({ condition: asks[index], contact: at, sql: rows[at]?.[`c${index}`] }).toEqual({
                condition: asks[index],
                contact: at,
                sql: truth,
              });
            });
          });
        },
      ),
      { numRuns: RUNS },
    );
    expect(asked).toBeGreaterThan(RUNS * CONDITIONS_A_WORLD);
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });
});
