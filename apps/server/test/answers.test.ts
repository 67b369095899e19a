import { PUBLIC_API, publicRoutes, type Route } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const EMAIL = 'ines@test.example';
const everyone = { match: 'all', of: [] };

/** A workspace in which every call has something to answer with. */
async function furnish(server: TestServer): Promise<{ merge: number; ledger: number; build: number }> {
  await server.define({
    ...SET_UP,
    fields: [...SET_UP.fields, { key: 'seats', name: 'seats', of: 'company', type: 'number' }],
    ladder: [{ key: 'heard', name: 'heard of us' }],
    pipelines: [
      {
        key: 'trade',
        name: 'Trade',
        stages: [
          { key: 'enquiry', name: 'enquiry' },
          { key: 'talks', name: 'in talks' },
        ],
      },
    ],
  });
  await server
    .call('put', '/api/v1/companies')
    .send({ companies: [{ outsideId: 'lantern', name: 'Lantern', fields: { seats: 40 } }] })
    .expect(200);
  await server
    .call('put', '/api/v1/contacts')
    .send({
      contacts: [
        { email: EMAIL, company: 'lantern', stage: 'heard', fields: { years: 3 }, consent: { email: 'given' } },
        { email: 'other@test.example' },
        { email: 'third@test.example' },
      ],
    })
    .expect(200);
  await server
    .call('put', '/api/v1/deals')
    .send({ deals: [{ outsideId: 'd1', contact: EMAIL, company: 'lantern', pipeline: 'trade', amount: '10.00' }] })
    .expect(200);
  await server.signals(
    event('order.placed', EMAIL, { order: '1', amount: 5, currency: 'SEK' }),
    event('order.placed', EMAIL, { order: '2', amount: 5, currency: 'SEK' }),
    event('form.answered', EMAIL, { form: 'find', answers: { stops: 'price' } }),
  );
  const { body } = await server.call('post', `/api/v1/contacts/${EMAIL}/merge`).send({ other: 'other@test.example' }).expect(200);
  await server.idle();
  const [build] = await server.database.query<{ id: number }>(
    `insert into build (definitions, name, epoch, cause, state, started_at, total) values ('{}', 'Test', 0, 'test', 'stopped', '2026-11-25', 3) returning id`,
  );
  const [fired] = await server.database.query<{ id: number }>(
    `select id from ledger where kind = 'firing' and verb = 'fired' order by id limit 1`,
  );
  return { merge: (body as { merge: number }).merge, ledger: fired?.id ?? 0, build: build?.id ?? 0 };
}

/** What is sent with each call that takes something. */
const SENT: Readonly<Record<string, unknown>> = {
  'post /signals': event('page.visited', EMAIL, { page: '/glazes' }),
  'put /contacts': { contacts: [{ email: EMAIL, fields: { years: 4 } }, { email: 'no address' }] },
  'post /contacts/{id}/try': { type: 'order.placed', data: { order: '9' } },
  'put /contacts/{id}/address': { email: EMAIL.toUpperCase() },
  'post /contacts/{id}/merge': { other: 'third@test.example' },
  'post /rules/{key}/take-back': {},
  'put /companies': { companies: [{ outsideId: 'lantern', name: 'Lantern Café' }] },
  'put /deals': { deals: [{ outsideId: 'd1', stage: 'talks' }] },
  'put /builds/{id}': { state: 'running' },
  'post /tasks': { contact: EMAIL, title: 'Call them', due: '2026-12-01' },
  'put /tasks/{id}': { done: true },
  'post /audiences/count': { condition: SET_UP.audiences[0]?.condition, sieve: true },
  'post /audiences/people': { condition: everyone },
  'post /audiences/explain': { condition: SET_UP.audiences[0]?.condition, contact: EMAIL },
  'put /definitions': { tags: [{ key: 'snag.new', name: 'new', family: 'snag' }] },
};

describe('every call of the public API', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
  });
  afterAll(() => server.stop());

  it('takes and answers just what its document says, and no more', async () => {
    const { merge, ledger, build } = await furnish(server);
    const differing: unknown[] = [];
    // Nothing is idle before the build is done; what takes something away comes last.
    const order = ({ method, path }: Route): number =>
      path.includes('/builds') ? -1 : method === 'DELETE' ? 3 : path.includes('/take-backs') ? 2 : path.includes('take-back') ? 1 : 0;
    for (const route of [...publicRoutes].sort((a, b) => order(a) - order(b))) {
      const { body, answers, takes, status = 200 } = route;
      const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
      const path = route.path.slice(PUBLIC_API.length);
      const named: Readonly<Record<string, string>> = {
        '/merges/{id}/take-back': `/merges/${merge}/take-back`,
        '/take-backs/{id}': '/take-backs/1',
        '/ledger/{id}/take-back': `/ledger/${ledger}/take-back`,
        '/rules/{key}/take-back': '/rules/keen/take-back',
        '/companies/{id}': '/companies/lantern',
        '/companies/{id}/ledger': '/companies/lantern/ledger',
        '/builds/{id}': `/builds/${build}`,
        // The one that the call before has made.
        '/tasks/{id}': '/tasks/1',
      };
      const address = named[path] ?? path.replace('{id}', EMAIL).replace('{key}', 'price-shy');
      const sent = SENT[`${method} ${path}`];
      if (body && !body.safeParse(sent).success) differing.push({ method, path, taken: body.safeParse(sent).error });
      const call = server.call(method, `${PUBLIC_API}${address}`);
      if (body) call.set('content-type', takes?.[0] ?? 'application/json');
      const answer = await (sent === undefined ? call : call.send(JSON.stringify(sent)));
      if (answer.status !== status) differing.push({ method, path, status: answer.status, body: answer.body });
      else if (answers) {
        const read = answers.safeParse(answer.body);
        // Reading drops what the schema does not name.
        if (!read.success) differing.push({ method, path, faults: read.error.issues });
        else expect({ method, path, said: answer.body }).toEqual({ method, path, said: read.data });
      } else expect(answer.text).toBe('');
      await server.idle();
    }
    expect(differing).toEqual([]);
  });
});
