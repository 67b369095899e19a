import { readingOf, readTogether, type Reading } from '../src/engine/readings';
import { TestServer } from './harness';

interface Row {
  readonly n: number;
  readonly word: string | null;
  readonly at: string;
}
const ROWS = `select n::bigint as n, case when n % 3 = 0 then null else 'w"' || n end as word, $2::timestamptz + n * interval '1.5 ms' as at
  from unnest($1::bigint[]) as n`;
const AT = '2026-03-29T00:59:59.999Z';

describe('questions asked together', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 0 });
  });
  afterAll(() => server.stop());

  const rowsOf = (ids: readonly number[], order = 'n'): { readonly rows: Row[]; readonly reading: Reading } => {
    const rows: Row[] = [];
    return { rows, reading: readingOf<Row>(['n', 'word', 'at'], `${ROWS} order by ${order}`, [ids, AT], (row) => rows.push(row)) };
  };

  it('are answered each as if it were asked alone, rows in their order', async () => {
    const ids = [5, 3, 8, 1];
    const [up, down, none] = [rowsOf(ids), rowsOf([9, 2, 6], 'n desc'), rowsOf([])];
    await readTogether(server.database, [up.reading, down.reading, none.reading]);
    const alone = async (some: readonly number[], order: string) =>
      (await server.database.query<Row & { at: Date }>(`${ROWS} order by ${order}`, [some, AT])).map(({ n, word, at }) => [n, word, +at]);
    const read = (rows: readonly Row[]) => rows.map(({ n, word, at }) => [n, word, Date.parse(at)]);
    expect(read(up.rows)).toEqual(await alone(ids, 'n'));
    expect(read(down.rows)).toEqual(await alone([9, 2, 6], 'n desc'));
    expect(up.rows.map(({ n }) => n)).toEqual([1, 3, 5, 8]);
    expect(none.rows).toEqual([]);
  });

  it('send what they share once, and each its own beside', async () => {
    const ids = [1, 2];
    const sent = jest.spyOn(server.database, 'query');
    await readTogether(server.database, [rowsOf(ids).reading, rowsOf(ids).reading, rowsOf([1, 2]).reading]);
    expect(sent.mock.calls).toHaveLength(1);
    expect(sent.mock.calls[0]?.[1]).toEqual([ids, AT, AT, ids, AT]);
    sent.mockRestore();
  });

  it('are not asked where there are none', async () => {
    const sent = jest.spyOn(server.database, 'query');
    await readTogether(server.database, []);
    expect(sent).not.toHaveBeenCalled();
    sent.mockRestore();
  });
});
