import { Moment, type DefinitionsDocument, type WrittenCondition } from '@eager-sieve/core';
import pino from 'pino';
import { ConditionsService } from '../src/audiences/conditions.service';
import { countBySets, countTogether } from '../src/audiences/count-by-sql';
import { questionsOf, readGroup } from '../src/audiences/questions';
import { RowsService } from '../src/audiences/rows.service';
import { CountingService } from '../src/counting/counting.service';
import { ServerClock } from '../src/engine/server-clock';
import { CompaniesService } from '../src/companies/companies.service';
import { ContactsService } from '../src/contacts/contacts.service';
import { DefinitionStore } from '../src/settings/definition-store';
import { ADMIN, event, TestServer } from './harness';

const PEOPLE = 40;

const ORDERED = { kind: 'signal', type: 'order.placed', count: { op: '>=', value: 1 } };
const ASKED: readonly object[] = [
  { match: 'all', of: [] },
  { kind: 'field', field: 'town', op: 'is', value: 'Mill End' },
  { kind: 'field', of: 'company', field: 'size', op: '>=', value: 50 },
  { kind: 'tag', tag: 'care.call-first', op: 'has' },
  { kind: 'tag', tag: 'care.call-first', op: 'had' },
  { kind: 'consent', channel: 'email', op: 'is', value: 'given' },
  { kind: 'score', scorecard: 'keenness', op: '>=', value: 10 },
  { kind: 'audience', audience: 'buyers', op: 'in' },
  { match: 'all', of: [ORDERED, { match: 'none', of: [{ kind: 'tag', tag: 'care.call-first', op: 'has' }] }] },
];

const SET_UP = {
  currency: 'EUR',
  fields: [
    { of: 'contact', key: 'town', name: 'Town', type: 'text' },
    { of: 'company', key: 'size', name: 'Size', type: 'number' },
  ],
  families: [{ key: 'care', prefix: 'care', name: 'Care', purpose: 'How to treat them', many: true }],
  tags: [{ key: 'care.call-first', family: 'care', name: 'Call first' }],
  scorecards: [
    {
      key: 'keenness',
      name: 'Keenness',
      of: 'contact',
      min: 0,
      max: 100,
      bands: [{ key: 'all', name: 'All', from: 0 }],
      lines: [{ key: 'orders', kind: 'activity', type: 'order.placed', where: [], points: 5, counts: 'every time', keeps: 'forever' }],
    },
  ],
  audiences: [{ key: 'buyers', name: 'Buyers', kind: 'live', condition: ORDERED }],
} as unknown as DefinitionsDocument;

const emailOf = (n: number): string => `p${n}@count.example`;
let orders = 0;
const order = (n: number): object =>
  event('order.placed', emailOf(n), {
    order: `o${(orders += 1)}`,
    items: [{ product: 'Bowl', line: 'clay', quantity: 1, amount: 20 }],
    amount: 20,
    currency: 'EUR',
  });

