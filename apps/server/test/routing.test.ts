import { type ContactView, type Ledger, type RoutingRehearsal } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { addPerson } from '../src/settings/people.service';
import { ADMIN, event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const [ADA, BO, CY] = ['ada@test.example', 'bo@test.example', 'cy@test.example'];
const DESK = {
  key: 'desk',
  name: 'the desk',
  rows: [
    { key: 'north', if: { kind: 'field', field: 'city', op: 'is', value: 'Saltwick' }, owners: [CY] },
    { key: 'rest', owners: [ADA, BO] },
  ],
  people: [
    { who: ADA, share: 2 },
    { who: CY, perDay: 1 },
  ],
  task: { title: 'Say hello', dueDays: 1 },
};
const SET_UP = {
  fields: [{ key: 'city', name: 'City', of: 'contact', type: 'text' }],
  routing: [DESK],
  rules: [
    {
      key: 'buys',
      name: 'Buys',
      when: { kind: 'signal', type: 'order.placed' },
      then: [{ do: 'assign owner', routing: 'desk' }],
      on: true,
    },
  ],
};

describe('a routing table', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  const order = (email: string) => event('order.placed', email, { order: email, items: [], amount: '1', currency: 'SEK' });
  /** The owners of newcomers who order one after the other. */
  const ownersOf = async (emails: readonly string[]): Promise<readonly (string | null)[]> => {
    for (const email of emails) await server.signals(order(email));
    return Promise.all(emails.map(async (email) => (await contact(email)).owner));
  };
  const fromSaltwick = (email: string) =>
    server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email, fields: { city: 'Saltwick' } }] })
      .expect(200);
  const rehearsed = async (routing: object, who: string, key?: string): Promise<RoutingRehearsal> => {
    const { key: _key, name: _name, ...written } = { key: '', name: '', ...routing };
    const body = { routing: written, who, ...(key ? { key } : {}) };
    return (await server.call('post', '/api/app/routing/rehearse').send(body).expect(200)).body as RoutingRehearsal;
  };

  it('hands out by shares, with the task that goes with it, for whoever got the contact', async () => {
    const owners = await ownersOf(['a@x.example', 'b@x.example', 'c@x.example', 'd@x.example', 'e@x.example', 'f@x.example']);
    expect(owners.filter((owner) => owner === ADA)).toHaveLength(4);
    expect(owners.filter((owner) => owner === BO)).toHaveLength(2);
    expect((await contact('a@x.example')).tasks).toMatchObject([{ title: 'Say hello', for: owners[0] }]);
  });

  it('goes on to the next row when somebody has as many as they take in a day, and comes back the day after', async () => {
    for (const name of ['a', 'b', 'c']) await fromSaltwick(`${name}@s.example`);
    const [first, second] = await ownersOf(['a@s.example', 'b@s.example']);
    expect([first, second]).toEqual([CY, ADA]);
    clock.moveTo(START + DAY);
    expect(await ownersOf(['c@s.example'])).toEqual([CY]);
  });

  it('says so where nobody is free, and gives the contact nobody', async () => {
    await server.define({ routing: [{ ...DESK, people: [ADA, BO].map((who) => ({ who, backOn: '2099-01-01' })) }] });
    expect(await ownersOf(['a@x.example'])).toEqual([null]);
    const { rows } = (await server.call('get', '/api/v1/contacts/a@x.example/ledger').expect(200)).body as Ledger;
    expect(rows.map(({ words }) => words)).toContain('No owner was set: nobody of the desk was free');
    expect((await contact('a@x.example')).tasks).toEqual([]);
  });

  it('is rehearsed over those whom its rules handed out, and says of all what it did with them', async () => {
    await fromSaltwick('s@s.example');
    const emails = ['s@s.example', ...['a', 'b', 'c', 'd', 'e'].map((name) => `${name}@x.example`)];
    const owners = await ownersOf(emails);
    const told = await rehearsed(DESK, 'handed out', 'desk');
    expect(told).toMatchObject({
      contacts: 6,
      nobody: 0,
      rows: [
        { key: 'north', contacts: 1 },
        { key: 'rest', contacts: 5 },
      ],
    });
    for (const { who, contacts, most } of told.people) {
      expect(contacts).toBe(owners.filter((owner) => owner === who).length);
      expect(most).toBe(contacts);
    }
    const away = await rehearsed({ ...DESK, people: [{ who: BO, backOn: '2099-01-01' }] }, 'came', 'desk');
    expect(away.people).toContainEqual({ who: BO, contacts: 0, most: 0 });
    expect(away.people).toContainEqual({ who: ADA, contacts: 5, most: 5 });
    expect((await rehearsed({ rows: DESK.rows.slice(0, 1) }, 'came')).nobody).toBe(5);
    expect(await Promise.all(emails.map(async (email) => (await contact(email)).owner))).toEqual(owners);
  });

  it('hands out to whoever is in a team then, in turn with those who are named', async () => {
    const join = (email: string, team: string | null) =>
      server.database.transaction(async (sql) => {
        await addPerson(sql, { email, name: email, role: 'seller', password: ADMIN.password }, START);
        await sql.query('update person set team = $2 where lower(email) = $1', [email, team]);
      });
    await join('dee@test.example', 'Harbour');
    await join('eve@test.example', 'Harbour');
    await join('fay@test.example', 'Upper');
    const desk = { ...DESK, rows: [{ key: 'all', owners: [ADA], team: 'Harbour' }], people: [] };
    await server.define({ routing: [desk] });
    const owners = await ownersOf(['a@t.example', 'b@t.example', 'c@t.example']);
    expect([...owners].sort()).toEqual([ADA, 'dee@test.example', 'eve@test.example']);
    const rehearsal = await rehearsed(desk, 'came');
    expect(rehearsal.people.map(({ who }) => who).sort()).toEqual([ADA, 'dee@test.example', 'eve@test.example']);
    // Of a team alone, as it is then: whoever left it gets no more.
    await server.define({ routing: [{ ...desk, rows: [{ key: 'all', owners: [], team: 'Harbour' }] }] });
    await server.database.query(`update person set team = 'Upper' where lower(email) = 'dee@test.example'`);
    expect(await ownersOf(['d@t.example', 'e@t.example'])).toEqual(['eve@test.example', 'eve@test.example']);
    // Nobody is in it: then nobody is free.
    await server.database.query(`update person set team = null where team = 'Harbour'`);
    expect(await ownersOf(['f@t.example'])).toEqual([null]);
    const refused = await server.call('put', '/api/v1/definitions').send({ routing: [{ ...desk, rows: [{ key: 'all', owners: [] }] }] });
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([422, expect.stringContaining('somebody, or a team')]);
  });
});
