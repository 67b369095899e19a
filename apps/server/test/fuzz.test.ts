import fc from 'fast-check';
import { namesIn, ROUTES, type Route, type RouteName } from '@eager-sieve/contracts';
import request from 'supertest';
import { makeLog } from '../src/log';
import { ASKS } from './asks';
import { furnish, MARK, type Furnished } from './furnish';
import { parts, poisoned, queries, written } from './fuzz';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

/** `FUZZ_RUNS=20000` asks longer; `FUZZ_SEED` asks the same again. */
const RUNS = Number(process.env['FUZZ_RUNS'] ?? 1_000);
const SEED = Number(process.env['FUZZ_SEED'] ?? 20_261_128);

/** A stream does not end; the others would end the session or the key that asks, or count as guesses. */
const ASKED_APART = new Set<RouteName>([
  'events',
  'signOut',
  'signIn',
  'signOutBrowser',
  'changePassword',
  'beginSecondFactor',
  'confirmSecondFactor',
  'endSecondFactor',
  'changePerson',
  'resetPerson',
  'removePerson',
]);
const NAMES = (Object.keys(ROUTES) as RouteName[]).filter((name) => !ASKED_APART.has(name));
const TYPES = [
  'application/json',
  'text/plain',
  'text/csv',
  'application/x-ndjson',
  'application/cloudevents-batch+json',
  'multipart/form-data',
  '',
] as const;

const line = (leaf: object) => ({ match: 'all', of: [leaf] });
/** Further bodies, in which more of what can be sent is there to be poisoned. */
const MORE_BODIES: Partial<Record<RouteName, readonly unknown[]>> = {
  takeSignals: [
    event(
      'order.placed',
      'p@test.example',
      { order: 'x', items: [{ product: 'a', line: 'glaze', quantity: 2, amount: 5 }], amount: 5, currency: 'SEK' },
      { time: '2026-11-25T10:00:00Z' },
    ),
    event('form.answered', 'id:outside', { form: 'find', version: 1, answers: { stops: 'price', town: 'x' } }),
    [
      event('page.visited', 'q@test.example', { url: 'https://shop.example/x', path: '/x', title: 'X' }),
      event('consent.given', 'q@test.example', { channel: 'email' }),
    ],
  ],
  putContacts: [
    {
      matchBy: 'outsideId',
      contacts: [
        {
          outsideId: 'o1',
          email: 'rich@test.example',
          fields: { city: 'x', years: 3, phone: '+46 1' },
          tags: { 'snag.price': true },
          consent: { email: 'given' },
          company: 'lantern',
          part: 'x',
          owner: MARK.staff,
        },
        { outsideId: 'o2', fields: { city: 'y' } },
      ],
    },
    { matchBy: 'phone', contacts: [{ fields: { phone: '+46 70 123' } }] },
  ],
  putCompanies: [
    {
      companies: [
        { outsideId: 'mill', name: 'Mill', fields: {} },
        { outsideId: 'lantern', name: 'Lantern' },
      ],
    },
  ],
  count: [
    {
      condition: line({
        kind: 'signal',
        type: 'order.placed',
        where: [{ path: 'amount', op: '>=', value: 5 }],
        within: { last: 30, unit: 'days' },
        count: { op: '>=', value: 2 },
      }),
      at: '2026-11-25T10:00:00Z',
    },
    { condition: line({ kind: 'field', field: 'years', op: '>=', value: 3 }), sieve: true },
    { condition: line({ kind: 'field', field: 'city', op: 'contains any word of', value: ['a', 'b'] }) },
    { condition: line({ kind: 'score', scorecard: 'keen', op: '>=', value: 3 }) },
    { condition: line({ kind: 'tag', tag: 'snag.price', op: 'has', since: { last: 3, unit: 'days' } }) },
  ],
  people: [
    { condition: { match: 'all', of: [] }, limit: 5, search: 'x', after: 'WzFd' },
    {
      condition: { match: 'all', of: [] },
      columns: [
        { kind: 'field', field: 'years' },
        { kind: 'measure', measure: { type: 'order.placed', within: { last: 9, unit: 'days' }, sum: { path: 'amount' } } },
      ],
      sort: [{ column: { kind: 'score', scorecard: 'keen' }, down: true }, { column: { kind: 'last', of: 'from them' } }],
      skip: 3,
    },
  ],
  explain: [{ condition: line({ kind: 'field', field: 'years', op: 'is', value: 3 }), contact: 'known@test.example', at: '2026-11-25' }],
  putDefinitions: [SET_UP],
  makeTask: [{ contact: 'known@test.example', title: 'Call', due: '2030-01-01', for: MARK.staff }],
  changeTask: [{ title: 'Call', due: '2030-01-01', for: null, done: false }],
  trySignal: [
    { type: 'order.placed', data: { order: 'q', items: [{ product: 'a', quantity: 1 }], amount: 5 }, time: '2026-01-01T00:00:00Z' },
  ],
  putPin: [{ subject: 'known@test.example', in: false, reason: 'x', until: '2030-01-01' }],
  answerForm: [
    {
      submission: '01890000-0000-7000-8000-000000000000',
      answers: { stops: 'price', town: 'x', email: 'form@test.example', consent: true },
    },
  ],
};

