import { fold, type Column, type WrittenCondition } from '@eager-sieve/core';
import { type Cell, type ColumnSummary, type PeopleAnswer, type PersonRow } from '@eager-sieve/contracts';
import fc from 'fast-check';
import pino from 'pino';
import request from 'supertest';
import { ConditionsService } from '../src/audiences/conditions.service';
import { RowsService } from '../src/audiences/rows.service';
import { CompaniesService } from '../src/companies/companies.service';
import { ContactsService } from '../src/contacts/contacts.service';
import { CountingService } from '../src/counting/counting.service';
import { StandingClock } from '../src/engine/clock';
import { ServerClock } from '../src/engine/server-clock';
import { DefinitionStore } from '../src/settings/definition-store';
import { event, TestServer } from './harness';
import { inOrder, placeOf } from './in-order';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const PEOPLE = 60;
const EVERYONE: WrittenCondition = { match: 'all', of: [] };
const SOME: WrittenCondition = { kind: 'field', of: 'contact', field: 'years', op: '>', value: 3 };
const emailOf = (n: number): string => `t${String(n).padStart(2, '0')}@table.example`;
const GLAZES = ['celadon', 'shino', 'tenmoku'] as const;
const STAGES = ['met', 'buys', 'stays'] as const;

const orders = { type: 'order.placed', within: { last: 90, unit: 'days' } } as const;
const COLUMNS: readonly Column[] = [
  { kind: 'name' },
  { kind: 'field', field: 'city' },
  { kind: 'field', field: 'years' },
  { kind: 'field', field: 'glaze' },
  { kind: 'field', field: 'glazes' },
  { kind: 'field', field: 'born' },
  { kind: 'field', field: 'spent' },
  { kind: 'field', field: 'size', of: 'company' },
  { kind: 'score', scorecard: 'keen' },
  { kind: 'tags' },
  { kind: 'tags', family: 'snag' },
  { kind: 'stage' },
  { kind: 'owner' },
  { kind: 'company' },
  { kind: 'last', of: 'from them' },
  { kind: 'last', of: { signal: 'order.placed' } },
  { kind: 'audience', audience: 'price-shy' },
  { kind: 'consent', channel: 'email' },
  { kind: 'measure', measure: orders },
  { kind: 'measure', measure: { ...orders, sum: { path: 'amount' } } },
  { kind: 'measure', measure: { ...orders, days: true } },
  { kind: 'deals', what: 'open' },
  { kind: 'deals', what: 'worth' },
];

/** By what a cell is sorted: a choice by where it stands among the choices. */
function place(column: Column, cell: Cell): string | number | undefined {
  if (cell?.is !== 'text') return placeOf(cell);
  if (column.kind === 'stage') return STAGES.findIndex((key) => key === cell.shown);
  if (column.kind === 'field' && column.field.startsWith('glaze')) return GLAZES.findIndex((key) => cell.shown.split(', ').includes(key));
  return placeOf(cell);
}

