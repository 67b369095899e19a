import { ROUTES, type Route, type RouteName } from '@eager-sieve/contracts';
import request from 'supertest';
import { addPerson } from '../src/settings/people.service';
import { ASKS } from './asks';
import { EMAIL, furnish, MARK, type Furnished } from './furnish';
import { event, TestServer } from './harness';

/** It stands in the names and keys of all that is kept to the team North, and nowhere else. */
const KEPT = 'quellmark';
const PASSWORD = 'a long enough password';
const inKept = { kind: 'audience', audience: KEPT, op: 'in' };
const ordersThrice = { kind: 'signal', type: 'order.placed', count: { op: '>=', value: 3 } };
const all = (...of: object[]): object => ({ match: 'all', of });
const NAMES = Object.keys(ROUTES) as RouteName[];
/** These go on for as long as they are listened to, end the session, or take away what is asked about. */
const ASKED_APART = new Set<RouteName>(['events', 'signOut', 'eraseContact', 'mergeContact', 'partContact']);

type Call = (method: 'get' | 'put' | 'post', path: string) => request.Test;

describe('an audience that is kept to a team', () => {
  let server: TestServer;
  let made: Furnished;
  const headers: Record<string, Readonly<Record<string, string>>> = {};
  const as =
    (who: string): Call =>
    (method, path) =>
      request(server.app.getHttpServer())
        [method](path)
        .set(headers[who] ?? {});
  const handOver = (who: string) =>
    server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL, owner: `${who}@test.example` }] })
      .expect(200);

  beforeAll(async () => {
    server = await TestServer.start();
    made = await furnish(server);
    for (const [who, team] of [
      ['north', 'North'],
      ['south', 'South'],
      ['lone', undefined],
    ] as const) {
      const person = { email: `${who}@test.example`, password: PASSWORD };
      await server.database.transaction((sql) => addPerson(sql, { ...person, name: who, role: 'seller', team }, Date.now()));
      const { cookie, csrf } = await server.signIn(person);
      headers[who] = { cookie, 'x-csrf-token': csrf };
    }
    const { cookie, csrf } = await server.signIn();
    headers['admin'] = { cookie, 'x-csrf-token': csrf };
    await server.define({
      tags: [{ key: 'snag.seen', name: 'was seen', family: 'snag' }],
      audiences: [
        { key: KEPT, name: `The ${KEPT}`, kind: 'live', team: 'North', condition: all(ordersThrice) },
        { key: `${KEPT}-list`, name: `List of ${KEPT}`, kind: 'fixed', team: 'North' },
        { key: `${KEPT}-reading`, name: `Reading ${KEPT}`, kind: 'live', condition: all(inKept) },
      ],
      rules: [
        {
          key: `${KEPT}-rule`,
          name: `Rule of ${KEPT}`,
          on: true,
          when: { kind: 'becomes', condition: all(inKept) },
          then: [
            { do: 'add tag', tag: 'snag.seen' },
            { do: 'put on list', audience: `${KEPT}-list` },
          ],
        },
      ],
    });
    await server.signals(...['k1', 'k2'].map((order) => event('order.placed', EMAIL, { order, amount: 5, currency: 'SEK' })));
    await server.idle();
  });
  afterAll(() => server.stop());

  it('is spoken of in no answer to whoever is not of the team, and its contacts are still theirs', async () => {
    const tells: Record<string, RouteName[]> = {};
    for (const who of ['admin', 'north', 'south', 'lone']) {
      if (who !== 'admin') await handOver(who);
      const telling: RouteName[] = [];
      for (const name of NAMES.filter((each) => !ASKED_APART.has(each))) {
        const route: Route = ROUTES[name];
        if (route.method !== 'GET' && route.method !== 'POST') continue;
        const { path, body, type, query } = await ASKS[name](made);
        const call = request(server.app.getHttpServer())
          [route.method.toLowerCase() as 'get'](path ?? route.path)
          .redirects(0)
          .set(headers[who] ?? {})
          .query(query ?? {});
        const answer =
          body === undefined
            ? await call
            : await call.set('content-type', type ?? 'application/json').send(typeof body === 'string' ? body : JSON.stringify(body));
        if (answer.text?.toLowerCase().includes(KEPT)) telling.push(name);
      }
      tells[who] = telling;
    }
    expect(tells['south']).toEqual([]);
    expect(tells['lone']).toEqual([]);
    // Whoever may be told is: otherwise nothing would be held by the above.
    expect(tells['north']).toEqual(
      expect.arrayContaining(['contact', 'timeline', 'contactLedger', 'contactAsOf', 'audiences', 'catalogue', 'definitions']),
    );
    expect(tells['admin']).toEqual(expect.arrayContaining([...(tells['north'] ?? [])]));
  });

  it('is not to be found, counted, read, filled or asked about by others, as if there were none', async () => {
    const condition = all(inKept);
    const asks: readonly (readonly [string, (call: Call) => request.Test])[] = [
      ['audience', (call) => call('get', `/api/v1/audiences/${KEPT}`)],
      ['members', (call) => call('get', `/api/v1/audiences/${KEPT}-list/members`)],
      ['members as a file', (call) => call('get', `/api/v1/audiences/${KEPT}-list/members?format=csv`)],
      ['movements', (call) => call('get', `/api/v1/audiences/${KEPT}-reading/movements`)],
      ['versions', (call) => call('get', `/api/app/definitions/audience/${KEPT}/versions`)],
      ['versions of a rule', (call) => call('get', `/api/app/definitions/rule/${KEPT}-rule/versions`)],
      ['trace', (call) => call('get', `/api/app/contacts/${EMAIL}/trace?of=membership&key=${KEPT}`)],
      ['why not', (call) => call('get', `/api/app/contacts/${EMAIL}/why-not?of=audience&key=${KEPT}`)],
      ['count', (call) => call('post', '/api/v1/audiences/count').send({ condition })],
      ['people', (call) => call('post', '/api/v1/audiences/people').send({ condition })],
      [
        'column',
        (call) => call('post', '/api/v1/audiences/people').send({ condition: all(), columns: [{ kind: 'audience', audience: KEPT }] }),
      ],
      ['explain', (call) => call('post', '/api/v1/audiences/explain').send({ condition, contact: EMAIL })],
      [
        'worklist',
        (call) =>
          call('post', '/api/app/worklists').send({
            name: 'Mine',
            forAll: true,
            table: { condition: all(), columns: [{ kind: 'audience', audience: KEPT }] },
          }),
      ],
    ];
    for (const who of ['south', 'lone', 'north']) {
      await handOver(who);
      const statuses = new Map<string, number>();
      for (const [name, ask] of asks) {
        const { status, text } = await ask(as(who));
        statuses.set(name, status < 300 ? 200 : status);
        if (who !== 'north') expect({ who, name, told: text.includes(`The ${KEPT}`) }).toMatchObject({ told: false });
      }
      const good = [...statuses].filter(([, status]) => status === 200).map(([name]) => name);
      expect({ who, good }).toEqual({ who, good: who === 'north' ? asks.map(([name]) => name) : [] });
      const { body } = await as(who)('put', '/api/v1/contacts').send({ contacts: [{ email: EMAIL, lists: { [`${KEPT}-list`]: false } }] });
      expect({ who, status: (body as { results: { status: string }[] }).results[0]?.status }).toEqual({
        who,
        status: who === 'north' ? 'updated' : 'rejected',
      });
      const { body: found } = await as(who)('get', `/api/app/search?q=${KEPT}`).expect(200);
      expect((found as unknown[]).length > 0).toBe(who === 'north');
    }
  });

  it('leaves of what it did what everyone may know: the tag, by a rule that another team has', async () => {
    await handOver('south');
    const { body } = await as('south')('get', `/api/v1/contacts/${EMAIL}`).expect(200);
    const tag = (body as { tags: { key: string; reasons: { words: string }[] }[] }).tags.find(({ key }) => key === 'snag.seen');
    expect(tag?.reasons.map(({ words }) => words)).toEqual(['rule kept to another team']);
    const { body: traced } = await as('south')('get', `/api/app/contacts/${EMAIL}/trace?of=tag&key=snag.seen`).expect(200);
    const titles = (traced as { steps: { title: string }[] }).steps.map(({ title }) => title);
    expect(titles).toContain('Something kept to another team');
    expect(JSON.stringify(traced)).not.toContain(KEPT);
    const tried = await as('south')('post', `/api/v1/contacts/${EMAIL}/try`)
      .send({ type: 'order.placed', data: { order: 'k3', amount: 5, currency: 'SEK' } })
      .expect(200);
    expect(tried.text).not.toContain(KEPT);
  });

  it('shows those of the team their own contacts in it, and how many these are', async () => {
    await handOver('north');
    const { body } = await as('north')('get', '/api/v1/audiences').expect(200);
    const views = (body as { audiences: { key: string; team: string | null; members: number }[] }).audiences;
    expect(views.find(({ key }) => key === KEPT)).toMatchObject({ team: 'North', members: 1 });
    // Of everyone here they look after one.
    expect(views.find(({ key }) => key === 'all')).toMatchObject({ team: null, members: 1 });
    const { body: members } = await as('north')('get', '/api/v1/audiences/all/members').expect(200);
    expect((members as { contacts: { email: string }[] }).contacts.map(({ email }) => email)).toEqual([EMAIL]);
    const { body: everyone } = await as('admin')('get', '/api/v1/audiences/all').expect(200);
    expect((everyone as { members: number }).members).toBeGreaterThan(MARK.people - 2);
    const { body: movements } = await as('north')('get', '/api/v1/audiences/all/movements').expect(200);
    expect(new Set((movements as { movements: { name: string }[] }).movements.map(({ name }) => name)).size).toBe(1);
  });

  it('cannot be read by a scorecard or a stage, which stand with every contact', async () => {
    const refused = await server
      .call('put', '/api/v1/definitions')
      .send({ ladder: [{ key: 'ready', name: 'Ready', position: 90, needs: all(inKept) }] });
    expect([refused.status, refused.text]).toEqual([422, expect.stringContaining('team.told')]);
    await server.define({
      audiences: [{ key: 'open', name: 'Open', kind: 'fixed' }],
      ladder: [{ key: 'ready', name: 'Ready', position: 90, needs: all({ ...inKept, audience: 'open' }) }],
    });
    const later = await server
      .call('put', '/api/v1/definitions')
      .send({ audiences: [{ key: 'open', name: 'Open', kind: 'fixed', team: 'North' }] });
    expect([later.status, later.text]).toEqual([422, expect.stringContaining('Ready rests on Open, which is kept to North')]);
  });

  it('does not work anybody anew when it is given to a team or to all', async () => {
    const before = await server.lastEffect();
    await server.define({ audiences: [{ key: 'all', name: 'All', kind: 'live', condition: all(), team: 'South' }] });
    await handOver('north');
    await as('north')('get', '/api/v1/audiences/all').expect(404);
    await server.define({ audiences: [{ key: 'all', name: 'All', kind: 'live', condition: all() }] });
    await as('north')('get', '/api/v1/audiences/all').expect(200);
    const [row] = await server.database.query<{ n: number }>(
      `select count(*)::int as n from ledger where id > $1 and kind = 'membership'`,
      [before],
    );
    expect(row?.n).toBe(0);
    expect((await server.verify()).differences).toBe(0);
  });
});