interface Asked {
  readonly name: RouteName;
  readonly method: string;
  readonly address: string;
  readonly type: string | undefined;
  readonly body: string | undefined;
}

/** Each route as it is asked when all is well, with something wrong in it. */
const asking = (made: Furnished): fc.Arbitrary<Promise<fc.Arbitrary<Asked>>> =>
  fc.constantFrom(...NAMES).map(async (name) => {
    const route: Route = ROUTES[name];
    const { path = route.path, type, query, ...usual } = await ASKS[name](made);
    const more = MORE_BODIES[name] ?? [];
    const addresses = fc
      .tuple(
        fc.integer({ max: 3, min: 0 }).map((n) => n === 0),
        fc.array(parts, { minLength: 3, maxLength: 3 }),
        fc.boolean(),
        queries(Object.keys(route.query?.shape ?? {})),
      )
      .map(([isOdd, odd, hasQuery, oddQuery]) => {
        const names = namesIn(route.path);
        const place =
          isOdd && names.length > 0 ? names.reduce((at, each, index) => at.replace(`{${each}}`, odd[index] ?? 'x'), route.path) : path;
        const plain = new URLSearchParams(query).toString();
        return `${place}?${hasQuery ? oddQuery : plain}`;
      });
    const bodies =
      usual.body === undefined
        ? fc.constant(undefined)
        : typeof usual.body === 'string'
          ? fc.constantFrom(usual.body, `${usual.body}\u0000@test.example\n`, '__proto__,constructor\nx,y\n', `"${usual.body}`, '\ud800')
          : fc
              .constantFrom(usual.body, ...more)
              .chain(poisoned)
              .chain(written);
    const types = fc.oneof({ weight: 8, arbitrary: fc.constant(type ?? 'application/json') }, fc.constantFrom(...TYPES));
    return fc.record({
      name: fc.constant(name),
      method: fc.constant(route.method),
      address: addresses,
      type: usual.body === undefined ? fc.constant(undefined) : types,
      body: bodies,
    });
  });