describe('tables of contacts', () => {
  let server: TestServer;
  /** the same without the counting index */
  let bySql: ConditionsService;

  const people = async (more: object): Promise<PeopleAnswer> =>
    (
      await server
        .call('post', '/api/v1/audiences/people')
        .send({ condition: EVERYONE, ...more })
        .expect(200)
    ).body as PeopleAnswer;
  const all = async (more: object): Promise<readonly PersonRow[]> => (await people({ limit: 500, ...more })).contacts;

  beforeAll(async () => {
    server = await TestServer.start({ clock: new StandingClock(START), counting: 'here' });
    const { app, database, databaseUrl } = server;
    bySql = new ConditionsService(
      database,
      app.get(DefinitionStore),
      app.get(ServerClock),
      app.get(ContactsService),
      app.get(CompaniesService),
      new CountingService({ database, databaseUrl }, pino({ level: 'silent' })),
      app.get(RowsService),
    );
    await server.define({
      ...SET_UP,
      fields: [
        ...SET_UP.fields,
        { key: 'glaze', name: 'glaze', of: 'contact', type: 'one choice', options: GLAZES.map((key) => ({ key, name: key })) },
        { key: 'glazes', name: 'glazes', of: 'contact', type: 'several choices', options: GLAZES.map((key) => ({ key, name: key })) },
        { key: 'born', name: 'born', of: 'contact', type: 'date' },
        { key: 'spent', name: 'spent', of: 'contact', type: 'money' },
        { key: 'size', name: 'size', of: 'company', type: 'number' },
      ],
      ladder: STAGES.map((key) => ({ key, name: key })),
      pipelines: [
        {
          key: 'fit',
          name: 'Fit',
          stages: [
            { key: 'quote', name: 'quote' },
            { key: 'lost', name: 'lost', outcome: 'lost' },
          ],
        },
      ],
    });
    await server
      .call('put', '/api/v1/companies')
      .send({
        companies: [0, 1, 2].map((n) => ({
          outsideId: `kiln-${n}`,
          name: ['Åker Kiln', 'beck kiln', 'Coil'][n],
          fields: { size: n * 10 },
        })),
      })
      .expect(200);
    const { body } = await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({
          email: emailOf(n),
          ...(n % 7 === 0 ? {} : { company: `kiln-${n % 3}` }),
          ...(n % 4 === 1 ? { stage: STAGES[n % 3] } : {}),
          ...(n % 3 === 2 ? { tags: n % 2 === 0 ? { 'snag.price': true } : { 'snag.keen': true, 'snag.price': true } } : {}),
          consent: { email: (['given', 'withdrawn', 'unknown'] as const)[n % 3] },
          fields: {
            'given-name': ['Åsa', 'ada', 'Zoe', 'Émile', 'zoë', '山田'][n % 6],
            ...(n % 5 === 0 ? {} : { years: (n * 7) % 11 }),
            ...(n % 2 === 0 ? { city: ['Oakham', 'Älvsby', 'ängby', 'Mill End'][n % 4] } : {}),
            ...(n % 3 === 0 ? { glaze: GLAZES[n % 3 === 0 ? (n / 3) % 3 : 0] } : {}),
            ...(n % 4 === 0 ? { glazes: n % 8 === 0 ? ['tenmoku', 'shino'] : ['shino', 'celadon'] } : {}),
            ...(n % 6 === 0 ? { born: `19${50 + (n % 40)}-0${1 + (n % 9)}-11` } : {}),
            ...(n % 5 === 1 ? { spent: `${n * 3}.50` } : {}),
          },
        })),
      })
      .expect(200);
    expect(body.results.filter((result: { status: string }) => result.status !== 'created')).toEqual([]);
    await server
      .call('put', '/api/v1/deals')
      .send({
        deals: Array.from({ length: 30 }, (_, n) => ({
          ...{ outsideId: `d${n}`, contact: emailOf((n * 11) % 19), stage: n % 4 === 0 ? 'lost' : 'quote' },
          ...(n % 5 === 0 ? {} : { amount: `${n * 20}.25` }),
        })),
      })
      .expect(200);
    await server.signals(
      ...Array.from({ length: 40 }, (_, n) =>
        event(
          'order.placed',
          emailOf((n * 7) % 23),
          { order: `o${n}`, amount: 10 + (n % 9) * 5.25 },
          { time: new Date(START - n * 4 * DAY).toISOString() },
        ),
      ),
    );
  });
  afterAll(() => server.stop());

  it('are put in order by the counting index, as far as that holds what they are sorted by', async () => {
    const asked = { condition: EVERYONE, instant: START };
    const answered: string[] = [];
    for (const column of COLUMNS) {
      const rows = await server.app.get(CountingService).inOrder(asked, {}, [{ column, down: false }], { limit: 5, skip: 0 });
      if (rows) answered.push(column.kind);
    }
    expect(COLUMNS.map(({ kind }) => kind).filter((kind) => !answered.includes(kind))).toEqual(['name', 'company', 'deals', 'deals']);
  });

  it('are sorted by any columns, several deep, as what they show is sorted, page after page', async () => {
    const index = fc.integer({ min: 0, max: COLUMNS.length - 1 });
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.record({ index, down: fc.boolean() }), { minLength: 1, maxLength: 3, selector: (each) => each.index }),
        fc.integer({ min: 1, max: 25 }),
        fc.nat({ max: PEOPLE }),
        async (picked, limit, skip) => {
          const columns = picked.map((each) => COLUMNS[each.index] as Column);
          const sort = picked.map(({ down }, at) => ({ column: columns[at] as Column, down }));
          const whole = await all({ columns, sort });
          expect(whole).toHaveLength(PEOPLE);
          for (const [at, row] of whole.entries()) {
            const before = whole[at - 1];
            if (!before) continue;
            const order = sort.map(({ column, down }, level) =>
              inOrder(place(column, before.cells?.[level] ?? null), place(column, row.cells?.[level] ?? null), down),
            );
            expect(order.find((each) => each !== 0) ?? 0).toBeLessThanOrEqual(0);
          }
          const seen: string[] = [];
          let after: string | null = null;
          do {
            const asked = { columns, sort, limit, ...(after === null ? {} : { after }) };
            const page: PeopleAnswer = await people(asked);
            expect(page).toEqual(await bySql.people({ condition: EVERYONE, of: 'contact', ...asked }));
            seen.push(...page.contacts.map(({ id }) => id));
            ({ after } = page);
          } while (after !== null);
          expect(seen).toEqual(whole.map(({ id }) => id));
          const some = { condition: SOME, sort, skip, limit };
          expect(await people(some)).toEqual(await bySql.people({ of: 'contact', ...some }));
        },
      ),
      { numRuns: 60, examples: COLUMNS.map((_, at) => [[{ index: at, down: at % 2 === 0 }], 13, 7]) },
    );
  });

  it('hold those and only those who fit, begin where one likes, and say the same of somebody as their page', async () => {
    const years = { kind: 'field', field: 'years', op: '>', value: 3 };
    const sort = [{ column: { kind: 'field', field: 'years' }, down: true }];
    const rows = await all({ condition: years, sort, columns: [COLUMNS[2], COLUMNS[11], COLUMNS[6]] });
    const { body: counted } = await server.call('post', '/api/v1/audiences/count').send({ condition: years }).expect(200);
    expect(rows).toHaveLength(counted.count);
    expect((await people({ condition: years, sort, skip: 5, limit: 3 })).contacts.map(({ id }) => id)).toEqual(
      rows.slice(5, 8).map(({ id }) => id),
    );
    expect((await people({ skip: PEOPLE - 1 })).contacts.map(({ email }) => email)).toEqual([emailOf(0)]);
    expect((await all({ search: 'ÅSA', sort })).length).toBe(PEOPLE / 6);
    for (const row of rows.slice(0, 5)) {
      const { body: contact } = await server.call('get', `/api/v1/contacts/${row.id}`).expect(200);
      const shown = new Map<string, string>(contact.fields.map((field: { key: string; shown: string }) => [field.key, field.shown]));
      const [has, stage, spent] = row.cells ?? [];
      expect(has).toMatchObject({ is: 'number', shown: shown.get('years') });
      expect(stage === null ? null : stage).toEqual(contact.stage === null ? null : { is: 'text', shown: contact.stage.name });
      expect(spent === null ? undefined : (spent as { shown: string }).shown).toBe(shown.get('spent'));
    }
  });

  it('are searched for by any part of a name or an address, whatever signs are in it', async () => {
    const everyone = await all({});
    const folded = (row: PersonRow): readonly string[] => [fold(row.name), fold(row.email ?? '')];
    for (const search of ['å', 'zo', 'Émi', '山', 'ADA', 't0', '@table', '%', '_', '\\', 'a%a', 'table.example', 'nobody at all']) {
      const expected = everyone.filter((row) => folded(row).some((text) => text.includes(fold(search))));
      expect({ search, found: (await all({ search })).map(({ id }) => id) }).toEqual({ search, found: expected.map(({ id }) => id) });
    }
    // Along an index, where there are many.
    const indexes = await server.database.query<{ name: string }>(`select indexname as name from pg_indexes where tablename = 'contact'`);
    expect(indexes.map(({ name }) => name)).toContain('contact_named');
  });

  it('count of each what the line that asks for it counts', async () => {
    for (const [measure, asked] of [
      [orders, { kind: 'signal', ...orders }],
      [
        { ...orders, days: true },
        { kind: 'signal', ...orders, days: { op: '>=', value: 1 } },
      ],
    ] as const) {
      const rows = await all({ columns: [{ kind: 'measure', measure }], condition: asked });
      expect(rows.length).toBeGreaterThan(0);
      for (const row of rows) expect(row.cells?.[0]).toMatchObject({ is: 'number', number: expect.any(Number) });
      const most = Math.max(...rows.map((row) => (row.cells?.[0] as { number: number }).number));
      const exactly = {
        kind: 'signal',
        ...orders,
        ...('days' in asked ? { days: { op: '=', value: most } } : { count: { op: '=', value: most } }),
      };
      expect((await all({ condition: exactly })).map(({ id }) => id).sort()).toEqual(
        rows
          .filter((row) => (row.cells?.[0] as { number: number }).number === most)
          .map(({ id }) => id)
          .sort(),
      );
    }
  });

  it('say of each column what it comes to, as its cells do', async () => {
    for (const [at, column] of COLUMNS.entries()) {
      const condition = at % 2 === 0 ? EVERYONE : { kind: 'field', field: 'years', op: '>', value: 3 };
      const { body } = await server.call('post', '/api/app/contacts/column').send({ condition, column }).expect(200);
      const summary = body as ColumnSummary;
      const cells = (await all({ condition, columns: [column] })).map((row) => row.cells?.[0] ?? null);
      const numbers = cells.flatMap((cell) => (cell?.is === 'number' ? [cell.number] : cell?.is === 'score' ? [cell.points] : []));
      expect([summary.of, summary.filled]).toEqual([cells.length, cells.filter((cell) => cell !== null).length]);
      expect(summary.numbers?.sum ?? 0).toBeCloseTo(
        numbers.reduce((sum, each) => sum + each, 0),
        4,
      );
      const shown = cells.flatMap((cell) => (cell?.is === 'text' ? [cell.shown] : cell?.is === 'tags' ? cell.tags : []));
      expect(summary.distinct).toBe(new Set(shown).size);
      for (const { shown: each, count } of summary.values) expect(shown.filter((one) => one === each)).toHaveLength(count);
    }
    await server
      .call('post', '/api/app/contacts/column')
      .send({ condition: EVERYONE, column: { kind: 'field', field: 'none' } })
      .expect(422);
  });

  it('are files: as CSV, as NDJSON and as vCards, in their order, with no formula in them', async () => {
    const columns = [COLUMNS[2], COLUMNS[10], COLUMNS[8], COLUMNS[18], COLUMNS[6], COLUMNS[2]];
    const sort = [{ column: { kind: 'field', field: 'years' }, down: true }];
    const file = async (table: object, format: string): Promise<string> => {
      const answer = await server
        .call('get', '/api/app/contacts/file')
        .query({ table: JSON.stringify({ condition: EVERYONE, ...table }), format })
        .buffer(true)
        .parse((response, done) => {
          let text = '';
          response.on('data', (chunk: Buffer) => (text += chunk.toString()));
          response.on('end', () => done(null, text));
        })
        .expect(200);
      return answer.body as string;
    };
    const rows = await all({ columns, sort });
    const lines = (await file({ columns, sort }, 'csv')).trim().split('\n');
    expect(lines[0]).toBe('Contact,Address,Years,Snag,Keenness,Times they ordered in the last 90 days,Spent,Years (2)');
    expect(lines.slice(1).map((line) => line.split(',')[1])).toEqual(rows.map(({ email }) => email));
    const objects = (await file({ columns, sort }, 'ndjson'))
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(objects.map((each) => each['Years'])).toEqual(
      rows.map(({ cells }) => (cells?.[0] as { number: number } | null)?.number ?? null),
    );
    expect((await file({}, 'vcard')).match(/BEGIN:VCARD/g)).toHaveLength(PEOPLE);
    expect((await file({ search: 'Zoe' }, 'csv')).trim().split('\n')).toHaveLength(1 + PEOPLE / 6);
    const refused = (table: string) => server.call('get', '/api/app/contacts/file').query({ table, format: 'csv' }).expect(422);
    await refused('{');
    await refused(JSON.stringify({ condition: EVERYONE, columns: [{ kind: 'field', field: 'none' }] }));
    const { cookie } = await server.signIn();
    const { body: ledger } = await request(server.app.getHttpServer())
      .get('/api/app/ledger')
      .query({ kind: 'setting' })
      .set('cookie', cookie)
      .expect(200);
    expect(ledger.rows.map((row: { words: string }) => row.words)).toContain('A table of people was exported as NDJSON');
  });

  it('say what is wrong with a column, a page or a time that they cannot have', async () => {
    const refused = async (more: object): Promise<readonly { code: string; path: (string | number)[] }[]> =>
      (
        await server
          .call('post', '/api/v1/audiences/people')
          .send({ condition: EVERYONE, ...more })
          .expect(422)
      ).body.faults;
    expect(await refused({ columns: [{ kind: 'name' }, { kind: 'field', field: 'none' }] })).toMatchObject([
      { path: ['columns', 1, 'field'], code: 'field.unknown' },
    ]);
    expect(await refused({ sort: [{ column: { kind: 'name' } }, { column: { kind: 'score', scorecard: 'none' } }] })).toMatchObject([
      { path: ['sort', 1, 'column', 'scorecard'] },
    ]);
    expect(await refused({ columns: [{ kind: 'measure', measure: { type: 'order.placed', sum: { path: 'colour' } } }] })).toMatchObject([
      { path: ['columns', 0, 'measure', 'sum', 'path'] },
    ]);
    expect(await refused({ of: 'company', columns: [{ kind: 'stage' }] })).toMatchObject([{ code: 'column.subject' }]);
    expect(await refused({ at: '2026-11-01T00:00:00Z', sort: [{ column: { kind: 'name' } }] })).toMatchObject([{ code: 'table.now' }]);
    expect(await refused({ sort: [{ column: { kind: 'stage' } }], after: 'x' })).toMatchObject([{ path: ['after'] }]);
    const other = (await people({ limit: 1, sort: [{ column: { kind: 'name' } }] })).after;
    expect(await refused({ sort: [{ column: { kind: 'stage' } }], after: other })).toMatchObject([{ path: ['after'] }]);
  });
});