describe('the counting index', () => {
  let server: TestServer;
  let bySql: ConditionsService;
  let index: CountingService;

  beforeAll(async () => {
    server = await TestServer.start({ counting: 'here' });
    const none = new CountingService({ database: server.database, databaseUrl: server.databaseUrl }, pino({ level: 'silent' }));
    const { app } = server;
    bySql = new ConditionsService(
      server.database,
      app.get(DefinitionStore),
      app.get(ServerClock),
      app.get(ContactsService),
      app.get(CompaniesService),
      none,
      app.get(RowsService),
    );
    index = app.get(CountingService);
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({ email: emailOf(n), fields: { town: n % 3 === 0 ? 'Mill End' : 'Oakham' } })),
      })
      .expect(200);
    await server.signals(...Array.from({ length: PEOPLE }, (_, n) => order(n % 17)));
    await ready();
  });
  afterAll(() => server.stop());

  const ready = async (): Promise<void> => {
    while ((await index.state()) !== 'ready') await new Promise((resolve) => setTimeout(resolve, 20));
  };

  /** Both answers to every question; the index must have answered itself. */
  const agree = async (): Promise<number[]> => {
    await server.idle();
    const counts: number[] = [];
    for (const condition of ASKED) {
      const request = { condition, of: 'contact', sieve: true } as Parameters<ConditionsService['count']>[0];
      const instant = clock().now();
      expect(await index.count({ condition: request.condition, instant, clock: 'now' }, false)).toBeDefined();
      const { body } = await server.call('post', '/api/v1/audiences/count').send(request).expect(200);
      // Asked of the instant at which the index answered, which is past by now.
      const { recorded, ...counted } = await bySql.count({ ...request, at: body.asOf });
      expect(recorded).toBe('as of now');
      expect({ condition, ...body }).toEqual({ condition, ...counted });
      const page = { condition: request.condition, of: 'contact' as const, limit: 7 };
      const { body: people } = await server.call('post', '/api/v1/audiences/people').send(page).expect(200);
      expect({ condition, people }).toEqual({ condition, people: await bySql.people(page) });
      counts.push(body.count);
      for (const own of [[ADMIN.email], ['nobody@test.example']]) {
        const theirs = { ...request, own: { owners: own, team: null } };
        const answer = await index.count({ condition: request.condition, instant, clock: 'now', own }, true);
        const { recorded: _, ...expected } = await bySql.count({ ...theirs, at: answer?.asOf });
        expect({ condition, own, ...answer }).toEqual({ condition, own, ...expected });
      }
    }
    return counts;
  };
  const clock = (): ServerClock => server.app.get(ServerClock);

  it('counts and lists as SQL does', async () => {
    const counts = await agree();
    expect(counts[0]).toBe(PEOPLE);
    expect(new Set(counts).size).toBeGreaterThan(3);
  });

  it('comes to the same by the sets of lines as by asking each line of each row, for everyone and for those that somebody minds', async () => {
    const { compiled } = await server.app.get(DefinitionStore).current(server.database);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [3, 4, 5].map((n) => ({ email: emailOf(n), owner: ADMIN.email })) })
      .expect(200);
    await server.idle();
    const moment = new Moment(clock().now(), compiled.catalogue.zone);
    const written = ASKED.slice(1).map((condition) => condition as WrittenCondition);
    for (const match of ['all', 'any', 'none'] as const)
      for (const own of [undefined, [ADMIN.email], ['nobody@test.example']]) {
        const { node } = readGroup({ match, of: written }, compiled, 'contact');
        const { nodes, deciding } = questionsOf(node, 'contact', true);
        const asked = { nodes, deciding, moment, of: 'contact' as const, ...(own ? { own: { owners: own, team: null } } : {}) };
        expect(await countBySets(server.database, asked)).toEqual(await countTogether(server.database, asked));
      }
  });

  it('knows what was committed a moment ago: signals, tags, facts, consent', async () => {
    const before = await agree();
    await server.signals(order(20), order(21));
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: emailOf(1), fields: { town: 'Mill End' }, tags: { 'care.call-first': true }, consent: { email: 'given' } },
          { email: 'new@count.example', fields: { town: 'Mill End' } },
        ],
      })
      .expect(200);
    const after = await agree();
    expect(after.map((count, at) => count - (before[at] ?? 0))).toEqual([1, 2, 0, 1, 1, 1, 0, 2, 1]);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: emailOf(1), fields: { town: null }, tags: { 'care.call-first': false } }] })
      .expect(200);
    expect((await agree()).map((count, at) => count - (before[at] ?? 0))).toEqual([1, 1, 0, 0, 1, 1, 0, 2, 2]);
  });

  it('lets everyone of a company read what changed of it', async () => {
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: 'The Mill', fields: { size: 10 } }] });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [0, 1, 2].map((n) => ({ email: emailOf(n), company: 'mill' })) })
      .expect(200);
    expect((await agree())[2]).toBe(0);
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', fields: { size: 60 } }] });
    expect((await agree())[2]).toBe(3);
  });

  it('says how many are in audiences, and can be reached, as their rows do', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [0, 1, 2].map((n) => ({ email: emailOf(n), consent: { email: 'given' } })) })
      .expect(200);
    await server.idle();
    const shown = async (): Promise<object> => (await server.call('get', '/api/v1/audiences').expect(200)).body as object;
    const bySql = await shown();
    expect(bySql).toMatchObject({ audiences: [{ key: 'buyers', members: expect.any(Number), reachable: expect.any(Number) }] });
    const asked = jest.spyOn(index, 'count');
    // As the database's statistics say of very many.
    await server.database.query(`update pg_class set reltuples = 1000000 where oid = 'contact'::regclass`);
    expect(await shown()).toEqual(bySql);
    expect(asked).toHaveBeenCalledWith(expect.objectContaining({ condition: { kind: 'audience', audience: 'buyers', op: 'in' } }), false);
    asked.mockRestore();
    await server.database.query('analyze contact');
  });

  it('forgets whoever is erased, and counts two who were merged as one until they are parted', async () => {
    const [everyone = 0] = await agree();
    await server.call('delete', `/api/v1/contacts/${emailOf(30)}`).expect(204);
    expect((await agree())[0]).toBe(everyone - 1);
    const merged = await server
      .call('post', `/api/v1/contacts/${emailOf(31)}/merge`)
      .send({ other: emailOf(5) })
      .expect(200);
    expect((await agree())[0]).toBe(everyone - 2);
    await server.call('post', `/api/v1/merges/${merged.body.merge}/take-back`).expect(204);
    expect((await agree())[0]).toBe(everyone - 1);
  });

  it('reads fields anew whose type was changed, and goes on under new definitions', async () => {
    await server.define({ audiences: [{ key: 'more', name: 'More', kind: 'live', condition: ASKED[1] }] });
    await agree();
    await server.define({ timeZone: 'Asia/Tokyo' });
    // The first question finds that everything has to be read anew, and is left to SQL.
    expect(await index.count({ condition: ASKED[0] as never, instant: clock().now(), clock: 'now' }, false)).toBeUndefined();
    await ready();
    await agree();
  });
});
