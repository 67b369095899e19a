import { Client } from 'pg';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

/** They are asked beside the work: by who waits for an answer, and by who looks at how much waits. */
const BESIDE = [/^select exists \(select from inbox where seq = any/, /^select \(select count\(\*\) from \(select from inbox limit/];
const KEY = '(?:contact_id|company_id|holder_id|subject|lane|id)';
/** Rows are picked by the subject or the lane. */
const PICKED = new RegExp(`\\b${KEY}\\b\\)?\\s*(?:=|in\\b|>)|=\\s*\\w+\\.${KEY}\\b`);
/** What is asked together is looked at question by question. */
const questions = (text: string): string[] => text.split(/\) as r\d+,?/);
/** Rows are put where their subject or lane says. */
function isPut(text: string): boolean {
  const columns = [...text.matchAll(/insert into \w+(?: as \w+)?\s*\(([^)]*)\)/gi)].map((match) => match[1] ?? '');
  return columns.length > 0 && columns.every((each) => new RegExp(`\\b${KEY}\\b`).test(each));
}

describe('the statements of accepting and working', () => {
  let server: TestServer;
  let spy: jest.SpyInstance;
  const statements = new Set<string>();
  const query = Reflect.get(Client.prototype, 'query') as (...args: unknown[]) => unknown;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 1 });
    await server.define(SET_UP);
    // All that goes to the database goes through a connection, prepared or not.
    spy = jest.spyOn(Client.prototype, 'query').mockImplementation(function (this: Client, ...args: unknown[]): unknown {
      const [asked] = args;
      statements.add(typeof asked === 'string' ? asked : (asked as { text: string }).text);
      return Reflect.apply(query, this, args);
    } as never);
  });
  afterAll(async () => {
    spy.mockRestore();
    await server.stop();
  });

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
    const hot = [...statements]
      .flatMap(questions)
      .filter((text) => named(text).some((name) => spread.has(name)) && !BESIDE.some((each) => each.test(text)));
    expect(hot.length).toBeGreaterThan(40);
    expect(hot.filter((text) => !PICKED.test(text) && !isPut(text))).toEqual([]);
  });
});
