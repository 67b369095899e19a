import { event, TestServer } from './harness';
import { SET_UP } from './world';

/** They are asked beside the work: by who waits for an answer, and by who looks at how much waits. */
const BESIDE = [/^select exists \(select from inbox where seq = any/, /^select \(select count\(\*\) from \(select from inbox limit/];
const KEY = '(?:contact_id|company_id|holder_id|subject|lane|id)';
/** Rows are picked by the subject or the lane. */
const PICKED = new RegExp(`\\b${KEY}\\b\\)?\\s*(?:=|in\\b|>)|=\\s*\\w+\\.${KEY}\\b`);
/** Rows are put where their subject or lane says. */
function isPut(text: string): boolean {
  const columns = [...text.matchAll(/insert into \w+(?: as \w+)?\s*\(([^)]*)\)/gi)].map((match) => match[1] ?? '');
  return columns.length > 0 && columns.every((each) => new RegExp(`\\b${KEY}\\b`).test(each));
}

describe('the statements of accepting and working', () => {
  let server: TestServer;
  const statements = new Set<string>();
  beforeAll(async () => {
    server = await TestServer.start({ workers: 1 });
    await server.define(SET_UP);
    const { source } = server.database;
    const query = source.query.bind(source);
    source.query = ((...args: Parameters<typeof query>) => {
      statements.add(args[0]);
      return query(...args);
    }) as typeof source.query;
    const open = source.createQueryRunner.bind(source);
    source.createQueryRunner = (mode) => {
      const runner = open(mode);
      const run = runner.query.bind(runner);
      runner.query = ((...args: Parameters<typeof run>) => {
        statements.add(args[0]);
        return run(...args);
      }) as typeof runner.query;
      return runner;
    };
  });
  afterAll(() => server.stop());

  it('name the subject or its lane, so that the tables can be spread over several databases by it', async () => {
    const email = 'hot@test.example';
    await server.signals(
      event('form.answered', email, { form: 'find', answers: { stops: 'price' } }),
      event('order.placed', email, { order: '1' }),
      event('order.placed', email, { order: '2' }),
      event('message.opened', 'other@test.example'),
    );
    await server.call('put', '/api/v1/contacts').send({ contacts: [{ email, fields: { city: 'x' } }] });
    await server.idle();
    const tables = await server.database.query<{ name: string }>(
      `select table_name as name from information_schema.columns where table_schema = 'public' and column_name in ('contact_id', 'lane')
       union select 'contact' order by 1`,
    );
    const spread = new Set(tables.map(({ name }) => name));
    const named = (text: string): string[] => [
      ...new Set([...text.matchAll(/\b(?:from|join|into|update)\s+"?([a-z_]+)"?/gi)].map((match) => match[1] ?? '')),
    ];
    const hot = [...statements].filter((text) => named(text).some((name) => spread.has(name)) && !BESIDE.some((each) => each.test(text)));
    expect(hot.length).toBeGreaterThan(40);
    expect(hot.filter((text) => !PICKED.test(text) && !isPut(text))).toEqual([]);
  });
});