describe('whatever is sent to whichever route', () => {
  let server: TestServer;
  let made: Furnished;
  const logged: string[] = [];
  beforeAll(async () => {
    server = await TestServer.start({ log: makeLog({ write: (line: string) => void logged.push(line) }) });
    made = await furnish(server);
  });
  afterAll(() => server.stop());

  it('is answered, and what is wrong with it said: nothing fails inside, and no log tells of anybody', async () => {
    const { cookie, csrf } = await server.signIn();
    const failed: unknown[] = [];
    const statuses: Record<string, number> = {};
    const plans = fc.sample(asking(made), { numRuns: RUNS, seed: SEED });
    for (const [index, plan] of plans.entries()) {
      const [asked] = fc.sample(await plan, { numRuns: 1, seed: SEED + index });
      if (!asked) continue;
      const call = request(server.app.getHttpServer())
        [asked.method.toLowerCase() as 'get'](asked.address)
        .redirects(0)
        .set('cookie', cookie)
        .set('x-csrf-token', csrf);
      if (asked.type) call.set('content-type', asked.type);
      const { status, text } = await (asked.body === undefined ? call : call.send(asked.body));
      statuses[status] = (statuses[status] ?? 0) + 1;
      if (status >= 500)
        failed.push({ ...asked, body: asked.body?.slice(0, 600), status, text: text.slice(0, 200), log: logged.at(-1)?.slice(0, 900) });
    }
    expect({ failed: failed.slice(0, 20), statuses: failed.length > 0 ? statuses : {} }).toEqual({ failed: [], statuses: {} });
    expect(({} as { polluted?: unknown }).polluted).toBeUndefined();
    // Both what is right and what is wrong was sent, so that it got past the door and did not.
    expect(Math.min(statuses[200] ?? 0, statuses[422] ?? 0)).toBeGreaterThan(RUNS / 20);
    const { cookie: still } = await server.signIn();
    await request(server.app.getHttpServer()).get('/api/app/session').set('cookie', still).expect(200);
    // It was made to have one that can be stopped; nothing brings it on.
    await server.database.query('delete from build');
    await server.idle();
    expect((await server.verify()).differences).toBe(0);
    expect(
      logged.filter((line) =>
        [MARK.value, MARK.staff, MARK.name, 'known@test.example'].some((mark) => line.toLowerCase().includes(mark.toLowerCase())),
      ),
    ).toEqual([]);
  });

  it('is refused item by item where many are sent at once: one bad item takes no other with it', async () => {
    // In a workspace of its own: what was sent at random may have changed the other one.
    const fresh = await TestServer.start();
    await furnish(fresh);
    const batches = {
      contacts: {
        path: '/api/v1/contacts',
        good: (n: number) => ({ email: `batch${n}@test.example`, fields: { city: 'x', years: n }, tags: { 'snag.price': true } }),
      },
      companies: { path: '/api/v1/companies', good: (n: number) => ({ outsideId: `batch${n}`, name: 'x' }) },
      deals: {
        path: '/api/v1/deals',
        good: (n: number) => ({ outsideId: `batch${n}`, company: 'lantern', pipeline: 'trade', amount: '1.00' }),
      },
    } as const;
    let n = 0;
    const runs = Math.max(15, Math.round(RUNS / 40));
    for (const [list, { path, good }] of Object.entries(batches))
      await fc.assert(
        fc.asyncProperty(poisoned(good(0)), fc.nat(2), async (bad, index) => {
          const items: unknown[] = [good((n += 1)), good((n += 1))];
          items.splice(index, 0, bad);
          const { status, body } = await fresh
            .call('put', path)
            .type('application/json')
            .send(JSON.stringify({ [list]: items }));
          expect(status).toBe(200);
          const { results } = body as { results: { index: number; status: string; faults?: unknown }[] };
          expect(results).toHaveLength(3);
          const others = results.filter((each) => each.index !== index);
          expect(others.map(({ status: each, faults }) => ({ status: each, faults }))).toEqual([
            { status: 'created' },
            { status: 'created' },
          ]);
        }),
        { numRuns: runs, seed: SEED, endOnFailure: true },
      );
    const signal = (): object =>
      event('order.placed', `batch${(n += 1)}@test.example`, {
        order: `o${n}`,
        items: [{ product: 'a', quantity: 1 }],
        amount: 5,
        currency: 'SEK',
      });
    await fc.assert(
      fc.asyncProperty(poisoned(signal()), fc.nat(2), fc.boolean(), async (bad, index, asLines) => {
        const items: unknown[] = [signal(), signal()];
        items.splice(index, 0, bad);
        const { status, body } = await fresh
          .call('post', '/api/v1/signals')
          .set('content-type', asLines ? 'application/x-ndjson' : 'application/cloudevents-batch+json')
          .send(asLines ? items.map((item) => JSON.stringify(item)).join('\n') : JSON.stringify(items));
        expect(status).toBe(202);
        const { accepted, duplicates, rejected } = body as { accepted: number; duplicates: number; rejected: { index: number }[] };
        expect(accepted).toBeGreaterThanOrEqual(2);
        expect(accepted + duplicates + new Set(rejected.map((each) => each.index)).size).toBe(3);
        expect(rejected.every((each) => each.index === index)).toBe(true);
      }),
      { numRuns: runs, seed: SEED, endOnFailure: true },
    );
    await fresh.database.query('delete from build');
    await fresh.idle();
    await fresh.stop();
  });

  it('is a fault of its row in a file, and a name that cannot be taken refuses the file in plain words', async () => {
    const { cookie, csrf } = await server.signIn();
    const send = async (file: string, mapping: object) => {
      const { body } = await request(server.app.getHttpServer())
        .post('/api/app/imports')
        .set('cookie', cookie)
        .set('x-csrf-token', csrf)
        .query({ options: JSON.stringify({ mapping }) })
        .type('text/csv')
        .send(file);
      return body as { state: string; error: string | null; created: number; faulty: number; faults: { row: number }[] };
    };
    const file = 'mail,city\nrow1@test.example,Aby\nrow2@test.example,A\u0000by\nrow3@test.example,Eke\n';
    expect(await send(file, { email: 'mail', 'field:city': 'city' })).toMatchObject({
      state: 'done',
      created: 2,
      faulty: 1,
      faults: [{ row: 3 }],
    });
    for (const name of ['__proto__', 'ci\u0000ty']) {
      const { state, error } = await send(`mail,${name}\nrow4@test.example,Aby\n`, { email: 'mail' });
      expect({ state, error }).toEqual({ state: 'failed', error: expect.stringMatching(/^A column is named “/) });
    }
    expect(await send('mail,constructor\nrow5@test.example,Aby\n', { email: 'mail', 'field:city': 'constructor' })).toMatchObject({
      state: 'done',
      created: 1,
    });
  });

  it.each([
    ['200,000 lists inside of each other', `{"contacts":${'['.repeat(200_000)}${']'.repeat(200_000)}}`],
    ['a million objects inside of each other', `{"contacts":[${'{"a":'.repeat(600_000)}1${'}'.repeat(600_000)}]}`],
  ])('is refused if it is %s', async (_what, body) => {
    const { status } = await server.call('put', '/api/v1/contacts').type('application/json').send(body);
    expect([200, 400, 413, 422]).toContain(status);
  });

  it('is not taken in a type of content that a route does not read', async () => {
    await server.call('post', '/api/v1/signals').type('text/plain').send('x').expect(415);
    await server.call('put', '/api/v1/contacts').type('text/plain').send('{}').expect(415);
    await server.call('put', '/api/v1/contacts').type('form').send({ contacts: 'x' }).expect(415);
  });
});
