import fc from 'fast-check';
import { QueryFailedError } from 'typeorm';
import { testDatabase, type TestDatabase } from './harness';

describe('statements that are prepared', () => {
  let test: TestDatabase;
  beforeAll(async () => {
    test = await testDatabase();
    await test.database.query('create table thing (id int primary key, what text)');
    await test.database.query(`insert into thing select n, 'thing ' || n % 7 from generate_series(1, 500) n`);
  });
  afterAll(() => test.drop());

  const FIND = 'select id, what from thing where id = any($1::int[]) and ($2::text is null or what = $2) order by id';

  it('answer like any other, also once the database takes one plan for all values', async () => {
    const asked = fc.array(fc.tuple(fc.uniqueArray(fc.integer({ min: -5, max: 600 })), fc.option(fc.constantFrom('thing 3', 'nothing'))), {
      minLength: 8,
      maxLength: 12,
    });
    await fc.assert(
      fc.asyncProperty(asked, async (questions) => {
        const prepared = await test.database.transaction(
          async (sql) => {
            const answers: unknown[] = [];
            for (const values of questions) answers.push(await sql.query(FIND, values));
            return answers;
          },
          { isPrepared: true },
        );
        for (const [index, values] of questions.entries()) expect(prepared[index]).toEqual(await test.database.query(FIND, values));
      }),
      { numRuns: 20 },
    );
  });

  it('are parsed once on a connection, and nowhere else', async () => {
    const known = `select count(*)::int as times from pg_prepared_statements where statement = $1`;
    const times = (isPrepared: boolean): Promise<number | undefined> =>
      test.database.transaction(
        async (sql) => {
          const text = `select id from thing where id = $1 -- ${isPrepared}`;
          for (let round = 0; round < 3; round += 1) await sql.query(text, [round]);
          return (await sql.query<{ times: number }>(known, [text]))[0]?.times;
        },
        { isPrepared },
      );
    expect(await times(true)).toBe(1);
    expect(await times(false)).toBe(0);
  });

  it('answer with the rows that they return, or with none', async () => {
    const done = await test.database.transaction(
      async (sql) => ({
        none: await sql.query('update thing set what = $2 where id = $1', [1, 'changed']),
        returned: await sql.query('update thing set what = $2 where id = $1 returning id, what', [2, 'too']),
        gone: await sql.query('delete from thing where id = $1 returning id', [3]),
      }),
      { isPrepared: true },
    );
    expect(done).toEqual({ none: [], returned: [{ id: 2, what: 'too' }], gone: [{ id: 3 }] });
  });

  it('are tried again where another one was first, and fail without saying what was sent', async () => {
    let tries = 0;
    await test.database.transaction(
      async (sql) => {
        tries += 1;
        await sql.query('insert into thing (id, what) values ($1, $2)', [tries === 1 ? 10 : 1_000, 'new']);
      },
      { isPrepared: true },
    );
    expect(tries).toBe(2);
    const failing = test.database.transaction((sql) => sql.query('select $1::text::int as number', ['secret']), { isPrepared: true });
    const error = await failing.then(
      () => undefined,
      (thrown: unknown) => thrown,
    );
    expect(error).toBeInstanceOf(QueryFailedError);
    expect(error).toMatchObject({ code: '22P02', parameters: [] });
    expect(await test.database.query('select count(*)::int as n from thing where id = 1000')).toEqual([{ n: 1 }]);
  });
});
