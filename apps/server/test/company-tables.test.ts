import { fold, type Column, type WrittenCondition } from '@eager-sieve/core';
import { type Cell, type ColumnSummary, type CompanyRow, type CompanyView, type PeopleAnswer } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { inOrder, placeOf } from './in-order';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const COMPANIES = 30;
const ALL: WrittenCondition = { match: 'all', of: [] };
const SECTORS = ['inn', 'school', 'gallery'] as const;
const idOf = (n: number): string => `firm-${String(n).padStart(2, '0')}`;
const NAMES = ['Åker', 'åbo', 'Zinn', 'Émile', '山の家', ''];

const COLUMNS: readonly Column[] = [
  { kind: 'name' },
  { kind: 'field', field: 'seats', of: 'company' },
  { kind: 'field', field: 'sector', of: 'company' },
  { kind: 'field', field: 'motto', of: 'company' },
  { kind: 'score', scorecard: 'firm' },
  { kind: 'contacts' },
  { kind: 'deals', what: 'open' },
  { kind: 'deals', what: 'worth' },
  { kind: 'last', of: 'from them' },
  { kind: 'last', of: { signal: 'order.placed' } },
  { kind: 'audience', audience: 'large' },
];

const place = (column: Column, cell: Cell): string | number | undefined =>
  column.kind === 'field' && column.field === 'sector' && cell?.is === 'text'
    ? SECTORS.findIndex((key) => key === cell.shown)
    : placeOf(cell);

