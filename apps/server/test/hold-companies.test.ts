import fc from 'fast-check';
import { type Sql } from '../src/database/database';
import { holdCompanies } from '../src/engine/queries/hold-companies';
import { TestServer } from './harness';

const COMPANIES = 6;
const CONTACTS = 18;
const SHORTLY = '60ms';

/** What a worker works, and the companies that its contacts are about to read, by their places in the lists. */
interface Work {
  readonly companies: readonly number[];
  readonly contacts: readonly number[];
  readonly read: readonly number[];
}
const someOf = (count: number, most: number) => fc.uniqueArray(fc.nat(count - 1), { maxLength: most });
const work: fc.Arbitrary<Work> = fc.record({
  companies: someOf(COMPANIES, 2),
  contacts: someOf(CONTACTS, 3),
  read: someOf(COMPANIES, 1),
});

/** Contact n is at company n mod 6. */
const companyOf = (contact: number): number => contact % COMPANIES;
const held = ({ companies, contacts, read }: Work): ReadonlySet<number> => new Set([...companies, ...contacts.map(companyOf), ...read]);
const haveToWait = (one: Work, other: Work): boolean =>
  one.companies.some((each) => held(other).has(each)) || other.companies.some((each) => held(one).has(each));

describe('companies that workers hold', () => {
  let server: TestServer;
  let [companies, contacts]: readonly (readonly number[])[] = [];
  beforeAll(async () => {
    server = await TestServer.start({ workers: 1 });
    const all = Array.from({ length: COMPANIES }, (_, n) => ({ outsideId: `c${n}`, name: `Place ${n}` }));
    await server.call('put', '/api/v1/companies').send({ companies: all }).expect(200);
    const people = Array.from({ length: CONTACTS }, (_, n) => ({ email: `m${n}@test.example`, company: `c${companyOf(n)}` }));
    await server.call('put', '/api/v1/contacts').send({ contacts: people }).expect(200);
    await server.idle();
    const idsOf = async (sql: string): Promise<readonly number[]> => (await server.database.query<{ id: number }>(sql)).map(({ id }) => id);
    companies = await idsOf('select id from company order by outside_id');
    contacts = await idsOf(`select id from contact order by substring(email from 'm(.*)@')::int`);
  });
  afterAll(() => server.stop());

  const hold = (sql: Sql, { companies: worked, contacts: people, read }: Work): Promise<unknown> =>
    holdCompanies(
      sql,
      [...worked.map((n) => companies?.[n] ?? 0), ...people.map((n) => contacts?.[n] ?? 0)],
      read.map((n) => companies?.[n] ?? 0),
    );

  /** Whether the second got what it needs while the first still has its own. */
  const both = (one: Work, other: Work): Promise<boolean> =>
    server.database.transaction(async (first) => {
      await hold(first, one);
      return server.database
        .transaction(async (second) => {
          await second.query(`set local lock_timeout = '${SHORTLY}'`);
          await hold(second, other);
          return true;
        })
        .catch((error: unknown) => {
          if ((error as { code?: string }).code === '55P03') return false;
          throw error;
        });
    });

  it('are theirs alone where they work them, and shared where they work contacts that read them', async () => {
    await fc.assert(
      fc.asyncProperty(work, work, async (one, other) => {
        expect(await both(one, other)).toBe(!haveToWait(one, other));
      }),
      { numRuns: 60 },
    );
  });

  it('are held by any number at once without anybody waiting in a circle', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(work, { minLength: 4, maxLength: 4 }), async (works) => {
        await Promise.all(works.map((each) => server.database.transaction((sql) => hold(sql, each))));
      }),
      { numRuns: 40 },
    );
    const [{ deadlocks } = { deadlocks: -1 }] = await server.database.query<{ deadlocks: number }>(
      'select deadlocks::int as deadlocks from pg_stat_database where datname = current_database()',
    );
    expect(deadlocks).toBe(0);
  });
});