describe('tables of companies', () => {
  let server: TestServer;
  let wren: { cookie: string; csrf: string };
  const signedIn = (asked: ReturnType<TestServer['call']>) =>
    asked.set('authorization', '').set('cookie', wren.cookie).set('x-csrf-token', wren.csrf);
  const people = async (more: object): Promise<PeopleAnswer> =>
    (
      await server
        .call('post', '/api/v1/audiences/people')
        .send({ condition: ALL, of: 'company', ...more })
        .expect(200)
    ).body as PeopleAnswer;
  const all = async (more: object): Promise<readonly CompanyRow[]> => (await people({ limit: 500, ...more })).companies ?? [];

  beforeAll(async () => {
    server = await TestServer.start({ clock: new StandingClock(START) });
    await server.define({
      ...SET_UP,
      fields: [
        ...SET_UP.fields,
        { key: 'seats', name: 'seats', of: 'company', type: 'number' },
        { key: 'motto', name: 'motto', of: 'company', type: 'text' },
        { key: 'sector', name: 'sector', of: 'company', type: 'one choice', options: SECTORS.map((key) => ({ key, name: key })) },
      ],
      scorecards: [
        ...SET_UP.scorecards,
        {
          ...{ key: 'firm', name: 'Firmness', of: 'company', min: 0, max: 100, bands: [{ key: 'low', name: 'low', from: 0 }] },
          lines: [
            {
              ...{ key: 'seats', kind: 'fact', points: 30, stands: 'while' },
              condition: { kind: 'field', of: 'company', field: 'seats', op: '>', value: 20 },
            },
          ],
        },
      ],
      audiences: [
        {
          key: 'large',
          kind: 'live',
          name: 'Large',
          of: 'company',
          condition: { kind: 'field', of: 'company', field: 'seats', op: '>', value: 40 },
        },
      ],
      pipelines: [
        {
          ...{ key: 'fit', name: 'Fit' },
          stages: [
            { key: 'quote', name: 'quote' },
            { key: 'won', name: 'won', outcome: 'won' },
          ],
        },
      ],
    });
    await server
      .call('put', '/api/v1/companies')
      .send({
        companies: Array.from({ length: COMPANIES }, (_, n) => ({
          ...{ outsideId: idOf(n), name: NAMES[n % NAMES.length] },
          fields: {
            ...(n % 4 === 0 ? {} : { seats: (n * 13) % 70 }),
            ...(n % 3 === 0 ? { sector: SECTORS[(n / 3) % 3] } : {}),
            ...(n % 5 === 2 ? { motto: n % 2 === 0 ? 'clay first' : 'Ärlig' } : {}),
          },
        })),
      })
      .expect(200);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: Array.from({ length: 50 }, (_, n) => ({ email: `k${n}@firm.example`, company: idOf((n * n) % 17) })) })
      .expect(200);
    await server
      .call('put', '/api/v1/deals')
      .send({
        deals: Array.from({ length: 24 }, (_, n) => ({
          ...{ outsideId: `deal-${n}`, company: idOf((n * 5) % 11), stage: n % 3 === 0 ? 'won' : 'quote' },
          ...(n % 4 === 3 ? {} : { amount: `${n * 250}.50` }),
        })),
      })
      .expect(200);
    await server.signals(
      ...Array.from({ length: 20 }, (_, n) =>
        event(
          n % 2 === 0 ? 'order.placed' : 'page.visited',
          `k${(n * 3) % 50}@firm.example`,
          n % 2 === 0 ? { order: `o${n}`, amount: 10 } : { path: '/wheels' },
          { time: new Date(START - n * DAY).toISOString() },
        ),
      ),
    );
  });
  beforeAll(async () => {
    wren = await server.signIn();
  });
  afterAll(() => server.stop());

  it('are sorted by any columns, several deep, as what they show is sorted, page after page', async () => {
    const index = fc.integer({ min: 0, max: COLUMNS.length - 1 });
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.record({ index, down: fc.boolean() }), { minLength: 1, maxLength: 3, selector: (each) => each.index }),
        fc.integer({ min: 1, max: 25 }),
        async (picked, limit) => {
          const columns = picked.map((each) => COLUMNS[each.index] as Column);
          const sort = picked.map(({ down }, at) => ({ column: columns[at] as Column, down }));
          const whole = await all({ columns, sort });
          expect(whole).toHaveLength(COMPANIES);
          for (const [at, row] of whole.entries()) {
            const before = whole[at - 1];
            if (!before) continue;
            const order = sort.map(({ column, down }, level) => {
              // A company without a name is shown by its outside id, and sorted last.
              const [a, b] = [before, row].map((each) =>
                column.kind === 'name' && each.name === each.outsideId ? null : (each.cells?.[level] ?? null),
              );
              return inOrder(place(column, a as Cell), place(column, b as Cell), down);
            });
            expect(order.find((each) => each !== 0) ?? 0).toBeLessThanOrEqual(0);
          }
          const seen: string[] = [];
          let after: string | null = null;
          do {
            const page: PeopleAnswer = await people({ columns, sort, limit, ...(after === null ? {} : { after }) });
            seen.push(...(page.companies ?? []).map(({ id }) => id));
            ({ after } = page);
          } while (after !== null);
          expect(seen).toEqual(whole.map(({ id }) => id));
        },
      ),
      { numRuns: 30, examples: COLUMNS.map((_, at) => [[{ index: at, down: at % 2 === 0 }], 7]) },
    );
  });

  it('say the same of a company as its page', async () => {
    for (const { id, name, cells = [] } of await all({ columns: COLUMNS, limit: 500 })) {
      const { body } = await server.call('get', `/api/v1/companies/${id}`).expect(200);
      const view = body as CompanyView;
      const [named, seats, sector, motto, score, contacts, open, worth, last, ordered, large] = cells;
      const shown = (key: string): string | undefined => view.fields.find((field) => field.key === key)?.shown;
      const text = (cell: Cell | undefined): string | undefined => (cell && 'shown' in cell ? cell.shown : undefined);
      expect(text(named)).toBe(name);
      expect([text(seats), text(sector), text(motto)]).toEqual([shown('seats'), shown('sector'), shown('motto')]);
      expect(score && score.is === 'score' ? score.points : undefined).toBe(view.scores.find(({ key }) => key === 'firm')?.points);
      expect(text(contacts)).toBe(view.contacts === 0 ? undefined : String(view.contacts));
      const deals = view.deals.filter(({ outcome }) => outcome === 'open');
      const sum = deals.reduce((total, { amount }) => total + Number(amount ?? 0), 0);
      expect(open && open.is === 'number' ? open.number : 0).toBe(deals.length);
      expect(worth && worth.is === 'number' ? worth.number : 0).toBeCloseTo(sum, 2);
      expect(large !== null).toBe(view.audiences.some(({ key }) => key === 'large'));
      // Whatever its contacts did last, it did last; an order among it is no later than that.
      if (ordered && ordered.is === 'time') expect(last && last.is === 'time' && last.time >= ordered.time).toBe(true);
    }
  });

  it('hold those and only those that fit, by conditions and by name, and begin where one likes', async () => {
    const condition = { kind: 'field', of: 'company', field: 'seats', op: '>', value: 20 };
    const sort = [{ column: { kind: 'field', field: 'seats', of: 'company' }, down: true }];
    const rows = await all({ condition, sort });
    const { body: counted } = await server.call('post', '/api/v1/audiences/count').send({ condition, of: 'company' }).expect(200);
    expect(rows).toHaveLength(counted.count);
    expect((await people({ condition, sort, skip: 3, limit: 4 })).companies?.map(({ id }) => id)).toEqual(
      rows.slice(3, 7).map(({ id }) => id),
    );
    expect((await all({ search: 'å', sort })).map(({ name }) => fold(name)[0])).toEqual(Array.from({ length: 10 }, () => 'å'));
    expect((await all({ search: 'firm-07' })).map(({ outsideId }) => outsideId)).toEqual(['firm-07']);
  });

  it('have no columns that only contacts have, and contacts none that only companies have', async () => {
    const refuse = (body: object) =>
      server
        .call('post', '/api/v1/audiences/people')
        .send({ condition: ALL, ...body })
        .expect(422);
    for (const column of [
      { kind: 'tags' },
      { kind: 'stage' },
      { kind: 'owner' },
      { kind: 'score', scorecard: 'keen' },
      { kind: 'field', field: 'years' },
    ])
      await refuse({ of: 'company', columns: [column] });
    for (const column of [{ kind: 'contacts' }, { kind: 'score', scorecard: 'firm' }, { kind: 'audience', audience: 'large' }])
      await refuse({ sort: [{ column }] });
  });

  it('say what a column comes to', async () => {
    const column = { kind: 'deals', what: 'worth' };
    const { body } = await server.call('post', '/api/app/contacts/column').send({ condition: ALL, of: 'company', column }).expect(200);
    const summary = body as ColumnSummary;
    const numbers = (await all({ columns: [column] })).flatMap(({ cells }) => (cells?.[0]?.is === 'number' ? [cells[0].number] : []));
    expect([summary.of, summary.filled]).toEqual([COMPANIES, numbers.length]);
    expect(summary.numbers?.sum).toBeCloseTo(
      numbers.reduce((a, b) => a + b, 0),
      2,
    );
  });

  it('are files in their order, and that is in the ledger', async () => {
    const table = { condition: ALL, of: 'company', columns: [COLUMNS[1], COLUMNS[5]], sort: [{ column: COLUMNS[5], down: true }] };
    const file = (format: string) =>
      server
        .call('get', '/api/app/contacts/file')
        .query({ table: JSON.stringify(table), format })
        .buffer(true)
        .expect(200);
    const rows = await all(table);
    const csv = await file('csv');
    expect(csv.headers['content-disposition']).toContain('companies.csv');
    const lines = csv.text.trim().split('\n');
    expect(lines[0]).toBe('Company,Outside id,Seats,Contacts');
    expect(lines.slice(1).map((line) => line.split(',')[1])).toEqual(rows.map(({ outsideId }) => outsideId));
    const { body: ledger } = await signedIn(server.call('get', '/api/app/ledger').query({ kind: 'setting' })).expect(200);
    expect(ledger.rows.map((row: { words: string }) => row.words)).toContain('A table of companies was exported as CSV');
  });

  it('are kept under views of their own', async () => {
    const view = { place: 'companies', name: 'By deals', query: 'table=%7B%7D' };
    await signedIn(server.call('post', '/api/app/views').send(view)).expect(201);
    const kept = async (place: string): Promise<readonly string[]> => {
      const { body } = await signedIn(server.call('get', '/api/app/views').query({ place })).expect(200);
      return body.views.map(({ name }: { name: string }) => name);
    };
    expect([await kept('companies'), await kept('people')]).toEqual([['By deals'], []]);
  });
});
